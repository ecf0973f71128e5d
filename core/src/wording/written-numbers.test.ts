import fc from 'fast-check';
import { expect, test } from 'vitest';
import { readTypedNumber } from '../geodesy/index.js';
import { formatCount, formatCounted, formatNumber } from './index.js';

test.each([
  [0, '0'],
  [999, '999'],
  [1000, '1\u2009000'],
  [1_512_904, '1\u2009512\u2009904'],
  [-1234, '-1\u2009234'],
  [12.6, '13'],
])('%d is written %s', (value, text) => expect(formatCount(value)).toBe(text));

test('decimals are not parted', () => {
  expect(formatNumber(5_512_204.3181, 4)).toBe('5\u2009512\u2009204.3181');
  expect(formatNumber(-0.5, 2)).toBe('-0.50');
});

test('what rounds to nothing is nothing, without a sign', () => {
  expect(formatNumber(-0.0004, 3)).toBe('0.000');
  expect(formatNumber(-0.4, 0)).toBe('0');
});

test('one is one, none and more are many', () => {
  expect(formatCounted(1, 'point')).toBe('1 point');
  expect(formatCounted(0, 'point')).toBe('0 points');
  expect(formatCounted(2000, 'vertex', 'vertices')).toBe('2\u2009000 vertices');
});

test('what the product writes, it reads', () => {
  fc.assert(
    fc.property(fc.integer({ min: -1e9, max: 1e9 }), fc.integer({ min: 0, max: 4 }), (whole, decimals) => {
      const value = Number((whole / 1000).toFixed(decimals)) + 0; // never minus nothing
      expect(readTypedNumber(formatNumber(value, decimals))).toEqual({ value });
    }),
    { seed: 77, numRuns: 300 },
  );
});
