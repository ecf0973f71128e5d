import { describe, expect, test } from 'vitest';
import { voidOutlines } from './index.js';

const [E, N] = [5_512_000, 6_150_000];
/** Ground every half metre over 60 by 60 but where it is taken away. */
function ground(isAway: (e: number, n: number) => boolean): { easting: Float64Array; northing: Float64Array } {
  const places = Array.from({ length: 120 * 120 }, (_, k) => [(k % 120) / 2 + 0.25, Math.floor(k / 120) / 2 + 0.25] as const).filter(([e, n]) => !isAway(e, n)); // prettier-ignore
  return { easting: Float64Array.from(places, ([e]) => E + e), northing: Float64Array.from(places, ([, n]) => N + n) };
}
const within = (west: number, south: number, east: number, north: number) => (e: number, n: number) =>
  e > west && e < east && n > south && n < north;
const OPTIONS = { cell: 0.5, width: 6 };

describe('voids of the ground', () => {
  test('one of 12 by 8 is outlined, its corners as far as a disc of 6 goes into them', () => {
    const [found, ...more] = voidOutlines(ground(within(20, 30, 32, 38)), OPTIONS);
    expect(more).toEqual([]);
    expect(found!.rings).toHaveLength(1);
    // A rectangle without its corners: (4 − π) r² less, and some half a cell of each.
    expect(found!.area).toBeGreaterThan(96 - 2 * (4 - Math.PI) * 9);
    expect(found!.area).toBeLessThanOrEqual(96);
    const [west, east] = [Math.min(...found!.rings[0]!.easting) - E, Math.max(...found!.rings[0]!.easting) - E];
    expect([west, east]).toEqual([20, 32]);
  });

  test('narrower gaps are none, however long', () => {
    expect(voidOutlines(ground(within(5, 30, 55, 35)), OPTIONS)).toEqual([]);
  });

  test('what is open towards the edge of the points is outside', () => {
    expect(voidOutlines(ground(within(40, 20, 70, 40)), OPTIONS)).toEqual([]);
  });

  test('ground within a void is an island of it; the largest void comes first', () => {
    const isAway = (e: number, n: number): boolean =>
      (within(10, 10, 34, 34)(e, n) && !within(21, 21, 23, 23)(e, n)) || within(44, 44, 53, 53)(e, n);
    const [first, second] = voidOutlines(ground(isAway), OPTIONS);
    expect(first!.rings).toHaveLength(2);
    expect(first!.area).toBeGreaterThan(24 * 24 - 4 - 2 * (4 - Math.PI) * 9);
    expect(first!.area).toBeLessThanOrEqual(24 * 24 - 4);
    expect(second!.area).toBeLessThan(82);
  });

  test('no points, no voids', () => {
    expect(voidOutlines({ easting: new Float64Array(), northing: new Float64Array() }, OPTIONS)).toEqual([]);
  });
});
