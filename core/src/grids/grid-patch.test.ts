import { expect, test } from 'vitest';
import { changedPart, cutPart, withPart } from './index.js';

test('what has changed of a grid is sent as a part and put back in its place', () => {
  const [columns, rows] = [9, 7];
  const before = Float32Array.from({ length: columns * rows }, (_, k) => (k % 5 === 0 ? NaN : k / 3));
  const after = Float32Array.from(before);
  after[2 * columns + 3] = 70;
  after[4 * columns + 6] = NaN;
  const part = changedPart(before, after, columns, rows)!;
  expect(part).toEqual({ column: 3, row: 2, columns: 4, rows: 3 });
  expect(withPart(before, columns, part, cutPart(after, columns, part))).toEqual(after);
  expect(changedPart(before, Float32Array.from(before), columns, rows)).toBeUndefined();
});
