import { describe, expect, test } from 'vitest';
import { NewLand } from './new-land';

const cloud = (id: number, source = `file ${id}`) => ({ id, source, isComingIn: false });
const comingIn = (id: number, source: string) => ({ id, source, isComingIn: true });

describe('land the views were not set on yet', () => {
  test('a first cloud is, the same again is not, a second is', () => {
    const land = new NewLand();
    expect(land.isEmpty).toBe(true);
    expect(land.take([cloud(1)])).toBe(true);
    expect(land.isEmpty).toBe(false);
    expect(land.take([cloud(1)])).toBe(false);
    expect(land.take([cloud(1), cloud(2)])).toBe(true);
  });

  test('a cloud seen coming in is news once: not as its nodes come, not when it is there', () => {
    const land = new NewLand();
    expect(land.take([comingIn(2, 'strip')])).toBe(true);
    expect(land.take([comingIn(1, 'strip'), comingIn(2, 'strip')])).toBe(false);
    expect(land.take([comingIn(1, 'strip'), comingIn(3, 'strip')])).toBe(false);
    expect(land.take([cloud(1, 'strip')])).toBe(false);
    expect(land.take([cloud(1, 'strip')])).toBe(false);
  });

  test('the same file imported a second time is news again', () => {
    const land = new NewLand();
    land.take([comingIn(2, 'strip')]);
    land.take([cloud(1, 'strip')]);
    expect(land.take([cloud(1, 'strip'), comingIn(5, 'strip')])).toBe(true);
    expect(land.take([cloud(1, 'strip'), cloud(4, 'strip')])).toBe(false);
  });

  test('a cancelled import and a cloud taken back are forgotten', () => {
    const land = new NewLand();
    land.take([comingIn(2, 'strip')]);
    expect(land.take([])).toBe(false);
    expect(land.isEmpty).toBe(true);
    expect(land.take([comingIn(7, 'strip')])).toBe(true);
    land.take([cloud(6, 'strip'), cloud(1)]);
    expect(land.take([cloud(1)])).toBe(false);
    expect(land.take([cloud(6, 'strip'), cloud(1)])).toBe(true);
  });

  test('two files at once are told apart', () => {
    const land = new NewLand();
    land.take([comingIn(2, 'one')]);
    expect(land.take([comingIn(2, 'one'), comingIn(4, 'two')])).toBe(true);
    expect(land.take([cloud(1, 'one'), comingIn(4, 'two')])).toBe(false);
  });
});
