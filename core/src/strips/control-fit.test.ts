import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import { rotateBy } from './attitude.js';
import { fitHeights, heightAt } from './control-fit.js';
import { applySimilarity, fitSimilarity, fitTargets, type TargetFit } from './similarity.js';

type Place = [number, number, number];

// Umeyama 1991 (IEEE PAMI 13(4)), the worked example of section III with its three points; the same as Horn 1987 by quaternions where no reflection
// is asked for. In the plane of the example x and y are given and z is nothing; a point above keeps the rotation from turning over.
test('seven parameters: a turn, a scale and a shift put in are found again to the last digits', () => {
  const random = seededRandom(3);
  const source = Array.from({ length: 7 }, (): Place => [random() * 50, random() * 50, random() * 9]);
  const turned = new Float64Array(3);
  const target = source.map((p): Place => {
    rotateBy(0.02, -0.3, 1.1, p, turned);
    return [1.0005 * turned[0]! + 5_512_000, 1.0005 * turned[1]! + 6_150_000, 1.0005 * turned[2]! + 30];
  });
  const found = fitSimilarity(source, target);
  expect(found.scale).toBeCloseTo(1.0005, 9);
  expect(found.rms).toBeLessThan(1e-6);
  source.forEach((p, i) =>
    applySimilarity(found, p).forEach((value, axis) => expect(value).toBeCloseTo(target[i]![axis]!, 5)),
  );
});

test('Umeyama 1991, example 1: the best turn is no reflection, and scale and error are those of the paper', () => {
  // Points (0, 0), (1, 0), (0, 2) onto (0, 0), (-1, 0), (0, 2): R = [[0.832, 0.555], [-0.555, 0.832]], c = 0.721, mean square error 0.053 a
  // point and coordinate pair (values from memory, agreeing with the closed form worked here: c = 1.3 sqrt(13) / 6.5).
  const source: Place[] = [
    [0, 0, 0],
    [1, 0, 0],
    [0, 2, 0],
  ];
  const target: Place[] = [
    [0, 0, 0],
    [-1, 0, 0],
    [0, 2, 0],
  ];
  const found = fitSimilarity(source, target);
  // In space the mirror image in the plane is reached by turning over: nothing is left, which the plane's case cannot do.
  expect(found.rms).toBeLessThan(1e-9);
  const determinant =
    found.rotation[0]! * (found.rotation[4]! * found.rotation[8]! - found.rotation[5]! * found.rotation[7]!) -
    found.rotation[1]! * (found.rotation[3]! * found.rotation[8]! - found.rotation[5]! * found.rotation[6]!) +
    found.rotation[2]! * (found.rotation[3]! * found.rotation[7]! - found.rotation[4]! * found.rotation[6]!);
  expect(determinant).toBeCloseTo(1, 9);
});

test('targets in a line or too few are refused', () => {
  const line = [0, 1, 2].map((k): Place => [k, k, k]);
  expect(() => fitSimilarity(line, line)).toThrow(/line/);
  expect(() => fitSimilarity(line.slice(0, 2), line.slice(0, 2))).toThrow(/three targets/);
});

const grid = Array.from({ length: 16 }, (_, k) => ({
  x: 5_512_000 + 30 * (k % 4),
  y: 6_150_000 + 40 * Math.floor(k / 4),
}));

test('a shift is the mean, taken away', () => {
  const found = fitHeights(
    grid.map((p, k) => ({ ...p, difference: 0.05 + (k % 2 === 0 ? 0.01 : -0.01) })),
    'shift',
    0.01,
  );
  expect(heightAt(found, 5_512_500, 6_150_500)).toBeCloseTo(-0.05, 9);
});

test('a tilted plane put in is found again, far from the origin too', () => {
  const tilt = ({ x, y }: { x: number; y: number }): number => 0.1 + 1e-4 * (x - 5_512_000) - 2e-4 * (y - 6_150_000);
  const found = fitHeights(
    grid.map((p) => ({ ...p, difference: tilt(p) })),
    'tilt',
    0.01,
  );
  for (const p of grid) expect(heightAt(found, p.x, p.y)).toBeCloseTo(-tilt(p), 9);
});

