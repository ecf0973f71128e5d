import { expect, test } from 'vitest';
import { cornersOf } from './drawn-corners';

test('a box from corner to corner, whichever way it was drawn', () => {
  expect(cornersOf('box', [[10, 20], [30, 5]], 100)).toEqual([[10, 20], [30, 20], [30, 5], [10, 5]]); // prettier-ignore
});

test('below a line to the lower edge of the view, above it to the upper', () => {
  const line = [[10, 50], [40, 60], [90, 40]] as const; // prettier-ignore
  expect(cornersOf('below', line, 200)).toEqual([...line, [90, 200], [10, 200]]);
  expect(cornersOf('above', line, 200)).toEqual([...line, [90, 0], [10, 0]]);
  expect(cornersOf('above', [[5, 5]], 200)).toEqual([]);
});

test('places clicked twice count once', () => {
  expect(cornersOf('outline', [[1, 1], [1, 1], [9, 1], [9, 9]], 100)).toEqual([[1, 1], [9, 1], [9, 9]]); // prettier-ignore
});
