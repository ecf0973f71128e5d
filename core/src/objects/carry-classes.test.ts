import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import { carryClasses } from './index.js';

const random = seededRandom(9);
const scatter = (count: number) => {
  const of = (): Float64Array => Float64Array.from({ length: count }, () => 20 * random());
  return { count, x: of(), y: of(), z: of() };
};

describe('classes carried from a thinned cloud', () => {
  const to = scatter(400);
  const from = scatter(300);
  const classes = Uint8Array.from({ length: 300 }, (_, i) => 2 + (i % 5));

  test('are those of the nearest point within the distance, as a search of all of them finds', () => {
    const found = carryClasses(to, 400, from, classes, 3, new Uint8Array(400).fill(1));
    for (let i = 0; i < 400; i++) {
      let [best, nearest] = [-1, 9];
      for (let j = 0; j < 300; j++) {
        const off = (from.x[j]! - to.x[i]!) ** 2 + (from.y[j]! - to.y[i]!) ** 2 + (from.z[j]! - to.z[i]!) ** 2;
        if (off <= nearest) [best, nearest] = [j, off];
      }
      expect(found[i]).toBe(best < 0 ? 1 : classes[best]);
    }
  });

  test('leave points alone that have none near, and only those asked about are given', () => {
    const far = { count: 1, x: Float64Array.of(500), y: Float64Array.of(0), z: Float64Array.of(0) };
    expect([...carryClasses(far, 1, from, classes, 3, Uint8Array.of(9))]).toEqual([9]);
    expect(carryClasses(to, 7, from, classes, 3, new Uint8Array(400))).toHaveLength(7);
  });
});
