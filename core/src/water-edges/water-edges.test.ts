import { seededRandom } from '../task/index.js';
import { describe, expect, test } from 'vitest';
import { fallingLevels, waterEdges } from './index.js';

describe('levels that only fall', () => {
  test('those that fall stay as they are', () => expect(fallingLevels([5, 4, 3], [1, 1, 1])).toEqual([5, 4, 3]));

  test('those that rise are put together at their weighted mean', () => {
    expect(fallingLevels([5, 3, 4, 1], [1, 1, 1, 1])).toEqual([5, 3.5, 3.5, 1]);
    expect(fallingLevels([1, 4], [1, 3])).toEqual([3.25, 3.25]);
  });
});

describe('edges of water', () => {
  const options = { cell: 1, minimumArea: 20, reach: 3, leastFall: 0.2, bankTolerance: 0.1 };
  type Sampled = Record<'water' | 'land', { easting: Float64Array; northing: Float64Array; elevation: Float64Array }>;

  function scene(isWater: (e: number, n: number) => boolean, level: (e: number) => number, bank: number): Sampled {
    const random = seededRandom(3);
    const of: Record<'water' | 'land', number[][]> = { water: [], land: [] };
    for (let k = 0; k < 60_000; k++) {
      const [e, n] = [random() * 200, random() * 60];
      if (isWater(e, n)) of.water.push([e, n, level(e) + 0.02 * (random() - 0.5)]);
      else of.land.push([e, n, level(e) + bank]);
    }
    const columns = (rows: number[][]) => ({
      easting: Float64Array.from(rows, ([e]) => e!),
      northing: Float64Array.from(rows, ([, n]) => n!),
      elevation: Float64Array.from(rows, ([, , z]) => z!),
    });
    return { water: columns(of.water), land: columns(of.land) };
  }

  test('a pond lies at one level, all round', () => {
    const { water, land } = scene((e, n) => Math.hypot(e - 100, n - 30) < 20, () => 12, 0.5); // prettier-ignore
    const [pond, ...others] = waterEdges(water, land, options);
    expect(others).toEqual([]);
    expect(pond!.isFlowing).toBe(false);
    expect(new Set(pond!.rings[0]!.elevation).size).toBe(1);
    expect(pond!.high).toBeCloseTo(12, 2);
    expect(Math.abs(pond!.area - Math.PI * 400)).toBeLessThan(0.05 * Math.PI * 400);
    expect(pond!.lowBanks).toBe(0);
  });

  test('a reach that falls a metre over 200: both banks at one level across, falling all the way', () => {
    const { water, land } = scene((_, n) => Math.abs(n - 30) < 6, (e) => 15 - e / 200, 0.8); // prettier-ignore
    const [reach] = waterEdges(water, land, options);
    expect(reach!.isFlowing).toBe(true);
    expect(reach!.high - reach!.low).toBeCloseTo(1, 0);
    const { easting, elevation } = reach!.rings[0]!;
    const down = [...easting.keys()].sort((a, b) => easting[a]! - easting[b]!);
    for (let k = 1; k < down.length; k++)
      expect(elevation[down[k]!]).toBeLessThanOrEqual(elevation[down[k - 1]!]! + 0.001);
    for (const k of down) expect(Math.abs(elevation[k]! - (15 - easting[k]! / 200))).toBeLessThan(0.05);
  });

  test('water over its banks is told', () => {
    const { water, land } = scene((e, n) => Math.hypot(e - 100, n - 30) < 20, () => 12, -0.5); // prettier-ignore
    expect(waterEdges(water, land, options)[0]!.lowBanks).toBeGreaterThan(50);
  });
});
