import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/seeded-random.js';
import type { TerrainLine } from '../terrain/index.js';
import { insideAndOutside, layLines, naturalNeighbours } from './index.js';

const FRAME = { east: 1000, north: 2000, cell: 0.5, columns: 80, rows: 60 };
const centre = (at: number): [number, number] => [
  1000 + ((at % 80) + 0.5) * 0.5,
  2000 + (Math.floor(at / 80) + 0.5) * 0.5,
];
const square = (role: TerrainLine['role'], west: number, south: number, side: number, z = NaN): TerrainLine => ({
  role,
  easting: [west, west + side, west + side, west],
  northing: [south, south, south + side, south + side],
  elevation: [z, z, z, z],
  isClosed: true,
});

describe('natural neighbours', () => {
  const random = seededRandom(6);
  const count = 700;
  const [e, n] = [0, 1].map((axis) =>
    Float64Array.from({ length: count }, () => (axis === 0 ? 1000 + 40 * random() : 2000 + 30 * random())),
  ) as [Float64Array, Float64Array];
  const plane = (east: number, north: number): number => 5 + 0.2 * (east - 1000) - 0.1 * (north - 2000);

  test('follow a plane within two thirds of the rise over a point spacing; never leave the range of the points', () => {
    const z = Float64Array.from(e, (east, i) => plane(east, n[i]!));
    const grid = naturalNeighbours(e, n, z, FRAME, 40);
    let worst = 0;
    for (let at = 0; at < grid.length; at++) {
      const [east, north] = centre(at);
      if (east < 1004 || east > 1036 || north < 2004 || north > 2026) continue;
      worst = Math.max(worst, Math.abs(grid[at]! - plane(east, north)));
    }
    // Points lie 1.3 apart, 0.3 in elevation.
    expect(worst).toBeLessThan(0.2);
    expect(grid.reduce((a, b) => Math.max(a, b))).toBeLessThanOrEqual(z.reduce((a, b) => Math.max(a, b)) + 1e-4);
  });

  test('are the point itself where it lies in the middle of a cell, and nothing beyond their reach', () => {
    const grid = naturalNeighbours(Float64Array.of(1010.25), Float64Array.of(2010.25), Float64Array.of(7), FRAME, 6);
    expect(grid[20 * 80 + 20]).toBe(7);
    expect(grid[20 * 80 + 26]).toBe(7);
    expect(grid[20 * 80 + 27]).toBeNaN();
  });
});

describe('two treatments in one grid', () => {
  const inside = new Float32Array(4800).fill(10);
  const outside = new Float32Array(4800).fill(12);
  const road = [square('boundary', 1010, 2005, 20)];

  test('go over into each other across the seam without a step', () => {
    const grid = insideAndOutside(inside, outside, FRAME, road, 4);
    const row = 30;
    const across = Array.from({ length: 80 }, (_, c) => grid[row * 80 + c]!);
    expect(across[2]).toBe(12);
    expect(across[40]).toBe(10);
    for (let c = 1; c < 80; c++) expect(Math.abs(across[c]! - across[c - 1]!)).toBeLessThanOrEqual(0.2500001);
    // Half way on the outline itself: cells either side of it lie a quarter metre off.
    expect((across[19]! + across[20]!) / 2).toBeCloseTo(11, 6);
  });

  test('with no seam change at the outline; where one has nothing the other stands', () => {
    const sharp = insideAndOutside(inside, outside, FRAME, road, 0);
    expect([sharp[30 * 80 + 19], sharp[30 * 80 + 20]]).toEqual([12, 10]);
    const empty = insideAndOutside(new Float32Array(4800).fill(NaN), outside, FRAME, road, 4);
    expect(empty.every((z) => z === 12)).toBe(true);
  });
});

test('water lies flat at its level, breaklines are burnt in with their own elevations', () => {
  const grid = new Float32Array(4800).fill(5);
  const ditch: TerrainLine = { role: 'breakline', easting: [1001, 1039], northing: [2003.2, 2003.2], elevation: [2, 4], isClosed: false }; // prettier-ignore
  expect(layLines(grid, FRAME, [square('water', 1010, 2010, 10, 3.5), ditch])).toBeGreaterThan(400);
  expect(grid[30 * 80 + 30]).toBe(3.5);
  expect(grid[2 * 80 + 2]).toBe(5);
  expect(grid[6 * 80 + 40]).toBeCloseTo(3, 1);
  // Every cell the line runs through.
  for (let c = 2; c < 78; c++) expect(grid[6 * 80 + c]).toBeLessThan(4.01);
});

test('flowing water is level across and falls along; an island in it stays as it is; a contour by hand is burnt in', () => {
  const grid = new Float32Array(4800).fill(5);
  // A channel 8 wide along the easting, falling from 4 to 2.
  const channel: TerrainLine = { role: 'river', easting: [1002, 1038, 1038, 1002], northing: [2010, 2010, 2018, 2018], elevation: [4, 2, 2, 4], isClosed: true }; // prettier-ignore
  const island: TerrainLine = { ...square('water', 1020, 2012, 4, 3), isIsland: true };
  const contour: TerrainLine = { role: 'contour', easting: [1001, 1039], northing: [2025.2, 2025.2], elevation: [6, 6], isClosed: false }; // prettier-ignore
  layLines(grid, FRAME, [channel, island, contour]);
  const at = (e: number, n: number): number => grid[Math.floor((n - 2000) / 0.5) * 80 + Math.floor((e - 1000) / 0.5)]!;
  for (const e of [1008, 1016, 1032]) {
    const wanted = 4 - (2 * (e + 0.25 - 1002)) / 36;
    for (const n of [2011, 2014, 2017]) expect(at(e, n)).toBeCloseTo(wanted, 1);
  }
  expect(at(1022, 2014)).toBe(5);
  expect(at(1010, 2009)).toBe(5);
  expect(at(1020, 2025)).toBe(6);
});
