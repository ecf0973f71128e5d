import { describe, expect, test } from 'vitest';
import { freeName, nearestOnFlight, splitAt, withStrip, type EditedStrip } from './strip-edits';

const strip = (name: string, from: number, to: number): EditedStrip => ({ name, from, to, isLeftOut: false });
const told = (list: readonly EditedStrip[] | undefined) => list?.map(({ name, from, to }) => `${name} ${from?.toFixed(0)}–${to?.toFixed(0)}`); // prettier-ignore
const apart = (list: readonly EditedStrip[]): boolean =>
  list.every(({ from }, k) => k === 0 || from! > list[k - 1]!.to!);

describe('strips drawn on the trajectory', () => {
  const list = [strip('1', 0, 10), strip('2', 20, 30)];

  test('stand in the order of their times, under the first number that is free', () => {
    expect(told(withStrip(list, 12, 18))).toEqual(['1 0–10', '3 12–18', '2 20–30']);
    expect(freeName([strip('1', 0, 1), strip('3', 2, 3)])).toBe('2');
  });

  test('take their time from those they are drawn over: cut, in two, or gone', () => {
    expect(told(withStrip(list, 5, 15))).toEqual(['1 0–5', '3 5–15', '2 20–30']);
    expect(told(withStrip(list, 23, 26))).toEqual(['1 0–10', '2 20–23', '3 23–26', '2 26–30']);
    expect(told(withStrip(list, -5, 12))).toEqual(['3 -5–12', '2 20–30']);
    for (const [from, to] of [
      [5, 15],
      [23, 26],
      [-5, 12],
      [0, 30],
      [10, 20],
    ] as const)
      // prettier-ignore
      expect(apart(withStrip(list, from, to)), `${from} to ${to}`).toBe(true);
  });

  test('are split where the trajectory is clicked, and only where a strip runs', () => {
    expect(told(splitAt(list, 4))).toEqual(['1 0–4', '3 4–10', '2 20–30']);
    expect(apart(splitAt(list, 4)!)).toBe(true);
    expect(splitAt(list, 15)).toBeUndefined();
    expect(splitAt([{ name: '7', sourceId: 7, isLeftOut: false }], 4)).toBeUndefined();
  });
});

describe('the nearest place on a trajectory', () => {
  const flight = (coordinates: number[][], time?: number[]) => ({
    features: [{ geometry: { coordinates }, ...(time && { properties: { time } }) }],
  });

  test('lies between records, with its time', () => {
    const found = nearestOnFlight(flight([[0, 0, 9], [10, 0, 9], [10, 20, 9]], [100, 101, 104]), [13, 10]); // prettier-ignore
    expect(found).toEqual({ time: 102.5, easting: 10, northing: 10, distance: 3 });
    expect(nearestOnFlight(flight([[0, 0, 9], [10, 0, 9]], [100, 101]), [-4, 3])).toMatchObject({ time: 100, distance: 5 }); // prettier-ignore
  });

  test('a platform that hovers, and one whose times are not known', () => {
    expect(nearestOnFlight(flight([[1, 1, 9], [1, 1, 9]], [5, 6]), [1, 2])).toMatchObject({ distance: 1 }); // prettier-ignore
    expect(
      nearestOnFlight(
        flight([
          [0, 0, 9],
          [10, 0, 9],
        ]),
        [1, 1],
      ),
    ).toBeUndefined();
  });
});
