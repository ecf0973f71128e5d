import { describe, expect, test } from 'vitest';
import { groundPlanes, newNearSums, type NearSums } from './ground-planes.js';
import { refuseLonePatches } from './lone-patches.js';
import { newLowestRaster, type LowestRaster } from './lowest-raster.js';

const SIDE = 40;
const FRAME = { east: 0, north: 0, cell: 1, columns: SIDE, rows: SIDE };
const MILLIMETRES = { scale: [0.001, 0.001, 0.001], offset: [0, 0, 0] } as const;
const TOLERANCE = 0.06;

interface Seen {
  /** Points near the surface, their height; and those that grow over it. */
  readonly count?: number;
  readonly height?: number;
  readonly over?: number;
  /** Of the cell's lowest point, where that is not near the surface. */
  readonly lowest?: number | undefined;
}

/** A metre raster of a slope of one in five, six points a cell, otherwise where `change` says so. */
function seen(
  change: (column: number, row: number) => Seen | undefined,
  land = (column: number, row: number): number => 50 + 0.2 * column + 0.02 * row,
): { near: NearSums; raster: LowestRaster } {
  const near = newNearSums(FRAME);
  const raster = newLowestRaster(FRAME);
  for (let i = 0; i < SIDE * SIDE; i++) {
    const [column, row] = [i % SIDE, Math.floor(i / SIDE)];
    const { count = 6, height = land(column, row), over = 0, lowest } = change(column, row) ?? {};
    near.count[i] = count;
    near.over[i] = over;
    near.x[i] = count * (column + 0.5) * 1000;
    near.y[i] = count * (row + 0.5) * 1000;
    near.z[i] = count * Math.round(height * 1000);
    if (count > 0 || lowest !== undefined) raster.lowest[i] = lowest ?? height;
  }
  return { near, raster };
}

function refused({ near, raster }: { near: NearSums; raster: LowestRaster }, metresPerUnit = 1): string[] {
  const before = raster.lowest.slice();
  const emptied = refuseLonePatches(raster, groundPlanes(near, MILLIMETRES), near, TOLERANCE, metresPerUnit);
  const cells = [...before.keys()].filter((i) => before[i] !== raster.lowest[i]);
  expect(cells).toHaveLength(emptied);
  return cells.map((i) => `${i % SIDE},${Math.floor(i / SIDE)}`);
}

describe('patches that nothing bears out', () => {
  test('wrong matches under a photographed crown, in the middle of a gap of twelve metres', () => {
    const under = (c: number, r: number): Seen | undefined => {
      if ((c === 20 || c === 21) && r === 20) return { count: 4, height: 52 };
      return Math.hypot(c - 20, r - 20) < 6 ? { count: 0 } : undefined;
    };
    expect(refused(seen(under))).toEqual(['20,20', '21,20']);
  });

  test('false points that the first surface went past, before the next falls into them; what stands high is left to it', () => {
    const under = (c: number, r: number): Seen | undefined => {
      if (Math.hypot(c - 20, r - 20) >= 6) return undefined;
      return { count: 0, lowest: c === 19 && r === 20 ? 52 : c === 22 && r === 20 ? 61 : undefined };
    };
    expect(refused(seen(under))).toEqual(['19,20']);
  });

  test('a few points on a bush, more of which stands over them', () => {
    const bush = (c: number, r: number): Seen | undefined =>
      c === 12 && r === 30 ? { count: 2, height: 50 + 0.2 * 12 + 0.6 + 0.7, over: 5 } : undefined;
    expect(refused(seen(bush))).toEqual(['12,30']);
  });

  test('a pit and a mound that are bare all over are land', () => {
    const both = (c: number, r: number): Seen | undefined =>
      c === 12 && r === 30 ? { height: 50 } : c === 30 && r === 12 ? { height: 58 } : undefined;
    expect(refused(seen(both))).toEqual([]);
  });

  test('a bank that goes on, a wall and land in steps are left, whatever grows there', () => {
    const overgrown = (): Seen => ({ over: 20 });
    expect(refused(seen(overgrown, (c) => 50 + Math.max(0, 1.5 - Math.abs(c - 20) * 0.5)))).toEqual([]);
    expect(refused(seen(overgrown, (c) => (c > 20 ? 53 : 50)))).toEqual([]);
    expect(refused(seen(overgrown, (c, r) => 50 + 2 * Math.floor((c + r / 3) / 4)))).toEqual([]);
  });

  test('a patch as wide as a small roof is not for this rule', () => {
    const wide = (c: number, r: number): Seen | undefined =>
      c >= 18 && c < 22 && r >= 18 && r < 22 ? { count: 2, height: 56, over: 9 } : undefined;
    expect(refused(seen(wide))).toEqual([]);
  });

  test('at the edge of the cloud, where one side is unknown, nothing is said', () => {
    const corner = (c: number, r: number): Seen | undefined =>
      c === 0 && r === 0 ? { count: 1, height: 48, over: 4 } : undefined;
    expect(refused(seen(corner))).toEqual([]);
  });

  test('in feet a patch stands out by as many feet as 0.3 m are', () => {
    // Cells of a foot: 0.7 ft is within what land does, 1.5 ft is not.
    const by = (feet: number) => (c: number, r: number) =>
      c === 20 && r === 20 ? { count: 1, height: 50 + 0.2 * 20 + 0.4 + feet, over: 5 } : undefined;
    expect(refused(seen(by(0.7)), 0.3048)).toEqual([]);
    expect(refused(seen(by(1.5)), 0.3048)).toEqual(['20,20']);
  });
});
