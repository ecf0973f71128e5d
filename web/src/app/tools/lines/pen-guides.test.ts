import { describe, expect, test } from 'vitest';
import { heldPlace, sectionAcross } from './pen-guides';

const rounded = (place: readonly [number, number]): number[] => place.map((v) => Number(v.toFixed(9)) + 0);

describe('where a leg is held', () => {
  test('a free one, and the first of a line, go where the pointer is', () => {
    expect(heldPlace('free', [3, 4], [0, 0], [1, 0])).toEqual([3, 4]);
    expect(heldPlace('ortho', [3, 4], undefined)).toEqual([3, 4]);
  });

  test('at right angles: along the last leg or square to it, whichever is nearer the pointer', () => {
    expect(rounded(heldPlace('ortho', [9, 2], [0, 0], [5, 0]))).toEqual([9, 0]);
    expect(rounded(heldPlace('ortho', [2, 9], [0, 0], [5, 0]))).toEqual([0, 9]);
    expect(rounded(heldPlace('ortho', [-2, -9], [0, 0], [5, 0]))).toEqual([0, -9]);
  });

  test('the last leg may run anywhere: square to one at 45 degrees', () => {
    expect(rounded(heldPlace('ortho', [-3, 4], [0, 0], [1, 1]))).toEqual([-3.5, 3.5]);
  });

  test('parallel to a line that was picked, also backwards', () => {
    expect(rounded(heldPlace('parallel', [4, 3], [1, 1], [2, 0]))).toEqual([4, 1]);
    expect(rounded(heldPlace('parallel', [-4, 3], [1, 1], [2, 0]))).toEqual([-4, 1]);
  });

  test('a direction of no length holds nothing', () =>
    expect(heldPlace('parallel', [4, 3], [1, 1], [0, 0])).toEqual([4, 3]));
});

describe('a section across a leg', () => {
  test('lies square at its end, the same to either side', () => {
    expect(sectionAcross([0, 0], [10, 0], 5)).toEqual({ a: [10, 5], b: [10, -5] });
  });

  test('there is none across a leg of no length', () => expect(sectionAcross([3, 3], [3, 3], 5)).toBeUndefined());
});
