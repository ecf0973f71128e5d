import { describe, expect, test } from 'vitest';
import { signedArea } from '../measuring/index.js';
import { seededRandom } from '../task/seeded-random.js';
import { editTin, tinFacts, triangulate, type Tin } from '../terrain/index.js';
import { filledBands } from './index.js';

function land(height: (e: number, n: number) => number, count = 900, seed = 4): Tin {
  const random = seededRandom(seed);
  const places = [[0, 0], [40, 0], [40, 30], [0, 30]]; // prettier-ignore
  while (places.length < count) places.push([random() * 40, random() * 30]);
  const of = (pick: (p: number[]) => number): Float64Array => Float64Array.from(places, pick);
  return triangulate(
    of((p) => p[0]!),
    of((p) => p[1]!),
    of((p) => height(p[0]!, p[1]!)),
  ).tin;
}

describe('filled bands', () => {
  test('of a plane are strips of equal area, the corners cut', () => {
    const bands = filledBands(
      land((e) => e / 10),
      { interval: 1, base: 0 },
    );
    expect(bands.map(({ low, high }) => [low, high])).toEqual([[0, 1], [1, 2], [2, 3], [3, 4]]); // prettier-ignore
    for (const { area, polygons } of bands) {
      expect(area).toBeCloseTo(300, 6);
      expect(polygons).toHaveLength(1);
    }
  });

  test('fill the surface without gap or overlap, holes of it too, whatever its shape', () => {
    for (let seed = 1; seed < 8; seed++) {
      const random = seededRandom(seed);
      const rough = land((e, n) => 3 * Math.sin(e / 4) * Math.cos(n / 5) + Math.round(2 * random()), 500, seed);
      const square = [[15, 10], [25, 10], [25, 20], [15, 20]] as const; // prettier-ignore
      for (const tin of [rough, editTin(rough, [{ kind: 'drop-within', outline: square }]).tin]) {
        const bands = filledBands(tin, { interval: 0.5, base: 0 });
        const areas = bands.reduce((sum, { area }) => sum + area, 0);
        // Slivers where a ring touches itself are left out.
        expect(areas).toBeCloseTo(tinFacts(tin).areaInPlan, 4);
        // Rings and holes make up each band's area: no ring was lost.
        for (const { polygons, area } of bands)
          expect(polygons.flat().reduce((sum, ring) => sum + signedArea(ring), 0)).toBeCloseTo(area, 4);
      }
    }
  });

  test('where levels pass through corners and along sides, no side bounds a band twice', () => {
    for (let seed = 1; seed < 8; seed++) {
      // Heights in tenths, as clouds have them in millimetres: ridges and flats lie just at a level.
      const tin = land((e, n) => Math.round(20 * Math.sin(e / 6) * Math.cos(n / 5)) / 10, 700, seed);
      const bands = filledBands(tin, { interval: 0.5, base: 0 });
      expect(bands.reduce((sum, { area }) => sum + area, 0)).toBeCloseTo(tinFacts(tin).areaInPlan, 4);
      for (const { polygons } of bands) {
        const sides = new Set<string>();
        let count = 0;
        for (const ring of polygons.flat())
          for (let k = 0; k < ring.length; k++) {
            const [a, b] = [ring[k]!, ring[(k + 1) % ring.length]!].map(([e, n]) => `${e.toFixed(6)} ${n.toFixed(6)}`);
            sides.add(a! < b! ? `${a} ${b}` : `${b} ${a}`);
            count++;
          }
        expect(sides.size).toBe(count);
      }
    }
  });

  test('a hill has rings with holes in them, and a top without', () => {
    const bands = filledBands(
      land((e, n) => 10 - Math.hypot(e - 20, n - 15), 4000),
      { interval: 2, base: 0 },
    );
    const [top, below] = [bands.at(-1)!, bands.at(-2)!];
    expect([top.low, top.polygons.length, top.polygons[0]!.length]).toEqual([8, 1, 1]);
    expect(below.polygons[0]).toHaveLength(2);
    expect(top.area).toBeGreaterThan(0.96 * Math.PI * 4);
    expect(top.area).toBeLessThan(Math.PI * 4);
  });
});
