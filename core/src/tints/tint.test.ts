import { expect, test } from 'vitest';
import { hexOf, rgbOf, stopsOf, tintColour, tintRange, tintTable, type Tint } from './index.js';

const grey: Tint = {
  stops: [
    { value: 10, colour: '#000000' },
    { value: 20, colour: '#ffffff' },
  ],
  band: 0,
  base: 0,
};

test('colours go over from stop to stop and stay beyond the outermost', () => {
  expect(tintColour(grey, 0)).toEqual([0, 0, 0]);
  expect(tintColour(grey, 25)).toEqual([255, 255, 255]);
  // Half way in OKLab lightness: 0.5 is sRGB 99 (Ottosson 2020: linear 0.125).
  expect(tintColour(grey, 15)).toEqual([99, 99, 99]);
});

test('bands have one colour each and begin at the base, as contours of that interval do', () => {
  const bands = { ...grey, band: 2.5, base: 10 };
  expect(tintColour(bands, 12.4)).toEqual(tintColour(bands, 10.1));
  expect(tintColour(bands, 12.5)).not.toEqual(tintColour(bands, 12.4));
  expect(tintRange({ ...bands, base: 1 })).toEqual([8.5, 21]);
  expect(new Set(tintTable(bands)).size).toBe(4);
});

test('ramps become stops over a range; colours go to and fro as text', () => {
  const stops = stopsOf('either-side', -2, 2);
  expect(stops.map(({ value }) => value)).toEqual([-2, 0, 2]);
  expect(hexOf(rgbOf('#12ab9f'))).toBe('#12ab9f');
  expect(stopsOf('land', 30, 36)).toHaveLength(4);
});
