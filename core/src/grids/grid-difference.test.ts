import { describe, expect, test } from 'vitest';
import { gridAt, gridDifference } from './index.js';

const plane = (e: number, n: number): number => 10 + 0.3 * e - 0.2 * n;
function gridOf(east: number, north: number, cell: number, columns: number, rows: number, of = plane) {
  const values = Float32Array.from({ length: columns * rows }, (_, k) =>
    of(east + ((k % columns) + 0.5) * cell, north + (Math.floor(k / columns) + 0.5) * cell),
  );
  return { values, frame: { east, north, cell, columns, rows } };
}

describe('a grid less another', () => {
  test('of one plane on different cells is nothing where both are', () => {
    const [one, other] = [gridOf(0, 0, 1, 20, 10), gridOf(-0.35, -3.1, 0.7, 40, 30)];
    const off = gridDifference(one.values, one.frame, other.values, other.frame);
    expect(off.every((d) => Math.abs(d) < 2e-5)).toBe(true);
  });

  test('on the same cells is the difference cell by cell, to the rim', () => {
    const one = gridOf(5, 7, 0.5, 12, 9);
    const other = gridOf(5, 7, 0.5, 12, 9, (e, n) => plane(e, n) - 0.25);
    const off = gridDifference(one.values, one.frame, other.values, other.frame);
    expect(off.some((d) => Number.isNaN(d))).toBe(false);
    expect(Math.max(...off.map((d) => Math.abs(d - 0.25)))).toBeLessThan(1e-5);
  });

  test('nothing is made up where either has no value', () => {
    const one = gridOf(0, 0, 1, 6, 6);
    const other = gridOf(0, 0, 1, 6, 6);
    one.values[0] = NaN;
    other.values[35] = NaN;
    const off = gridDifference(one.values, one.frame, other.values, other.frame);
    expect([...off.keys()].filter((k) => Number.isNaN(off[k]!))).toEqual([0, 35]);
    expect(gridAt(other.values, other.frame, 5.2, 5.2)).toBeNaN();
    expect(gridAt(other.values, other.frame, 4.5, 4.5)).toBeCloseTo(plane(4.5, 4.5), 5);
    expect(gridAt(other.values, other.frame, -3, 2)).toBeNaN();
  });
});
