import { describe, expect, test } from 'vitest';
import { gridToAscii, readAsciiGrid } from '../formats/ascii-grid/index.js';
import { gridToTin, meshToTin, sampleTin, tinFacts } from './index.js';

describe('surfaces as a file has them', () => {
  const corners = {
    easting: [500_000, 500_010, 500_010, 500_000, 500_010, 500_010.00001],
    northing: [6_000_000, 6_000_000, 6_000_010, 6_000_010, 6_000_000, 6_000_010],
    elevation: [1, 2, 3, 2, 2, 3],
  };

  test('keep their triangles, either way round; corners in one place are one', () => {
    // The second triangle is told by corners of its own, clockwise.
    const { tin, report } = meshToTin(corners, [
      [0, 1, 2],
      [0, 3, 5],
    ]);
    expect(report).toEqual({ duplicatesDropped: 2, facetsLeftOut: 0 });
    expect(tinFacts(tin)).toMatchObject({ points: 4, facets: 2, lowest: 1, highest: 3 });
    expect(tinFacts(tin).areaInPlan).toBeCloseTo(100, 6);
    expect([...tin.twins].filter((twin) => twin >= 0)).toHaveLength(2);
  });

  test('leave out triangles without area and a second one on the same side of a side', () => {
    const { report } = meshToTin(corners, [
      [0, 1, 2],
      [0, 1, 1],
      [0, 1, 3],
    ]);
    expect(report.facetsLeftOut).toBe(2);
    expect(() => meshToTin(corners, [[0, 1, 1]])).toThrow(/no triangle/);
    expect(() => meshToTin({ ...corners, elevation: [NaN, 2, 3, 2, 2, 3] }, [[0, 1, 2]])).toThrow(/Vertex 1/);
  });

  test('a grid becomes a surface through its cells’ centres, with its voids', () => {
    const frame = { east: 500_000, north: 6_000_000, cell: 2, columns: 20, rows: 15 };
    const values = Float32Array.from({ length: 300 }, (_, at) => (at % 20) / 2 + Math.floor(at / 20));
    values[7 * 20 + 9] = NaN;
    const tin = gridToTin(values, frame);
    expect(tinFacts(tin).facets).toBe(2 * (19 * 14 - 4));
    const back = sampleTin(tin, frame);
    for (let at = 0; at < 300; at++) if (!Number.isNaN(values[at]!)) expect(back[at]).toBeCloseTo(values[at]!, 4);
    expect(back[7 * 20 + 9]).toBeNaN();
  });

  test('an ASCII grid is read as it was written; what is wrong with one is said', () => {
    const frame = { east: 500_000.5, north: 6_000_000, cell: 0.5, columns: 4, rows: 3 };
    const values = Float32Array.of(1, 2, 3, 4, 5, NaN, 7, 8, 9, 10, 11, 12.25);
    const text = [...gridToAscii(values, frame)].join('');
    expect(readAsciiGrid(text, 'a.asc')).toEqual({ values, frame });
    expect(readAsciiGrid(text.replace('xllcorner 500000.5', 'XLLCENTER 500000.75'), 'a.asc').frame.east).toBe(
      500_000.5,
    );
    expect(() => readAsciiGrid(text.slice(0, -12), 'a.asc')).toThrow(/ends after/);
    expect(() => readAsciiGrid(text.replace('12.2500', 'x'), 'a.asc')).toThrow(/“x” is no figure/);
    expect(() => readAsciiGrid('hello', 'a.asc')).toThrow(/a\.asc cannot be read/);
  });
});
