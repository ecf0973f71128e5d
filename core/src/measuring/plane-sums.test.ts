import fc from 'fast-check';
import { expect, test } from 'vitest';
import { PlaneSums } from './index.js';

const sumsOf = (points: readonly (readonly [number, number, number])[]): PlaneSums => {
  const sums = new PlaneSums();
  for (const [x, y, z] of points) sums.add(x, y, z);
  return sums;
};

test('a plane comes back, whatever its points, without scatter', () => {
  const number = (most: number) => fc.double({ min: -most, max: most, noNaN: true });
  fc.assert(
    fc.property(number(2), number(2), number(50), fc.array(fc.tuple(number(10), number(10)), { maxLength: 20 }), (east, north, level, places) => {
      const all = [...places, [0, 0], [10, 0], [0, 10], [10, 10]] as [number, number][];
      const plane = sumsOf(all.map(([x, y]) => [x, y, level + east * x + north * y])).plane(0)!;
      expect(plane.east).toBeCloseTo(east, 8);
      expect(plane.north).toBeCloseTo(north, 8);
      expect(plane.level).toBeCloseTo(level, 7);
      expect(plane.scatter).toBeLessThan(1e-4);
    }),
  ); // prettier-ignore
});

test('scatter is that of the points about it: one of five off by 1 in the middle of a square', () => {
  // The plane lies at 0.2: residuals 0.8 and four times 0.2, squares together 0.8, two degrees of freedom.
  const plane = sumsOf([[-1, -1, 0], [1, -1, 0], [1, 1, 0], [-1, 1, 0], [0, 0, 1]]).plane(0)!; // prettier-ignore
  expect(plane.level).toBeCloseTo(0.2, 12);
  expect(plane.scatter).toBeCloseTo(Math.sqrt(0.8 / 2), 12);
});

test('points in a line have none, and cleared sums begin anew', () => {
  const sums = sumsOf([[0, 0, 1], [1, 1, 2], [2, 2, 3]]); // prettier-ignore
  expect(sums.plane(1e-9)).toBeUndefined();
  sums.clear();
  expect([sums.count, sums.plane(0)]).toEqual([0, undefined]);
});
