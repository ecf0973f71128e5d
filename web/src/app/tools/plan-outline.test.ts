import type { Selection, SelectionStep } from '@pampero/core/selection';
import { expect, test } from 'vitest';
import { planMatrix } from '../drawing/cameras';
import { lastPlanOutline } from './plan-outline';

const visible = { hiddenClasses: [], withWithheld: true };
const origin = [5_512_000, 6_150_000, 30] as const;
const drawn = (name: string, corners: readonly (readonly [number, number])[]): SelectionStep => {
  const matrix = planMatrix({ x: 50, y: 20, unitsPerPixel: 0.5, low: 0, high: 40 }, 400, 200);
  const view = { name, matrix: Array.from(matrix), origin, width: 400, height: 200 };
  return { how: 'add', shape: { kind: 'outline', view, corners }, visible };
};
const boundary = (...corners: (readonly [number, number])[]): SelectionStep => ({
  how: 'add',
  shape: { kind: 'boundary', corners, buffer: 0 },
  visible,
});

test('an outline of Plan in job coordinates: the middle pixel is where the camera looks, half a metre a pixel about it', () => {
  const outline = lastPlanOutline([drawn('plan', [[200, 100], [300, 100], [300, 0]])]); // prettier-ignore
  expect(outline).toEqual([
    [expect.closeTo(5_512_050, 6), expect.closeTo(6_150_020, 6)],
    [expect.closeTo(5_512_100, 6), expect.closeTo(6_150_020, 6)],
    [expect.closeTo(5_512_100, 6), expect.closeTo(6_150_070, 6)],
  ]);
});

test('the last one counts; what was drawn in other views is passed over', () => {
  const steps: Selection = [boundary([0, 0], [1, 0], [1, 1]), boundary([5, 5], [6, 5], [6, 6]), drawn('section', [])];
  expect(lastPlanOutline(steps)).toEqual([[5, 5], [6, 5], [6, 6]]); // prettier-ignore
  expect(lastPlanOutline([drawn('model', [[1, 1], [2, 2], [3, 1]])])).toBeUndefined(); // prettier-ignore
  expect(lastPlanOutline([])).toBeUndefined();
});
