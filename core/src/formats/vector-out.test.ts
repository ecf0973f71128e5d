import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import { triangulate } from '../terrain/index.js';
import { spotsToDxf, surfaceToDxf } from './dxf/index.js';
import { readCodedLines, readGeoJsonLines } from './lines/index.js';
import { validateBytes } from 'gltf-validator';
import { surfaceToGlb, surfaceToPly } from './mesh/index.js';
import { polylinesToShapefile } from './shapefile/index.js';

const folder = mkdtempSync(join(tmpdir(), 'pampero-vectors-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const ogr = (file: string): string => execFileSync('/usr/bin/ogrinfo', ['-al', file], { maxBuffer: 1e8 }).toString();

const random = seededRandom(12);
const places = Array.from(
  { length: 60 },
  () => [5e6 + 100 * random(), 6e6 + 80 * random(), 30 + 4 * random()] as const,
);
const of = (axis: 0 | 1 | 2): Float64Array => Float64Array.from(places, (p) => p[axis]);
const { tin } = triangulate(of(0), of(1), of(2));

describe('read back by OGR', () => {
  test('a Shapefile of lines with elevations and attributes', () => {
    const { shp, shx, dbf } = polylinesToShapefile([
      {
        easting: [5_512_000.25, 5_512_010.5, 5_512_030],
        northing: [6_150_000, 6_150_004.125, 6_150_001],
        elevation: [31.25, 31.25, 31.25],
        attributes: { elevation: 31.25, is_index: 1, unit: 'm', source: 'Ground, thinned' },
      },
      {
        easting: [0, 1],
        northing: [0, 1],
        elevation: [2, 3],
        attributes: { elevation: 2, is_index: 0, unit: 'm', source: 'Ground' },
      },
    ]);
    const file = join(folder, 'lines.shp');
    writeFileSync(file, shp);
    writeFileSync(join(folder, 'lines.shx'), shx);
    writeFileSync(join(folder, 'lines.dbf'), dbf);
    const text = ogr(file);
    expect(text).toContain('3D Line String');
    expect(text).toContain('Feature Count: 2');
    expect(text).toMatch(
      /LINESTRING Z \(5512000\.25 6150000(\.0)? 31\.25,5512010\.5 6150004\.125 31\.25,5512030 6150001 31\.25\)/,
    );
    expect(text).toMatch(/elevation \(Real\) = 31\.25/);
    expect(text).toMatch(/source \(String\) = Ground, thinned/);
  });

  test('a DXF of 3D faces: as many as there are triangles, in place', () => {
    const file = join(folder, 'faces.dxf');
    writeFileSync(file, [...surfaceToDxf(tin, 'metre')].join(''));
    const text = ogr(file);
    expect(text).toContain(`Feature Count: ${tin.facets.length / 3}`);
    expect(text).toContain('SURFACE-FACES');
    expect(text).toMatch(/POLYGON Z \(\(50000\d\d\.\d+ 60000\d\d\.\d+ 3\d\.\d+/);
  });
});

const ONE_PIXEL =
  '/9j/2wBDABALDA4MChAODQ4SERATGCgaGBYWGDEjJR0oOjM9PDkzODdASFxOQERXRTc4UG1RV19iZ2hnPk1xeXBkeFxlZ2P/2wBDARESEhgVGC8aGi9jQjhCY2NjY2NjY2NjY2NjY2NjY2NjY2NjY2NjY2NjY2NjY2NjY2NjY2NjY2NjY2NjY2NjY2P/wAARCAABAAEDASIAAhEBAxEB/8QAFQABAQAAAAAAAAAAAAAAAAAAAAP/xAAUEAEAAAAAAAAAAAAAAAAAAAAA/8QAFAEBAAAAAAAAAAAAAAAAAAAAAP/EABQRAQAAAAAAAAAAAAAAAAAAAAD/2gAMAwEAAhEDEQA/AKAA/9k=';

describe('numbered points', () => {
  test('as DXF: a point, its number and its elevation on layers of their own', () => {
    const file = join(folder, 'spots.dxf');
    const points = [
      { number: 'P101', easting: 5_512_000.5, northing: 6_150_000.25, elevation: 31.125, code: 'GND' },
      { number: 'P102', easting: 5_512_010, northing: 6_150_004, elevation: 31.5, code: 'GND' },
    ];
    writeFileSync(
      file,
      [...spotsToDxf(points, { layer: 'Spots north', textHeight: 0.5, decimals: 3, unit: 'us-survey-foot' })].join(''),
    );
    const text = ogr(file);
    expect(text).toContain('Feature Count: 6');
    expect(text).toMatch(/Layer \(String\) = SPOTS-NORTH\n/);
    expect(text).toMatch(/Text \(String\) = P101/);
    expect(text).toMatch(/POINT Z \(5512000\.5 6150000\.25 31\.125\)/);
  });
});

describe('meshes', () => {
  test('a PLY holds every corner in full and every triangle', () => {
    const bytes = surfaceToPly(tin);
    const text = new TextDecoder('latin1').decode(bytes);
    const head = text.slice(0, text.indexOf('end_header\n') + 11);
    expect(head).toContain(`element vertex ${tin.easting.length}`);
    expect(head).toContain(`element face ${tin.facets.length / 3}`);
    expect(bytes.length).toBe(head.length + 24 * tin.easting.length + (13 * tin.facets.length) / 3);
    expect(new DataView(bytes.buffer).getFloat64(head.length, true)).toBeCloseTo(tin.easting[0]! + tin.origin[0], 9);
  });

  test('a GLB is a glTF 2.0 container whose lengths and bounds agree', () => {
    const bytes = surfaceToGlb(tin, { name: 'Ground', metresPerUnit: 1 });
    const view = new DataView(bytes.buffer);
    expect([view.getUint32(0, true), view.getUint32(4, true), view.getUint32(8, true)]).toEqual([
      0x46546c67,
      2,
      bytes.length,
    ]);
    const jsonLength = view.getUint32(12, true);
    const json = JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + jsonLength))) as {
      accessors: { count: number; min?: number[]; max?: number[] }[];
      buffers: { byteLength: number }[];
      extras: { easting: number };
    };
    expect(json.accessors.map(({ count }) => count)).toEqual([
      tin.easting.length,
      tin.easting.length,
      tin.facets.length,
    ]);
    expect(json.accessors[0]!.max![1]! - json.accessors[0]!.min![1]!).toBeLessThanOrEqual(4);
    expect(json.buffers[0]!.byteLength).toBe(view.getUint32(20 + jsonLength, true));
    expect(json.extras.easting).toBe(tin.origin[0]);
  });
});

// Held against the validator of the standard's own authors (glTF 2.0).
describe('a GLB by the validator of glTF', () => {
  const issuesOf = async (bytes: Uint8Array): Promise<{ errors: number; warnings: number; first: unknown }> => {
    const { issues } = await validateBytes(bytes);
    return { errors: issues.numErrors, warnings: issues.numWarnings, first: issues.messages[0] };
  };

  test('is without fault, plain and with a picture over it', async () => {
    const about = { name: 'Ground', metresPerUnit: 0.3048 };
    expect(await issuesOf(surfaceToGlb(tin, about))).toEqual({ errors: 0, warnings: 0, first: undefined });
    // The smallest grey JPEG there is: one pixel.
    const jpeg = Uint8Array.from(Buffer.from(ONE_PIXEL, 'base64'));
    const land = { west: 500_000, south: 600_000, east: 500_100, north: 600_100 };
    const dressed = surfaceToGlb(tin, about, { jpeg, ...land });
    expect(await issuesOf(dressed)).toEqual({ errors: 0, warnings: 0, first: undefined });
    expect(dressed.length).toBeGreaterThan(surfaceToGlb(tin, about).length + jpeg.length + 8 * tin.easting.length);
  });

  test('one that is cut is found out', async () => {
    const whole = surfaceToGlb(tin, { name: 'Ground', metresPerUnit: 1 });
    expect((await issuesOf(whole.subarray(0, whole.length - 40))).errors).toBeGreaterThan(0);
  });
});

describe('lines in', () => {
  test('GeoJSON lines and polygons, elevations kept where there are some', () => {
    const text = JSON.stringify({
      type: 'FeatureCollection',
      features: [
        { type: 'Feature', properties: { layer: 'TOE' }, geometry: { type: 'LineString', coordinates: [[1, 2, 3], [4, 5]] } }, // prettier-ignore
        { type: 'Feature', properties: null, geometry: { type: 'Polygon', coordinates: [[[0, 0], [9, 0], [9, 9], [0, 0]]] } }, // prettier-ignore
      ],
    });
    const [line, ring] = readGeoJsonLines(text, 'x.geojson');
    expect(line).toEqual({ easting: [1, 4], northing: [2, 5], elevation: [3, NaN], isClosed: false, layer: 'TOE' });
    expect([ring!.easting, ring!.isClosed]).toEqual([[0, 9, 9], true]);
  });

  test('a list by codes: a code that comes back is another line', () => {
    const text = '1,10,100,5,TB\n2,11,101,5.1,TB\n3,0,0,1,CHK\n4,20,100,6,TB\n5,21,101,6.1,TB\n';
    const lines = readCodedLines(text, 'PNEZD', 'list.csv');
    expect(lines.map(({ layer, easting }) => [layer, easting])).toEqual([
      ['TB', [100, 101]],
      ['TB', [100, 101]],
    ]);
  });

  test.each([
    ['{', 'lines-unreadable'],
    ['{"type":"Point","coordinates":[1,2]}', 'no-lines'],
    ['{"type":"LineString","coordinates":[[1,2],["a",3]]}', 'coordinate-wrong'],
  ])('%s is told', (text, code) => {
    expect(() => readGeoJsonLines(text, 'x.geojson')).toThrow(expect.objectContaining({ code }) as Error);
  });
});
