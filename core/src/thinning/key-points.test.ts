import Delaunator from 'delaunator';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import { keyPoints, type SurfacePoints } from './index.js';

function scatter(count: number, height: (x: number, y: number) => number, seed = 7): SurfacePoints {
  const random = seededRandom(seed);
  const x = Float64Array.from({ length: count }, () => Math.round(random() * 100_000) / 1000);
  const y = Float64Array.from({ length: count }, () => Math.round(random() * 100_000) / 1000);
  return { x, y, z: Float64Array.from(x, (v, i) => height(v, y[i]!)) };
}

/** Worst distance of any point from the TIN of the kept ones, facet by facet and point by point: slow and plain. */
function worstOff({ x, y, z }: SurfacePoints, isKept: Uint8Array): number {
  const kept = [...x.keys()].filter((i) => isKept[i] === 1);
  const { triangles } = Delaunator.from(kept.map((i) => [x[i]!, y[i]!] as [number, number]));
  let worst = 0;
  for (let i = 0; i < x.length; i++) {
    let best = Infinity;
    for (let f = 0; f < triangles.length; f += 3) {
      const [a, b, c] = [kept[triangles[f]!]!, kept[triangles[f + 1]!]!, kept[triangles[f + 2]!]!];
      const area = (x[b]! - x[a]!) * (y[c]! - y[a]!) - (y[b]! - y[a]!) * (x[c]! - x[a]!);
      const wb = ((x[i]! - x[a]!) * (y[c]! - y[a]!) - (y[i]! - y[a]!) * (x[c]! - x[a]!)) / area;
      const wc = ((x[b]! - x[a]!) * (y[i]! - y[a]!) - (y[b]! - y[a]!) * (x[i]! - x[a]!)) / area;
      if (wb < -1e-9 || wc < -1e-9 || wb + wc > 1 + 1e-9) continue;
      best = Math.min(best, Math.abs(z[a]! + (z[b]! - z[a]!) * wb + (z[c]! - z[a]!) * wc - z[i]!));
    }
    expect(best, `point ${i} lies in a facet`).toBeLessThan(Infinity);
    worst = Math.max(worst, best);
  }
  return worst;
}

const count = (mask: Uint8Array): number => mask.reduce((sum, bit) => sum + bit, 0);

describe('model key points', () => {
  test('a plane needs its hull and the first scatter, no more', () => {
    const points = scatter(4000, (x, y) => 5 + 0.3 * x - 0.2 * y);
    const { isKept, unheld } = keyPoints(points, 0.01);
    expect(unheld).toBe(0);
    // 24 by 24 squares, and the hull.
    expect(count(isKept)).toBeLessThan(660);
    expect(worstOff(points, isKept)).toBeLessThan(1e-9);
  });

  test('every point lies within the tolerance, whatever the land (property)', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.double({ min: 0.02, max: 1, noNaN: true }),
        fc.double({ min: 0.2, max: 6, noNaN: true }),
        (seed, tolerance, rough) => {
          const random = seededRandom(seed);
          const points = scatter(500, (x, y) => rough * Math.sin(x / 9) * Math.cos(y / 13) + 0.3 * random(), seed);
          const { isKept } = keyPoints(points, tolerance);
          expect(worstOff(points, isKept)).toBeLessThanOrEqual(tolerance * (1 + 1e-9));
        },
      ),
      { seed: 1995, numRuns: 25 },
    );
  });

  test('a wider tolerance keeps fewer; a curved half more than an even one', () => {
    const points = scatter(20_000, (x) => (x < 50 ? 0 : 3 * Math.sin(x / 2)));
    const [tight, wide] = [keyPoints(points, 0.05), keyPoints(points, 0.5)];
    expect(count(wide.isKept)).toBeLessThan(count(tight.isKept));
    const share = (from: number, to: number): number =>
      points.x.reduce((sum, x, i) => sum + (x >= from && x < to ? tight.isKept[i]! : 0), 0);
    expect(share(55, 95)).toBeGreaterThan(4 * share(5, 45));
  });

  test('the order of the points does not matter', () => {
    const points = scatter(3000, (x, y) => Math.sin(x / 8) + Math.cos(y / 6));
    const random = seededRandom(4);
    const order = [...points.x.keys()].sort(() => random() - 0.5);
    const of = (values: Float64Array): Float64Array => Float64Array.from(order, (i) => values[i]!);
    const one = keyPoints(points, 0.1).isKept;
    const other = keyPoints({ x: of(points.x), y: of(points.y), z: of(points.z) }, 0.1).isKept;
    expect([...other]).toEqual(order.map((i) => one[i]));
  });

  test('two heights at one place are told, not chased', () => {
    const points = scatter(200, () => 0);
    points.x[1] = points.x[0]!;
    points.y[1] = points.y[0]!;
    points.z[1] = 9;
    const { unheld } = keyPoints(points, 0.1);
    expect(unheld).toBeLessThanOrEqual(1);
  });

  test.each([0, 1, 2, 3])('%i points', (n) => {
    const { isKept } = keyPoints(
      scatter(n, () => 1),
      0.1,
    );
    expect(count(isKept)).toBe(n);
  });

  test('points in a line', () => {
    const x = Float64Array.from({ length: 50 }, (_, i) => i);
    expect(() => keyPoints({ x, y: x.slice(), z: new Float64Array(50) }, 0.1)).not.toThrow();
  });
});
