import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { PamperoError } from '../../task/index.js';
import { readDxfEntities, type DxfEntity } from './dxf-entities.js';
import { readDxfLines } from './dxf-lines.js';

/** Groups as the DXF reference of release 12 has them: a code and a value, a line each. */
const drawing = (...entities: (string | number)[][]): string =>
  [[0, 'SECTION', 2, 'ENTITIES'], ...entities, [0, 'ENDSEC', 0, 'EOF']].flat().join('\n') + '\n';
const read = (text: string): DxfEntity[] => [...readDxfEntities(text, 'site.dxf')];
const refused = (text: string): PamperoError => {
  try {
    read(text);
  } catch (error) {
    expect(error).toBeInstanceOf(PamperoError);
    return error as PamperoError;
  }
  throw new Error('It was read.');
};

const LINE = [0, 'LINE', 8, 'BANK', 10, 1, 20, 2, 30, 3, 11, 4, 21, 5, 31, 6];
const LIGHT = [0, 'LWPOLYLINE', 8, 'EDGE', 90, 3, 70, 1, 38, 7.5, 10, 0, 20, 0, 10, 10, 20, 0, 10, 10, 20, 10];
const HEAVY = [0, 'POLYLINE', 8, 'CREST', 66, 1, 70, 8, 10, 0, 20, 0, 30, 0];
const vertex = (x: number, y: number, z: number, flags = 32): (string | number)[] => [
  0,
  'VERTEX',
  8,
  'CREST',
  10,
  x,
  20,
  y,
  30,
  z,
  70,
  flags,
];
const SEQEND = [0, 'SEQEND'];
const FACE = [
  0,
  '3DFACE',
  8,
  'TIN',
  10,
  0,
  20,
  0,
  30,
  1,
  11,
  1,
  21,
  0,
  31,
  2,
  12,
  0,
  22,
  1,
  32,
  3,
  13,
  0,
  23,
  1,
  33,
  3,
];

describe('entities of a drawing', () => {
  test('lines, polylines of both kinds and faces, with layers, closings and elevations', () => {
    expect(read(drawing(LINE, LIGHT, HEAVY, vertex(1, 1, 1), vertex(2, 2, 2), SEQEND, FACE))).toEqual([
      {
        type: 'LINE',
        layer: 'BANK',
        isClosed: false,
        vertices: [
          { x: 1, y: 2, z: 3 },
          { x: 4, y: 5, z: 6 },
        ],
      },
      {
        type: 'LWPOLYLINE',
        layer: 'EDGE',
        isClosed: true,
        vertices: [
          { x: 0, y: 0, z: 7.5 },
          { x: 10, y: 0, z: 7.5 },
          { x: 10, y: 10, z: 7.5 },
        ],
      },
      {
        type: 'POLYLINE',
        layer: 'CREST',
        isClosed: false,
        vertices: [
          { x: 1, y: 1, z: 1 },
          { x: 2, y: 2, z: 2 },
        ],
      },
      {
        type: '3DFACE',
        layer: 'TIN',
        isClosed: false,
        vertices: [
          { x: 0, y: 0, z: 1 },
          { x: 1, y: 0, z: 2 },
          { x: 0, y: 1, z: 3 },
          { x: 0, y: 1, z: 3 },
        ],
      },
    ]);
  });

  test('what is none of those, lies in a block or is a mesh is passed over', () => {
    const block = [0, 'SECTION', 2, 'BLOCKS', ...LINE, 0, 'ENDSEC'];
    const mesh = [[0, 'POLYLINE', 8, 'M', 66, 1, 70, 64], vertex(0, 0, 0, 192), SEQEND].flat();
    const mark = [0, 'POINT', 8, '0', 10, 5, 20, 5];
    const text = [...block, ...[0, 'SECTION', 2, 'ENTITIES'], ...mesh, ...mark, ...LINE, 0, 'ENDSEC', 0, 'EOF'].join(
      '\n',
    );
    expect(read(text).map(({ type }) => type)).toEqual(['LINE']);
  });

  test('control points of a fitted spline are no vertices; comments and Windows line ends do no harm', () => {
    const spline = [
      [0, 'POLYLINE', 8, 'S', 66, 1, 70, 4 + 8],
      vertex(9, 9, 9, 16),
      vertex(1, 1, 1, 8),
      vertex(2, 2, 2, 8),
      SEQEND,
    ].flat();
    const text = `999\nwritten by hand\n${drawing(spline)}`.replaceAll('\n', '\r\n');
    expect(read(text)[0]!.vertices).toEqual([
      { x: 1, y: 1, z: 1 },
      { x: 2, y: 2, z: 2 },
    ]);
  });

  test('a flat polyline that was drawn from below is turned over, and one with its own level lies on it', () => {
    expect(read(drawing([...LIGHT, 230, -1]))[0]!.vertices[1]).toEqual({ x: -10, y: 0, z: 7.5 });
    const flat = [
      [0, 'POLYLINE', 8, 'F', 66, 1, 70, 0, 10, 0, 20, 0, 30, 12.25],
      [0, 'VERTEX', 10, 1, 20, 1],
      [0, 'VERTEX', 10, 2, 20, 1],
      SEQEND,
    ].flat();
    expect(read(drawing(flat))[0]!.vertices.map(({ z }) => z)).toEqual([12.25, 12.25]);
  });

  test('reads what OGR writes, vertex for vertex', () => {
    const folder = mkdtempSync(join(tmpdir(), 'pampero-dxf-'));
    try {
      const places = Array.from({ length: 40 }, (_, k) => [
        5_512_000 + 3.25 * k,
        6_150_000 + 10 * Math.sin(k),
        20 + k / 8,
      ]);
      const geojson = {
        type: 'FeatureCollection',
        features: [{ type: 'Feature', properties: {}, geometry: { type: 'LineString', coordinates: places } }],
      };
      writeFileSync(join(folder, 'a.geojson'), JSON.stringify(geojson));
      execFileSync('ogr2ogr', ['-f', 'DXF', join(folder, 'a.dxf'), join(folder, 'a.geojson')], { stdio: 'ignore' });
      const [line] = readDxfLines(readFileSync(join(folder, 'a.dxf'), 'utf8'), 'a.dxf');
      expect(line!.easting).toHaveLength(40);
      places.forEach(([e, n, z], k) => {
        expect(line!.easting[k]).toBeCloseTo(e!, 6);
        expect(line!.northing[k]).toBeCloseTo(n!, 6);
        expect(line!.elevation[k]).toBeCloseTo(z!, 6);
      });
    } finally {
      rmSync(folder, { recursive: true });
    }
  });
});

