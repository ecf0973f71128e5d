import { describe, expect, test } from 'vitest';
import { newGroundSums, type GroundSums } from './ground-heights.js';
import { waterAt, waterLevels } from './water.js';

const FRAME = { east: 1000, north: 2000, cell: 1, columns: 60, rows: 40 };
const STEP = { scale: 0.001, offset: 0 };
const OPTIONS = { metre: 1, leastArea: 25, tolerance: 0.1 };

/** Five points a cell on land at a height that may be asked, and as many as told on what lies lower. */
function land(height: (column: number, row: number) => number, returns: (column: number, row: number) => number) {
  const [all, ground] = [newGroundSums(FRAME), newGroundSums(FRAME)];
  for (let row = 0, at = 0; row < 40; row++)
    for (let column = 0; column < 60; column++, at++) {
      const n = returns(column, row);
      all.count[at] = ground.count[at] = n;
      ground.sum[at] = n * Math.round(height(column, row) * 1000);
    }
  return [all, ground] as [GroundSums, GroundSums];
}
const wet = (levels: ReturnType<typeof waterLevels>): number => levels.level.filter((v) => !Number.isNaN(v)).length;
const isPond = (c: number, r: number): boolean => c >= 20 && c < 40 && r >= 10 && r < 30;

describe('water', () => {
  test('a pond of 20 by 20 that swallows most beams is found at its level, to its banks and no further', () => {
    const [all, ground] = land(
      (c, r) => (isPond(c, r) ? 10 : 10.6),
      (c, r) => (isPond(c, r) ? ((c + r) % 4 === 0 ? 1 : 0) : 5),
    );
    const found = waterLevels(all, ground, STEP, OPTIONS);
    expect(wet(found)).toBe(400);
    expect(waterAt(found, 1025.5, 2015.5)).toBe(10);
    expect(waterAt(found, 1010.5, 2015.5)).toBeNaN();
    expect(waterAt(found, 0, 0)).toBeNaN();
  });

  test('under the scanner it sends every beam back: the level carries over', () => {
    const [all, ground] = land(
      (c, r) => (isPond(c, r) ? 10 : 10.6),
      (c, r) => (isPond(c, r) && c > 25 ? ((c + r) % 4 === 0 ? 1 : 0) : 5),
    );
    expect(wet(waterLevels(all, ground, STEP, OPTIONS))).toBe(400);
  });

  test('the level of a canal falls with it', () => {
    const isCanal = (r: number): boolean => r >= 15 && r < 22;
    const [all, ground] = land(
      (c, r) => (isCanal(r) ? 10 - 0.0002 * c : 11),
      (c, r) => (isCanal(r) ? ((c + r) % 4 === 0 ? 1 : 0) : 5),
    );
    const found = waterLevels(all, ground, STEP, OPTIONS);
    expect(waterAt(found, 1055.5, 2018.5) - waterAt(found, 1004.5, 2018.5)).toBeCloseTo(-0.0102, 2);
    // But for the ends, where what is land flown over and what is not cannot be told.
    expect(wet(found)).toBeGreaterThan(390);
    expect(wet(found)).toBeLessThanOrEqual(420);
  });

  test('a hole on level land and a dark roof’s shadow on a hill are no water; nor is dry land all through', () => {
    const hole = (c: number, r: number): number => (isPond(c, r) && c < 30 ? 0 : 5);
    expect(wet(waterLevels(...land(() => 10, hole), STEP, OPTIONS))).toBe(0);
    const top = land((c, r) => (isPond(c, r) ? 12 : 10), (c, r) => (isPond(c, r) && (c + r) % 4 !== 0 ? 0 : 5)); // prettier-ignore
    expect(wet(waterLevels(...top, STEP, OPTIONS))).toBe(0);
    expect(wet(waterLevels(...land((c) => 10 + c / 10, () => 5), STEP, OPTIONS))).toBe(0); // prettier-ignore
  });
});