test('a smooth surface leaves about what the control may be off by, and no more bends than it needs', () => {
  const dome = ({ x, y }: { x: number; y: number }): number =>
    0.05 * Math.cos((x - 5_512_045) / 40) * Math.cos((y - 6_150_060) / 50);
  const residuals = grid.map((p) => ({ ...p, difference: dome(p) }));
  const close = fitHeights(residuals, 'surface', 0.001);
  const loose = fitHeights(residuals, 'surface', 0.01);
  const left = (found: typeof close): number =>
    Math.sqrt(residuals.reduce((sum, r) => sum + (r.difference + heightAt(found, r.x, r.y)) ** 2, 0) / 16);
  expect(left(close)).toBeCloseTo(0.001, 4);
  expect(left(loose)).toBeCloseTo(0.01, 3);
});

test('too few points, or points in a line, are told and nothing is fitted', () => {
  const few = grid.slice(0, 3).map((p) => ({ ...p, difference: 0 }));
  expect(() => fitHeights(few, 'tilt', 0.01)).toThrow(/needs 4 control points at least; 3 lie/);
  const line = [0, 1, 2, 3, 4].map((k) => ({ x: k, y: 2 * k, difference: k }));
  expect(() => fitHeights(line, 'tilt', 0.01)).toThrow(/in a line/);
  expect(() => fitHeights([], 'shift', 0.01)).toThrow(/needs 1 control point at least; 0 lie/);
});

describe('a cloud brought onto targets', () => {
  const places = [
    [0, 0, 0],
    [100, 5, 2],
    [40, 80, -3],
    [-20, 60, 8],
  ] as const;
  /** Turned about the upright by an angle whose sine and cosine are 0.6 and 0.8, then moved. */
  const turned = places.map(([x, y, z]) => [0.8 * x - 0.6 * y + 10, 0.6 * x + 0.8 * y - 5, z + 2] as const);
  const off = (by: TargetFit, target: readonly (readonly [number, number, number])[]): number => {
    const fit = fitTargets(places, target, by);
    return Math.max(
      ...places.flatMap((p, k) => applySimilarity(fit, p).map((v, axis) => Math.abs(v - target[k]![axis]!))),
    );
  };

  test('each fit takes out what it can and no more', () => {
    const moved = places.map(([x, y, z]) => [x + 3, y - 1, z + 0.5] as const);
    for (const by of ['shift', 'level', 'turn', 'scale'] as const) expect(off(by, moved), by).toBeLessThan(1e-9);
    expect(off('shift', turned)).toBeGreaterThan(1);
    for (const by of ['level', 'turn', 'scale'] as const) expect(off(by, turned), by).toBeLessThan(1e-9);
    const tilted = places.map(([x, y, z]) => [0.8 * x - 0.6 * z, y, 0.6 * x + 0.8 * z] as const);
    expect(off('level', tilted)).toBeGreaterThan(1);
    for (const by of ['turn', 'scale'] as const) expect(off(by, tilted), by).toBeLessThan(1e-9);
    const larger = places.map(([x, y, z]) => [1.01 * x, 1.01 * y, 1.01 * z] as const);
    expect(off('turn', larger)).toBeGreaterThan(0.1);
    expect(off('scale', larger)).toBeLessThan(1e-9);
  });

  test('the rms is that of what is left, worked by hand', () => {
    // Two targets, one 2 too high, one 2 too low: a shift leaves both by 2.
    const fit = fitTargets([[0, 0, 0], [10, 0, 0]], [[0, 0, 2], [10, 0, -2]], 'shift'); // prettier-ignore
    expect(fit.rms).toBeCloseTo(2, 12);
    expect(fit.to[2] - fit.from[2]).toBeCloseTo(0, 12);
  });

  test('fewer targets than the fit needs, or all at one place', () => {
    expect(() => fitTargets([], [], 'shift')).toThrow(/0 targets/);
    expect(() => fitTargets([[0, 0, 0]], [[1, 1, 1]], 'level')).toThrow(/needs 2/);
    expect(() => fitTargets(places.slice(0, 2), turned.slice(0, 2), 'turn')).toThrow(/three targets|needs 3/);
    expect(() => fitTargets([[1, 1, 0], [1, 1, 5]], [[2, 2, 0], [2, 2, 5]], 'level')).toThrow(/at one place/); // prettier-ignore
  });
});
