import { expect, test } from 'vitest';
import { faultOf } from './column-words';
import { groundWindow } from './strip-section';

const section = (places: readonly (readonly [number, number])[], after = places) => ({
  along: Float32Array.from(places, ([at]) => at),
  elevation: Float64Array.from(places, ([, z]) => z),
  alongAfter: Float32Array.from(after, ([at]) => at),
  elevationAfter: Float64Array.from(after, ([, z]) => z),
  strip: new Uint16Array(places.length),
});

test('the window of a section is that of the ground, before and after, whatever stands on it', () => {
  const ground = Array.from({ length: 480 }, (_, k) => [k / 20, 30 + k / 4800] as const);
  const tree = Array.from({ length: 40 }, (_, k) => [10 + k / 100, 31 + k / 4] as const);
  const lifted = [...ground, ...tree].map(([at, z]) => [at, z + 0.5] as const);
  const { low, high } = groundWindow(section([...ground, ...tree], lifted), 24, 0.3);
  expect(low).toBeGreaterThan(29.6);
  expect(low).toBeLessThan(29.8);
  expect(high).toBeGreaterThan(30.3);
  expect(high).toBeLessThan(31);
});

test('with few points it is what they span; with none it is something', () => {
  expect(groundWindow(section([[1, 10], [2, 12]]), 24, 0.5)).toEqual({ low: 9.5, high: 12.5 }); // prettier-ignore
  expect(groundWindow(section([]), 24, 0.5)).toEqual({ low: 0, high: 1 });
  // What a correction moves off the section counts where it was.
  const gone = section(Array.from({ length: 240 }, (_, k) => [k / 10, 5] as const), Array.from({ length: 240 }, () => [NaN, 9] as const)); // prettier-ignore
  expect(groundWindow(gone, 24, 0.25)).toEqual({ low: 4.75, high: 5.25 });
});

test('columns that are missing are named, with what may stand for them', () => {
  const needed = [['time'], ['east', 'x'], ['across']];
  expect(faultOf(['time', 'x', 'across', '-'], needed)).toBe('');
  expect(faultOf(['time', '-', 'across'], needed)).toBe('No column is east or x yet.');
  expect(faultOf([], needed)).toBe('No column is time, east or x, across (scan angle) yet.');
});