describe('a drawing that is damaged', () => {
  test('a table, section or polyline that never ends does not go on for ever', () => {
    const endless = [
      '0\nSECTION\n2\nTABLES\n0\nTABLE\n2\nLAYER\n70\n1\n0\nLAYER\n2\nX\n',
      '0\nSECTION\n2\nHEADER\n9\n$ACADVER\n',
      `0\nSECTION\n2\nENTITIES\n${[...HEAVY, ...vertex(1, 1, 1)].join('\n')}\n`,
      '0\nSECTION\n',
    ];
    for (const text of endless) expect(refused(text)).toMatchObject({ code: 'file-ends-early' });
    // Where only the end of the polyline is missing, what follows ends it.
    expect(read(drawing(HEAVY, vertex(1, 1, 1), vertex(2, 2, 2), LINE))).toHaveLength(2);
  });

  test('says which line is wrong', () => {
    expect(refused(drawing([...LINE, 'BANK']))).toMatchObject({ code: 'not-this-format', where: 'line 21' });
    expect(refused(drawing([0, 'LINE', 10, 'NaN', 20, 1])).what).toMatch(/“NaN” is no number/);
    expect(refused(drawing([0, 'LINE', 10, 1, 11, 2, 21, 2])).what).toMatch(/vertex 1 of the LINE here has no place/);
    expect(refused('a picture\nof something').what).toMatch(/“a picture” is no group code/);
    expect(() => readDxfLines(drawing(FACE), 'site.dxf')).toThrow(/holds no lines or polylines/);
  });

  test('whatever is cut out of it or put in, it is read or refused in words, each line once', () => {
    const whole = drawing(LINE, LIGHT, HEAVY, vertex(1, 1, 1), vertex(2, 2, 2), SEQEND, FACE);
    fc.assert(
      fc.property(fc.nat(whole.length), fc.nat(40), fc.string({ maxLength: 12 }), (at, cut, more) => {
        const text = whole.slice(0, at) + more + whole.slice(at + cut);
        try {
          for (const { vertices } of readDxfEntities(text, 'x'))
            for (const { x, y, z } of vertices) expect(Number.isFinite(x + y + z)).toBe(true);
        } catch (error) {
          expect(error).toBeInstanceOf(PamperoError);
        }
      }),
      { numRuns: 2000 },
    );
  });
});
