// @vitest-environment jsdom
import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import { loadAnew } from './load-anew';

beforeEach(() => {
  sessionStorage.clear();
  vi.useFakeTimers();
});
afterEach(() => void vi.useRealTimers());

test('what could not be fetched is loaded anew, and not in a circle', () => {
  const gone: string[] = [];
  const go = (to: string): void => void gone.push(to);
  loadAnew({ url: '/jobs/a/terrain' }, go);
  loadAnew({ url: '/jobs/a/terrain' }, go);
  expect(gone).toEqual(['/jobs/a/terrain']);
  vi.advanceTimersByTime(11_000);
  loadAnew({ url: '/jobs/a/thin' }, go);
  expect(gone).toEqual(['/jobs/a/terrain', '/jobs/a/thin']);
});
