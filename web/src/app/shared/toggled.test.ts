import { expect, test } from 'vitest';
import { toggled } from './toggled';

test('takes one in, or out where it was in; the set before stays as it was', () => {
  const before: ReadonlySet<string> = new Set(['a', 'b']);
  expect([...toggled(before, 'c')]).toEqual(['a', 'b', 'c']);
  expect([...toggled(before, 'a')]).toEqual(['b']);
  expect([...before]).toEqual(['a', 'b']);
});
