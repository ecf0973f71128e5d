import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import { triangulate, type Tin } from '../terrain/index.js';
import { FacetIndex, volumeBetween } from './index.js';

function surface(
  height: (e: number, n: number) => number,
  [low, high]: readonly [number, number],
  count: number,
  seed: number,
): Tin {
  const random = seededRandom(seed);
  const places: [number, number][] = [[low, low], [high, low], [high, high], [low, high]]; // prettier-ignore
  for (let i = 0; i < count; i++) places.push([low + random() * (high - low), low + random() * (high - low)]);
  const e = Float64Array.from(places, ([x]) => x);
  const n = Float64Array.from(places, ([, y]) => y);
  return triangulate(
    e,
    n,
    Float64Array.from(e, (x, i) => height(x, n[i]!)),
  ).tin;
}

const polygon = (corners: readonly (readonly [number, number])[]): Tin =>
  triangulate(new Float64Array(), new Float64Array(), new Float64Array(), { maximumEdge: 0 }, [
    {
      role: 'boundary',
      isClosed: true,
      easting: corners.map(([x]) => x),
      northing: corners.map(([, y]) => y),
      elevation: corners.map(() => 0),
    },
  ]).tin;

describe('volumes', () => {
  test('a slab between two levels: area times height', () => {
    const { cut, fill, fillArea, uncovered } = volumeBetween(
      surface(() => 12, [0, 100], 200, 1),
      surface(() => 10, [0, 100], 300, 2),
    );
    expect(cut).toBeCloseTo(0, 9);
    expect(fill).toBeCloseTo(20_000, 6);
    expect(fillArea).toBeCloseTo(10_000, 6);
    expect(uncovered).toBeCloseTo(0, 6);
  });

  test('two planes that cross: a wedge of cut and one of fill', () => {
    // z = (e - 40) / 10 over the level 0 on 100 x 100: cut 40 * 4 / 2 * 100 = 8000, fill 60 * 6 / 2 * 100 = 18000.
    const tilted = surface((e) => (e - 40) / 10, [0, 100], 150, 3);
    for (const second of [0, surface(() => 0, [0, 100], 90, 4)]) {
      const volume = volumeBetween(tilted, second);
      expect(volume.cut).toBeCloseTo(8000, 5);
      expect(volume.fill).toBeCloseTo(18_000, 5);
      expect(volume.cutArea).toBeCloseTo(4000, 5);
      expect(volume.fillArea).toBeCloseTo(6000, 5);
    }
  });

  test('a frustum of a pyramid: h / 3 (A + a + sqrt(A a)); the prismoidal formula says the same', () => {
    // Base 60 x 60 at 0, top 20 x 20 at 8: its rims given as corners, so that the facets are its faces.
    const corners: [number, number, number][] = [];
    for (const [half, z] of [[30, 0], [10, 8]] as const) for (const [u, v] of [[-1, -1], [1, -1], [1, 1], [-1, 1]] as const) corners.push([50 + u * half, 50 + v * half, z]); // prettier-ignore
    const heap = triangulate(
      Float64Array.from(corners, ([e]) => e),
      Float64Array.from(corners, ([, n]) => n),
      Float64Array.from(corners, ([, , z]) => z),
      { maximumEdge: 0 },
      [0, 4].map((first) => ({
        role: 'breakline' as const,
        isClosed: true,
        easting: corners.slice(first, first + 4).map(([e]) => e),
        northing: corners.slice(first, first + 4).map(([, n]) => n),
        elevation: corners.slice(first, first + 4).map(([, , z]) => z),
      })),
    ).tin;
    const [base, top, h] = [3600, 400, 8];
    const frustum = (h / 3) * (base + top + Math.sqrt(base * top));
    const prismoidal = (h / 6) * (base + 4 * 40 * 40 + top);
    expect(frustum).toBeCloseTo(prismoidal, 9);
    expect(volumeBetween(heap, 0).fill).toBeCloseTo(frustum, 6);
  });

  test('within an outline, a concave one too, nothing else counts', () => {
    const level = surface(() => 3, [0, 100], 400, 5);
    const corner = polygon([[10, 10], [60, 10], [60, 30], [30, 30], [30, 60], [10, 60]]); // prettier-ignore
    expect(volumeBetween(level, 1, corner).fill).toBeCloseTo(2 * (50 * 20 + 20 * 30), 6);
  });

  test('what the other surface does not cover is told and left out', () => {
    const { fill, uncovered } = volumeBetween(surface(() => 1, [0, 100], 100, 6), surface(() => 0, [0, 50], 100, 7)); // prettier-ignore
    expect(fill).toBeCloseTo(2500, 5);
    expect(uncovered).toBeCloseTo(7500, 5);
  });

  test('fill less cut is the difference of the volumes over a level, and turned round they change places (property)', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), (seed) => {
        const one = surface((e, n) => 4 * Math.sin(e / 15) + Math.cos(n / 9), [0, 100], 120, seed);
        const other = surface((e, n) => 3 * Math.cos(e / 11) - Math.sin(n / 7), [0, 100], 150, seed + 1);
        const there = volumeBetween(one, other);
        const back = volumeBetween(other, one);
        expect(there.cut).toBeCloseTo(back.fill, 4);
        expect(there.fill).toBeCloseTo(back.cut, 4);
        const net = (v: { fill: number; cut: number }): number => v.fill - v.cut;
        expect(net(there)).toBeCloseTo(net(volumeBetween(one, 0)) - net(volumeBetween(other, 0)), 4);
      }),
      { seed: 1974, numRuns: 25 },
    );
  });

  test('elevation at a place, and none beside the surface', () => {
    const index = new FacetIndex(
      surface((e, n) => e + 2 * n, [0, 10], 40, 8),
      [0, 0],
    );
    expect(index.elevationAt(3, 4)).toBeCloseTo(11, 9);
    expect(index.elevationAt(11, 4)).toBeUndefined();
  });
});
