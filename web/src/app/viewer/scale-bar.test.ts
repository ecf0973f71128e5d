import { describe, expect, test } from 'vitest';
import { roundLength, roundMarks } from './scale-bar';

describe('round figures on scales', () => {
  test('a bar is 1, 2 or 5 times a power of ten and never longer than it may be', () => {
    for (const unitsPerPixel of [0.0013, 0.04, 0.5, 1, 3.7, 250]) {
      const length = roundLength(unitsPerPixel, 120);
      expect([1, 2, 5]).toContain(Math.round(length / 10 ** Math.floor(Math.log10(length) + 1e-9)));
      expect(length).toBeLessThanOrEqual(unitsPerPixel * 120 + 1e-12);
      expect(length * 2.5).toBeGreaterThanOrEqual(unitsPerPixel * 120 - 1e-9);
    }
  });
  test('marks are multiples of their step, within the ends', () => {
    expect(roundMarks(30.2, 33.9, 8)).toEqual({ step: 0.5, marks: [30.5, 31, 31.5, 32, 32.5, 33, 33.5] });
    expect(roundMarks(-3, 7, 5).marks).toEqual([-2, 0, 2, 4, 6].map((v) => v + 0));
    expect(roundMarks(5, 5, 8).marks).toEqual([]);
    expect(roundMarks(0, 1e6, 4).marks.length).toBeLessThanOrEqual(5);
  });
});
