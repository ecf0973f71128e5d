import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/seeded-random.js';
import { cutTin, sampleTin, tinFacts, triangulate, type TerrainLine, type Tin } from './index.js';
import { isWhole } from './whole-tin.fixture.js';

const BASE = [5_512_000, 6_150_000] as const;
const height = (e: number, n: number): number => 30 + 2 * Math.sin(e / 9) + Math.cos(n / 7) + (e + n) / 50;

/** A hundred by a hundred metres of hills, in full coordinates. */
function hills(seed: number, count: number, lines: TerrainLine[] = [], from = 0, to = 100): Tin {
  const random = seededRandom(seed);
  const places = Array.from({ length: count }, () => [BASE[0] + random() * 100, BASE[1] + random() * 100] as const);
  const used = places.filter(([e]) => e - BASE[0] >= from && e - BASE[0] <= to);
  const [e, n] = [Float64Array.from(used, ([x]) => x), Float64Array.from(used, ([, y]) => y)];
  const z = Float64Array.from(e, (x, i) => height(x - BASE[0], n[i]! - BASE[1]));
  return triangulate(e, n, z, undefined, lines).tin;
}
const land = (west: number, south: number, east: number, north: number) => ({ west: BASE[0] + west, south: BASE[1] + south, east: BASE[0] + east, north: BASE[1] + north }); // prettier-ignore

describe('a surface cut to a rectangle', () => {
  test('covers it to the last digit, and is whole', () => {
    const cut = cutTin(hills(3, 900), land(20, 30, 70, 60));
    isWhole(cut);
    expect(tinFacts(cut).areaInPlan).toBeCloseTo(50 * 30, 8);
    const [e, n] = [Array.from(cut.easting, (x) => x + cut.origin[0]), Array.from(cut.northing, (y) => y + cut.origin[1])]; // prettier-ignore
    expect([Math.min(...e), Math.max(...e)]).toEqual([BASE[0] + 20, BASE[0] + 70]);
    expect([Math.min(...n), Math.max(...n)]).toEqual([BASE[1] + 30, BASE[1] + 60]);
  });

  test('has the elevations it had', () => {
    const whole = hills(4, 900);
    const box = land(20, 30, 70, 60);
    const frame = { east: box.west, north: box.south, cell: 0.5, columns: 100, rows: 60 };
    const [before, after] = [sampleTin(whole, frame), sampleTin(cutTin(whole, box), frame)];
    after.forEach((value, at) => expect(value).toBeCloseTo(before[at]!, 4));
  });

  test('cut where corners lie on the edge makes no triangle without area', () => {
    // A lattice of metres: every edge of the rectangle runs through corners and along sides.
    const places = Array.from({ length: 121 }, (_, k) => [k % 11, Math.floor(k / 11)] as const);
    const lattice = triangulate(
      Float64Array.from(places, ([x]) => BASE[0] + x),
      Float64Array.from(places, ([, y]) => BASE[1] + y),
      Float64Array.from(places, ([x, y]) => x * y),
    ).tin;
    const cut = cutTin(lattice, land(2, 3, 7, 8));
    isWhole(cut);
    expect(cut.facets.length / 3).toBe(2 * 5 * 5);
    expect(cut.easting.length).toBe(36);
  });

  test('keeps breaklines, and the cut itself is none', () => {
    const ridge = { role: 'breakline', easting: Float64Array.of(BASE[0] + 5, BASE[0] + 95), northing: Float64Array.of(BASE[1] + 41, BASE[1] + 52), elevation: Float64Array.of(60, 60), isClosed: false } as never; // prettier-ignore
    const cut = cutTin(hills(5, 600, [ridge]), land(20, 30, 70, 60));
    isWhole(cut);
    let along = 0;
    cut.held!.forEach((mark, h) => {
      if (mark === 0) return;
      const next = h % 3 === 2 ? h - 2 : h + 1;
      const [a, b] = [cut.facets[h]!, cut.facets[next]!];
      expect([cut.elevation[a], cut.elevation[b]]).toEqual([60, 60]);
      along += Math.hypot(cut.easting[a]! - cut.easting[b]!, cut.northing[a]! - cut.northing[b]!) / 2;
    });
    // 50 m of it in easting, at its slope of 11 in 90; each side counted by both its triangles.
    expect(along).toBeCloseTo(50 * Math.hypot(1, 11 / 90), 6);
  });

  test('that holds it all leaves it as it is', () => {
    const whole = hills(6, 300);
    const cut = cutTin(whole, land(-10, -10, 110, 110));
    expect(tinFacts(cut)).toEqual(tinFacts(whole));
    expect(cut.twins).toEqual(whole.twins);
  });

  test('that holds nothing of it is refused in words', () => {
    expect(() => cutTin(hills(7, 100), land(200, 0, 300, 100))).toThrow(/square of this job/);
  });
});
