import { expect, test } from 'vitest';
import { seededRandom } from '../task/seeded-random.js';
import { editTin, surfaceFaults, triangulate } from './index.js';

function land(height: (e: number, n: number) => number, planted: readonly [number, number, number][] = []) {
  const random = seededRandom(11);
  const places = Array.from({ length: 4000 }, (): [number, number] => [random() * 100, random() * 100]);
  const points = [...places.map(([e, n]): [number, number, number] => [e, n, height(e, n)]), ...planted];
  const of = (axis: 0 | 1 | 2): Float64Array => Float64Array.from(points, (p) => p[axis]);
  return triangulate(of(0), of(1), of(2)).tin;
}
const LIMITS = { spike: 0.2, hole: 20 };

test('planted spikes and pits are found, each once, the worst first, and nothing else', () => {
  const tin = land(
    (e, n) => 20 + 0.1 * e - 0.05 * n,
    [
      [30, 40, 24.5],
      [70, 20, 28],
      [60, 75, 20],
    ],
  );
  const found = surfaceFaults(tin, LIMITS);
  expect(found.map(({ kind, easting, northing }) => [kind, easting, northing])).toEqual([
    ['spike', 30, 40],
    ['pit', 60, 75],
    ['spike', 70, 20],
  ]);
  expect(found[0]!.size).toBeCloseTo(24.5 - 21, 0);
});

test('the crest of a bank of 1 in 3 is hardly ever a spike: one of its hundred points at most', () => {
  expect(
    surfaceFaults(
      land((e) => 10 - Math.abs(e - 50) / 3),
      LIMITS,
    ).length,
  ).toBeLessThanOrEqual(1);
});

test('a hole is found with its area; the outer rim is none', () => {
  const square = [[40, 40], [60, 40], [60, 60], [40, 60]] as const; // prettier-ignore
  const { tin } = editTin(
    land(() => 5),
    [{ kind: 'drop-within', outline: square }],
  );
  const [hole, ...others] = surfaceFaults(tin, LIMITS);
  expect(others).toEqual([]);
  expect(hole!.kind).toBe('hole');
  expect(hole!.size).toBeGreaterThan(340);
  expect(hole!.size).toBeLessThan(460);
  expect(Math.hypot(hole!.easting - 50, hole!.northing - 50)).toBeLessThan(3);
});
