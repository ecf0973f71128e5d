import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import { Outline, type Place } from './outline.js';

const SQUARE: Place[] = [
  [0, 0],
  [10, 0],
  [10, 10],
  [0, 10],
];
const star = (points: number, inner: number, outer: number): Place[] =>
  Array.from({ length: points * 2 }, (_, i) => {
    const r = i % 2 ? inner : outer;
    const a = (Math.PI * i) / points;
    return [5_512_000 + r * Math.cos(a), 6_150_000 + r * Math.sin(a)];
  });

/** Winding number by angles: slow, and nothing like the rule under test. */
function winds(corners: readonly Place[], e: number, n: number): boolean {
  let sum = 0;
  corners.forEach(([ae, an], i) => {
    const [be, bn] = corners[(i + 1) % corners.length]!;
    const angle = Math.atan2(bn - n, be - e) - Math.atan2(an - n, ae - e);
    sum += angle > Math.PI ? angle - 2 * Math.PI : angle < -Math.PI ? angle + 2 * Math.PI : angle;
  });
  return Math.abs(sum) > Math.PI;
}

describe('outlines', () => {
  test('a square holds what is in it; of two squares with a side in common each place is in just one', () => {
    const west = new Outline(SQUARE);
    const east = new Outline(SQUARE.map(([e, n]) => [e + 10, n]));
    expect([west.contains(5, 5), west.contains(15, 5), west.contains(-1, 5), west.contains(5, 10.001)]).toEqual([
      true,
      false,
      false,
      false,
    ]);
    for (let n = 0; n < 10; n++) expect(Number(west.contains(10, n)) + Number(east.contains(10, n))).toBe(1);
  });

  test('a star of 400 corners agrees with the winding number at 20 000 places', () => {
    const corners = star(200, 50, 100);
    const outline = new Outline(corners);
    const random = seededRandom(6);
    for (let k = 0; k < 20_000; k++) {
      const [e, n] = [5_512_000 + (random() - 0.5) * 220, 6_150_000 + (random() - 0.5) * 220];
      if (outline.contains(e, n) !== winds(corners, e, n)) throw new Error(`${e}, ${n}`);
    }
  });

  test('a box said to be inside or outside has all or none of its places inside', () => {
    const outline = new Outline(star(7, 30, 100));
    const spot = fc.double({ min: -130, max: 130, noNaN: true });
    const size = fc.double({ min: 0, max: 60, noNaN: true });
    let settled = 0;
    fc.assert(
      fc.property(spot, spot, size, size, (e, n, wide, high) => {
        const [west, south] = [5_512_000 + e, 6_150_000 + n];
        const relation = outline.relationOf(west, south, west + wide, south + high);
        if (relation === 'crossing') return;
        settled++;
        for (let k = 0; k < 36; k++) {
          const place = [west + ((k % 6) / 5) * wide, south + (Math.floor(k / 6) / 5) * high] as const;
          expect(outline.contains(...place)).toBe(relation === 'inside');
        }
      }),
      { numRuns: 2000, seed: 3 },
    );
    expect(settled).toBeGreaterThan(300);
    expect(outline.relationOf(5_511_990, 6_149_990, 5_512_010, 6_150_010)).toBe('inside');
    expect(outline.relationOf(5_511_000, 6_149_000, 5_513_000, 6_151_000)).toBe('crossing');
  });

  test.each([
    ['two corners', SQUARE.slice(0, 2), /2 corners/],
    ['a bow tie', [SQUARE[0]!, SQUARE[2]!, SQUARE[1]!, SQUARE[3]!], /sides 1 and 3 cross/],
    [
      'a line there and back',
      [
        [0, 0],
        [5, 5],
        [10, 10],
      ] as Place[],
      /no area/,
    ],
    [
      'no place',
      [
        [0, 0],
        [NaN, 1],
        [4, 4],
      ] as Place[],
      /no place/,
    ],
  ])('%s is refused with a reason', (_, corners, reason) => {
    expect(() => new Outline(corners)).toThrow(reason);
  });
});
