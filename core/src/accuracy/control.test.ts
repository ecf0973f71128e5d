import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import { differencePattern, type ControlDifference } from './control-differences.js';
import { localElevation } from './local-elevation.js';

describe('the cloud’s elevation at a place', () => {
  test('is the height of the plane through the points near it: 30 + 0.1 e − 0.2 n gives 30', () => {
    const east = [-1, 1, 0.5, -0.5, 0.2, -0.9];
    const north = [0.3, -0.4, 1, -1, 0.6, 0.8];
    const found = localElevation(
      east,
      north,
      east.map((e, i) => 30 + 0.1 * e - 0.2 * north[i]!),
    )!;
    expect(found.elevation).toBeCloseTo(30, 9);
    expect(found.scatter).toBeCloseTo(0, 9);
  });

  test('does not follow a tuft of grass 0.4 m high among twenty points', () => {
    const random = seededRandom(4);
    const at = Array.from({ length: 20 }, () => [random() * 2 - 1, random() * 2 - 1, 30 + 0.01 * (random() - 0.5)]);
    at[3]![2]! += 0.4;
    const found = localElevation(
      at.map((p) => p[0]!),
      at.map((p) => p[1]!),
      at.map((p) => p[2]!),
    )!;
    expect(found.elevation).toBeCloseTo(30, 2);
    expect(found.points).toBeLessThan(20);
  });

  test('is not told from three points, or from points in a line', () => {
    expect(localElevation([0, 1, 0], [0, 0, 1], [1, 1, 1])).toBeUndefined();
    expect(localElevation([0, 1, 2, 3, 4], [0, 1, 2, 3, 4], [1, 1, 1, 1, 1])).toBeUndefined();
  });
});

describe('what differences to control have in common', () => {
  const random = seededRandom(17);
  const site = Array.from({ length: 24 }, () => ({
    easting: 5e6 + random() * 600,
    northing: 6e6 + random() * 400,
    elevation: 100 + random() * 20,
    noise: 0.02 * (random() - 0.5),
  }));
  const withShape = (shape: (e: number, n: number, z: number) => number): ControlDifference[] =>
    site.map((p) => ({
      ...p,
      difference: shape(p.easting - 5e6 - 300, p.northing - 6e6 - 200, p.elevation) + p.noise,
    }));

  test('a shift alone is neither tilt nor bow', () => {
    expect(differencePattern(withShape(() => 0.12))).toMatchObject({
      isTilted: false,
      isBowed: false,
      unitRatio: undefined,
      mean: expect.closeTo(0.12, 2) as number,
    });
  });

  test('a tilt of 0.3 m across 600 m is told', () => {
    const pattern = differencePattern(withShape((e) => (0.3 * e) / 600))!;
    expect(pattern).toMatchObject({ isTilted: true, isBowed: false });
    expect(pattern.tilt).toBeGreaterThan(0.2);
  });

  test.each([
    ['dome', 1],
    ['bowl', -1],
  ])('a %s of 0.25 m is told with its sign', (_, sign) => {
    const pattern = differencePattern(withShape((e, n) => sign * 0.25 * (1 - (e * e + n * n) / 360 ** 2)))!;
    expect(pattern.isBowed).toBe(true);
    expect(pattern.bow * sign).toBeGreaterThan(0.15);
  });

  test('elevations in feet against metres are told', () => {
    expect(differencePattern(withShape((_, __, z) => z / 0.3048 - z))!.unitRatio).toBe('feet-as-metres');
    expect(differencePattern(withShape((_, __, z) => z * 0.3048 - z))!.unitRatio).toBe('metres-as-feet');
  });

  test('RMSE of ±0.10 m is 0.10 m, the worst keeps its sign', () => {
    const pattern = differencePattern(
      [0.1, -0.1, 0.1, -0.1].map((difference, i) => ({ easting: i, northing: 0, elevation: 1, difference })),
    )!;
    expect(pattern.rmse).toBeCloseTo(0.1, 12);
    expect(Math.abs(pattern.worst)).toBe(0.1);
    expect(differencePattern([])).toBeUndefined();
  });
});
