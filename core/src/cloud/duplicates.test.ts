import { expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import { countDuplicates } from './duplicates.js';

test('as many as a set of texts finds, over points that crowd a small cube', () => {
  const random = seededRandom(11);
  const column = () => Int32Array.from({ length: 50_000 }, () => Math.floor(random() * 40) - 20);
  const [x, y, z] = [column(), column(), column()];
  const places = new Set(Array.from(x, (_, i) => `${x[i]},${y[i]},${z[i]}`));
  expect(countDuplicates(x, y, z)).toBe(50_000 - places.size);
});

test('none where there are none, on a regular grid and at the ends of the integers', () => {
  const n = 100;
  const grid = (of: (i: number) => number) => Int32Array.from({ length: n * n }, (_, i) => of(i));
  expect(
    countDuplicates(
      grid((i) => (i % n) * 1000),
      grid((i) => Math.floor(i / n) * 1000),
      grid(() => 0),
    ),
  ).toBe(0);
  expect(countDuplicates(Int32Array.of(2 ** 31 - 1, -(2 ** 31)), Int32Array.of(0, 0), Int32Array.of(0, 0))).toBe(0);
  expect(countDuplicates(new Int32Array(0), new Int32Array(0), new Int32Array(0))).toBe(0);
});

test('by groups that hold no two alike, the same are found as in one table', () => {
  const random = seededRandom(6);
  const count = 60_000;
  // A hundred squares one behind another, from next to empty to more than a table holds.
  const square = Int32Array.from({ length: count }, () => Math.floor(100 * random() ** 6)).sort();
  const x = square.map((s) => s * 1000 + Math.floor(90 * random()));
  const [y, z] = [0, 1].map(() => Int32Array.from({ length: count }, () => Math.floor(9 * random())));
  const starts = [...square.keys()].filter((i) => i === 0 || square[i] !== square[i - 1]);
  const whole = countDuplicates(x, y!, z!);
  expect(whole).toBeGreaterThan(1000);
  expect(countDuplicates(x, y!, z!, [...starts, count])).toBe(whole);
});
