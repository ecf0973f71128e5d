import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import { addLoneliness, isolatedPoints, lonelinessOf, proposeIsolation, proposeLowPoints } from './index.js';
import type { Places } from './index.js';

/** Even ground, a sparse crown over a quarter of it whose points thin out, and a few false points high up; the false ones last. */
function sparseWood(seed: number, side = 100, spacing = 0.5, falsePoints = 12): { places: Places; firstFalse: number } {
  const random = seededRandom(seed);
  const ground = (side / spacing) ** 2;
  const crown = ground / 8;
  const count = ground + crown + falsePoints;
  const [x, y, z] = [new Float64Array(count), new Float64Array(count), new Float64Array(count)];
  for (let i = 0; i < count; i++) {
    x[i] = side * random();
    y[i] = side * random();
    if (i < ground) z[i] = 0.02 * random();
    else if (i < ground + crown) {
      x[i] = (side / 2) * random();
      y[i] = (side / 2) * random();
      // Twigs get rarer with height.
      z[i] = 2 - 3 * Math.log(1 - random());
    } else z[i] = 60 + 60 * random();
  }
  return { places: { count, x, y, z }, firstFalse: ground + crown };
}

describe('the radius proposed for isolated points', () => {
  test.each([1, 2, 3, 4])('finds false points and leaves thin crowns, seed %d', (seed) => {
    const { places, firstFalse } = sparseWood(seed);
    const spacing = 0.5;
    const settings = proposeIsolation(lonelinessOf(places, spacing));
    const found = isolatedPoints(places, settings);
    const alone = found.reduce((sum, bit) => sum + bit, 0);
    const right = found.subarray(firstFalse).reduce((sum, bit) => sum + bit, 0);
    expect(right).toBe(places.count - firstFalse);
    expect(right / alone).toBeGreaterThanOrEqual(0.7);
    // With a metre typed once for every cloud most of what is found is branches.
    const typed = isolatedPoints(places, { radius: 1, leastNeighbours: 3 }).reduce((sum, bit) => sum + bit, 0);
    expect(typed).toBeGreaterThan(20 * alone);
  });

  test('a cloud without a false point has none found', () => {
    const { places } = sparseWood(7, 60, 0.5, 0);
    const flat: Places = { ...places, z: places.z.map(() => 0) };
    const settings = proposeIsolation(lonelinessOf(flat, 0.5));
    expect(isolatedPoints(flat, settings).every((bit) => bit === 0)).toBe(true);
  });

  test('is the same whatever the order of the points', () => {
    const { places } = sparseWood(5);
    const turned: Places = {
      count: places.count,
      x: places.x.toReversed(),
      y: places.y.toReversed(),
      z: places.z.toReversed(),
    };
    expect(proposeIsolation(lonelinessOf(turned, 0.5))).toEqual(proposeIsolation(lonelinessOf(places, 0.5)));
  });

  test('who is left over from radius to radius is who is alone at each', () => {
    const { places } = sparseWood(8, 60);
    const judged = places.count - 500;
    const { radii, alone } = lonelinessOf(places, 0.5, judged);
    expect(alone.length).toBeGreaterThan(4);
    for (const [k, radius] of radii.entries()) {
      const direct = isolatedPoints(places, { radius, leastNeighbours: 4 }, judged);
      expect(alone[k]).toBe(direct.reduce((sum, bit) => sum + bit, 0));
    }
  });

  test('pieces are counted together, also where one ran out sooner', () => {
    const all = addLoneliness([
      { radii: [1, 2, 3], alone: [10, 5, 4], judged: 100 },
      { radii: [1, 2], alone: [3, 0], judged: 50 },
    ]);
    expect(all).toEqual({ radii: [1, 2, 3], alone: [13, 5, 4], judged: 150 });
    expect(proposeIsolation(all).radius).toBe(2);
    expect(addLoneliness([])).toEqual({ radii: [], alone: [], judged: 0 });
  });
});

describe('the cluster proposed for low points', () => {
  test('is large for photographs, small under trees', () => {
    const of = (manyReturns: number, hasColour: boolean): number =>
      proposeLowPoints({ manyReturns, hasColour }).settings.largestCluster;
    expect(of(0, true)).toBeGreaterThan(of(0.02, true));
    expect(of(0.02, false)).toBeGreaterThan(of(0.5, false));
    expect(of(0, false)).toBe(of(0.02, true)); // without colour one return a point is an old scanner
  });
});
