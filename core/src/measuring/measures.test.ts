import { describe, expect, test } from 'vitest';
import { angleAt, between, lineLength, planArea, type Place3 } from './index.js';

describe('between two places', () => {
  test('3-4-12-13: plan 5, slope 13, grade 240 %, 1 : 0.4167, 67.38°', () => {
    const b = between([100, 200, 10], [103, 204, 22]);
    expect(b.planDistance).toBe(5);
    expect(b.slopeDistance).toBe(13);
    expect(b.rise).toBe(12);
    expect(b.grade).toBeCloseTo(2.4, 12);
    expect(b.ratio).toBeCloseTo(5 / 12, 12);
    expect(b.degrees).toBeCloseTo(67.3801, 4);
    expect(b.bearing).toBeCloseTo(36.8699, 4);
  });

  test('a bank of 1 : 2 falls 50 % at 26.565°, whichever way it is measured', () => {
    const down = between([0, 0, 2], [0, -4, 0]);
    expect(down.grade).toBeCloseTo(-0.5, 12);
    expect(down.ratio).toBe(2);
    expect(down.degrees).toBeCloseTo(-26.565, 3);
    expect(down.bearing).toBe(180);
  });

  test('on the level, straight up and at one place', () => {
    expect(between([0, 0, 1], [10, 0, 1])).toMatchObject({ grade: 0, ratio: Infinity, degrees: 0, bearing: 90 });
    expect(between([0, 0, 0], [0, 0, 3])).toMatchObject({ grade: Infinity, ratio: 0, degrees: 90, bearing: undefined });
    expect(between([5, 5, 5], [5, 5, 5])).toMatchObject({ slopeDistance: 0, grade: 0, degrees: 0 });
  });
});

test('length of a line, along the slope and in plan', () => {
  expect(lineLength([[0, 0, 0], [3, 4, 12], [3, 4, 0]])).toEqual({ slope: 25, plan: 5 }); // prettier-ignore
});

test('area in plan: a parcel at full coordinates, to the square millimetre', () => {
  const [E, N] = [5_512_345.678, 6_150_987.654];
  const parcel: Place3[] = [[E, N, 1], [E + 40, N, 7], [E + 40, N + 25, 3], [E + 10, N + 30, 2], [E, N + 25, 0]]; // prettier-ignore
  // Rectangle 40 x 25 and a triangle of base 40, height 5.
  expect(planArea(parcel)).toBeCloseTo(1000 + 100, 6);
  expect(planArea([...parcel].reverse())).toBeCloseTo(1100, 6);
  expect(planArea(parcel.slice(0, 2))).toBe(0);
});

test('angle at a corner', () => {
  expect(angleAt([1, 0, 0], [0, 0, 0], [0, 1, 0])).toEqual({ plan: 90, space: 90 });
  const { plan, space } = angleAt([1, 0, 1], [0, 0, 0], [0, 1, 1]);
  expect(plan).toBeCloseTo(90, 9);
  expect(space).toBeCloseTo(60, 9);
});
