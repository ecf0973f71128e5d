import { describe, expect, test } from 'vitest';
import {
  addDifferences,
  differencesAt,
  mergeDifferences,
  newDifferenceSums,
  summarise,
  surfaceDifference,
  thinnedSurface,
  type SurfacePoints,
} from './index.js';

/** A repeatable sequence in 0 to 1 (Park and Miller 1988). */
function sequence(seed: number): () => number {
  let state = seed;
  return () => (state = (state * 48_271) % 2_147_483_647) / 2_147_483_647;
}

function scatter(count: number, heightAt: (x: number, y: number) => number, seed = 7): SurfacePoints {
  const next = sequence(seed);
  const x = Float64Array.from({ length: count }, () => 100 * next());
  const y = Float64Array.from({ length: count }, () => 100 * next());
  return { x, y, z: Float64Array.from(x, (px, i) => heightAt(px, y[i]!)) };
}

const firstFour = (count: number): Uint8Array => Uint8Array.from({ length: count }, (_, i) => (i < 4 ? 1 : 0));

/** Four corners about the scattered points, at a height. */
function withCorners(points: SurfacePoints, height: number): SurfacePoints {
  [0, 1, 2, 3].forEach((i) => {
    points.x[i] = i % 2 === 0 ? -1 : 101;
    points.y[i] = i < 2 ? -1 : 101;
    points.z[i] = height;
  });
  return points;
}

describe('difference of a thinned surface', () => {
  test('is what a known bump makes it', () => {
    const points = withCorners(scatter(104, () => 10), 10); // prettier-ignore
    points.z[50] = 10.3;
    const { compared, outside, mean, rmse, worst, within95 } = surfaceDifference(points, firstFour(104));
    expect([compared, outside]).toEqual([100, 0]);
    expect(mean).toBeCloseTo(-0.003, 6);
    expect(rmse).toBeCloseTo(0.03, 6);
    expect(worst).toBeCloseTo(0.3, 6);
    expect(within95).toBeLessThanOrEqual(1e-4);
  });

  test('95 % within is the ranked size, rounded up to a ten-thousandth', () => {
    const next = sequence(3);
    const points = withCorners(
      scatter(2004, () => 20 + 4 * (next() - 0.5)),
      20,
    );
    const ranked = [...points.z.subarray(4)].map((z) => Math.abs(20 - z)).sort((a, b) => a - b);
    const exact = ranked[Math.ceil(0.95 * ranked.length) - 1]!;
    const { within95, worst } = surfaceDifference(points, firstFour(2004));
    expect(within95).toBeGreaterThanOrEqual(exact - 1e-6);
    expect(within95).toBeLessThan(exact + 1.1e-4);
    expect(worst).toBeCloseTo(ranked.at(-1)!, 5);
  });

  test('is the same piece by piece, in whatever order, about another corner', () => {
    const next = sequence(11);
    const kept = scatter(300, (x, y) => Math.sin(x / 9) + Math.cos(y / 7), 5);
    const aside = scatter(5000, (x, y) => Math.sin(x / 9) + Math.cos(y / 7) + 0.1 * next(), 9);
    const surface = thinnedSurface(kept);
    const all = Uint32Array.from({ length: surface.corners.length / 3 }, (_, f) => f);
    const whole = newDifferenceSums();
    addDifferences(whole, differencesAt(aside, surface, all));
    const parts = newDifferenceSums();
    for (const west of [75, 0, 50, 25]) {
      const own = [...aside.x.keys()].filter((i) => aside.x[i]! >= west && aside.x[i]! < west + 25);
      const piece = {
        x: Float64Array.from(own, (i) => aside.x[i]! - west),
        y: Float64Array.from(own, (i) => aside.y[i]! + 1000),
        z: Float64Array.from(own, (i) => aside.z[i]!),
      };
      const near = all.filter((f) => {
        const xs = [0, 1, 2].map((side) => surface.x[surface.corners[3 * f + side]!]!);
        return Math.max(...xs) >= west && Math.min(...xs) <= west + 25;
      });
      const sums = newDifferenceSums();
      addDifferences(sums, differencesAt(piece, surface, near, -west, 1000));
      mergeDifferences(parts, sums);
    }
    const [one, other] = [summarise(whole), summarise(parts)];
    expect(other.compared).toBe(one.compared);
    expect(other.outside).toBe(one.outside);
    for (const figure of ['mean', 'rmse', 'within95', 'worst'] as const)
      expect(other[figure]).toBeCloseTo(one[figure], 4);
  });

  test('points beyond the surface are told, and two points make none', () => {
    const points = scatter(50, () => 1);
    const { compared, outside } = surfaceDifference(
      points,
      Uint8Array.from({ length: 50 }, (_, i) => (i < 2 ? 1 : 0)),
    );
    expect([compared, outside]).toEqual([0, 48]);
  });
});
