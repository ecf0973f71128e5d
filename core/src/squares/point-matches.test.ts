import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { PointMatches, sameIntegers, type IntegerPoints } from './index.js';

const points = (rows: readonly (readonly [number, number, number, number, number])[]): IntegerPoints => ({
  count: rows.length,
  x: Int32Array.from(rows, ([x]) => x),
  y: Int32Array.from(rows, ([, y]) => y),
  z: Int32Array.from(rows, ([, , z]) => z),
  classification: Uint8Array.from(rows, (row) => row[3]),
  flags: Uint8Array.from(rows, (row) => row[4]),
});
const matched = (from: IntegerPoints, to: IntegerPoints): number[] => {
  const matches = new PointMatches(from.count);
  for (let i = 0; i < from.count; i++) matches.add(from, i);
  return Array.from({ length: to.count }, (_, i) => matches.take(to, i));
};

describe('points of one file in two jobs', () => {
  test('are found by their place, with class and flags; others are none', () => {
    const from = points([[1, 2, 3, 2, 0], [1, 2, 4, 5, 4], [-7, 2_000_000_000, 0, 6, 1]]); // prettier-ignore
    const to = points([[-7, 2_000_000_000, 0, 0, 0], [1, 2, 3, 0, 0], [1, 2, 5, 0, 0]]); // prettier-ignore
    expect(matched(from, to)).toEqual([6 * 256 + 1, 2 * 256, -1]);
  });

  test('at one place come out with as many of each class as went in, whatever the order', () => {
    const row = fc.tuple(fc.integer({ min: 0, max: 2 }), fc.integer({ min: 0, max: 2 }), fc.constant(0), fc.integer({ min: 0, max: 255 }), fc.integer({ min: 0, max: 15 })); // prettier-ignore
    fc.assert(
      fc.property(fc.array(row, { maxLength: 60 }), (rows) => {
        const got = matched(points(rows), points([...rows].reverse()));
        const all = rows.map(([, , , code, flags]) => code * 256 + flags);
        expect(got.sort((a, b) => a - b)).toEqual(all.sort((a, b) => a - b));
      }),
      { seed: 5 },
    );
  });

  test('one copy more than there were gets what the last has', () => {
    const from = points([[1, 1, 1, 7, 0], [1, 1, 1, 2, 0]]); // prettier-ignore
    expect(matched(from, points([[1, 1, 1, 0, 0], [1, 1, 1, 0, 0], [1, 1, 1, 0, 0]]))).toEqual([512, 7 * 256, 7 * 256]); // prettier-ignore
  });

  test('mean the same only at one scale and offset', () => {
    const of = (scale: number, offset: number) => ({ scale: [scale, scale, scale], offset: [offset, 0, 0] }) as never;
    expect([sameIntegers(of(0.001, 5), of(0.001, 5)), sameIntegers(of(0.001, 5), of(0.01, 5)), sameIntegers(of(0.001, 5), of(0.001, 6))]).toEqual([true, false, false]); // prettier-ignore
  });
});
