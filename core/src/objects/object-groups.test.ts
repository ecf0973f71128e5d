import { describe, expect, test } from 'vitest';
import { groupObjects, type GroundModel } from './index.js';

const FRAME = { east: 100, north: 200, cell: 1, columns: 30, rows: 20 };
const level: GroundModel = { ...FRAME, elevation: new Float64Array(600).fill(50) };

function cellsOf(isIn: (column: number, row: number) => boolean, perCell: number) {
  const count = Uint32Array.from({ length: 600 }, (_, i) => (isIn(i % 30, Math.floor(i / 30)) ? perCell : 0));
  return { ...FRAME, count, highest: Float64Array.from(count, (n) => (n > 0 ? 56 : -Infinity)) };
}

describe('objects grouped', () => {
  test('a house of 8 by 5 cells and a shed of 2 by 2: place, height, area, points; the doubtful one first', () => {
    const cells = cellsOf(
      (c, r) => (c >= 3 && c < 11 && r >= 4 && r < 9) || (c >= 20 && c < 22 && r >= 10 && r < 12),
      3,
    );
    const [shed, house] = groupObjects(6, cells, cells.count, level, 4);
    expect(house).toMatchObject({ points: 120, area: 40, height: 6, width: 8, elevation: 50, confidence: 1 });
    expect([house!.easting, house!.northing]).toEqual([107, 206.5]);
    expect(house!.footprint).toHaveLength(4);
    expect(shed!.points).toBe(12);
    expect(shed!.confidence).toBeLessThan(0.6);
  });

  test('what stands among points of other classes is less sure', () => {
    const cells = cellsOf((c, r) => c >= 3 && c < 11 && r >= 4 && r < 9, 3);
    const mixed = cells.count.map((n) => n * 4);
    expect(groupObjects(6, cells, mixed, level, 4)[0]!.confidence).toBeCloseTo(0.25, 6);
  });

  test('an L is not compact; a few points are no object', () => {
    const cells = cellsOf((c, r) => (c >= 3 && c < 13 && r === 4) || (c === 3 && r >= 4 && r < 14), 9);
    expect(groupObjects(6, cells, cells.count, level, 4)[0]!.confidence).toBeLessThan(0.6);
    expect(groupObjects(5, cells, cells.count, level, 4)[0]!.confidence).toBe(1);
    expect(groupObjects(5, cells, cells.count, level, 1000)).toEqual([]);
  });
});
