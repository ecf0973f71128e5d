import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/seeded-random.js';
import { triangulate } from '../terrain/index.js';
import { FacetIndex } from '../volumes/facet-index.js';
import { elevationAt, profileOf, simplified } from './index.js';

function land(
  height: (e: number, n: number) => number,
  keeps: (e: number, n: number) => boolean = () => true,
  maximumEdge = 0,
) {
  const random = seededRandom(4);
  const places = Array.from({ length: 2500 }, (): [number, number] => [
    5_512_000 + random() * 100,
    6_150_000 + random() * 100,
  ]).filter(([e, n]) => keeps(e - 5_512_000, n - 6_150_000));
  return triangulate(
    Float64Array.from(places, ([e]) => e),
    Float64Array.from(places, ([, n]) => n),
    Float64Array.from(places, ([e, n]) => height(e - 5_512_000, n - 6_150_000)),
    { maximumEdge },
  ).tin;
}
const at = (e: number, n: number): [number, number] => [5_512_000 + e, 6_150_000 + n];

describe('profiles', () => {
  test('of a plane: two straight grades round a bend, stations by the plan', () => {
    const tin = land((e, n) => 20 + 0.03 * e - 0.02 * n);
    const profile = profileOf(tin, [at(20, 20), at(80, 20), at(80, 60)]);
    expect(profile.station.at(-1)).toBeCloseTo(100, 9);
    for (const s of [0, 17.3, 60, 81, 99]) {
      const [e, n] = s <= 60 ? [20 + s, 20] : [80, 20 + s - 60];
      expect(elevationAt(profile, s)).toBeCloseTo(20 + 0.03 * e - 0.02 * n, 8);
    }
    // Told by its three corners.
    expect(simplified(profile, 1e-6).station).toHaveLength(3);
  });

  test('is what the surface has at every place, for any line', () => {
    const tin = land((e, n) => 4 * Math.sin(e / 9) * Math.cos(n / 12));
    const index = new FacetIndex(tin, [0, 0]);
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 6, max: 94 }), fc.integer({ min: 6, max: 94 })), {
          minLength: 2,
          maxLength: 5,
        }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (corners, share) => {
          const line = corners.map(([e, n]) => at(e, n));
          const profile = profileOf(tin, line);
          const total = line
            .slice(1)
            .reduce((sum, p, k) => sum + Math.hypot(p[0] - line[k]![0], p[1] - line[k]![1]), 0);
          if (total === 0) return;
          let left = share * total;
          for (let k = 0; k + 1 < line.length; k++) {
            const [a, b] = [line[k]!, line[k + 1]!];
            const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
            if (left <= length && length > 0) {
              const [e, n] = [a[0] + ((b[0] - a[0]) * left) / length, a[1] + ((b[1] - a[1]) * left) / length];
              expect(elevationAt(profile, share * total)).toBeCloseTo(index.elevationAt(e, n)!, 5);
              return;
            }
            left -= length;
          }
        },
      ),
      { numRuns: 200 },
    );
  });

  test('a void is never bridged: no elevation over it, on either side what is there', () => {
    const tin = land(
      () => 7,
      (e, n) => Math.hypot(e - 50, n - 50) > 20,
      8,
    );
    const profile = profileOf(tin, [at(5, 50), at(95, 50)]);
    expect(elevationAt(profile, 10)).toBeCloseTo(7, 9);
    expect(elevationAt(profile, 45)).toBeNaN();
    expect(elevationAt(profile, 85)).toBeCloseTo(7, 9);
    expect(profileOf(tin, [at(-50, -50), at(-10, -10)]).elevation.every(Number.isNaN)).toBe(true);
  });
});
