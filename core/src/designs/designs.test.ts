import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { shapeOf, type LineShape } from '../lines/index.js';
import { seededRandom } from '../task/index.js';
import { sampleTin, triangulate, type Tin } from '../terrain/index.js';
import { crestTop, earthworkOn, padTop, withLevels } from './index.js';

const [E, N] = [5_512_000, 6_150_000];
const SLOPES = { fill: 2, cut: 2, step: 1, reach: 200 };
/** A fan of ten degrees lies inside its circle: the area of its polygon to that of the circle. */
const FAN = Math.sin(Math.PI / 18) / (Math.PI / 18);

/** A surface over 200 by 200, exact at points every 5. */
function land(z: (e: number, n: number) => number, side = 200): Tin {
  const columns = side / 5 + 1;
  const places = Array.from(
    { length: columns ** 2 },
    (_, k) => [(k % columns) * 5, Math.floor(k / columns) * 5] as const,
  );
  const of = (pick: (e: number, n: number) => number): Float64Array =>
    Float64Array.from(places, ([e, n]) => pick(e, n));
  return triangulate(of((e) => E + e), of((_, n) => N + n), of(z)).tin; // prettier-ignore
}

function line(places: readonly (readonly [number, number, number?])[], isClosed: boolean): LineShape {
  return shapeOf(places.map(([e, n, z = NaN]) => ({ e: E + e, n: N + n, z, source: 1 })), isClosed); // prettier-ignore
}

const square = (level: number): LineShape =>
  line([[90, 90, level], [110, 90, level], [110, 110, level], [90, 110, level]], true); // prettier-ignore

/** Volume of a top of this area and perimeter, outer corners rounded, raised so far over level land: its sections summed. */
function raised(area: number, perimeter: number, height: number, run: number, square = Math.PI * FAN): number {
  return area * height + (perimeter * run * height ** 2) / 2 + (square * run ** 2 * height ** 3) / 3;
}

describe('a pad on level land', () => {
  const level = land(() => 0);

  test('raised: the volume of its sections, corners as cones; dug in: the same the other way', () => {
    const expected = raised(400, 80, 5, 2);
    const up = earthworkOn(level, padTop(square(5)), SLOPES);
    expect(up.volume.fill).toBeCloseTo(expected, 3);
    expect(up.volume.cut).toBeCloseTo(0, 6);
    expect(up.open).toBe(0);
    const down = earthworkOn(level, padTop(square(-5)), SLOPES);
    expect(down.volume.cut).toBeCloseTo(expected, 3);
    expect(down.volume.fill).toBeCloseTo(0, 6);
  });

  test('each slope has its own: 1 in 3 where filled, 1 in 1 where cut', () => {
    const slopes = { ...SLOPES, fill: 3, cut: 1 };
    expect(earthworkOn(level, padTop(square(4)), slopes).volume.fill).toBeCloseTo(raised(400, 80, 4, 3), 3);
    expect(earthworkOn(level, padTop(square(-4)), slopes).volume.cut).toBeCloseTo(raised(400, 80, 4, 1), 3);
  });

  test('drawn clockwise it is the same pad', () => {
    const clockwise = line([[90, 110, 5], [110, 110, 5], [110, 90, 5], [90, 90, 5]], true); // prettier-ignore
    expect(earthworkOn(level, padTop(clockwise), SLOPES).volume.fill).toBeCloseTo(raised(400, 80, 5, 2), 3);
  });

  test('with an inner corner: slopes meet in the middle, counted once', () => {
    const shape = line([[80, 80, 4], [120, 80, 4], [120, 100, 4], [100, 100, 4], [100, 120, 4], [80, 120, 4]], true); // prettier-ignore
    // Five corners turn outwards by a quarter; at the inner one the two strips have a square in common.
    const expected = raised(1200, 160, 4, 2, (5 / 4) * Math.PI * FAN - 1);
    expect(earthworkOn(level, padTop(shape), SLOPES).volume.fill).toBeCloseTo(expected, 2);
  });

  test('in the shape of a U whose slopes meet between its arms', () => {
    const u = line([[70, 70, 6], [130, 70, 6], [130, 120, 6], [106, 120, 6], [106, 90, 6], [94, 90, 6], [94, 120, 6], [70, 120, 6]], true); // prettier-ignore
    const { tin, volume, open } = earthworkOn(level, padTop(u), SLOPES);
    expect(open).toBe(0);
    // Between the arms, 12 wide, the slopes meet 3 under the top, along the middle.
    const heights = sampleTin(tin, { east: E, north: N, cell: 0.5, columns: 400, rows: 400 });
    const at = (e: number, n: number): number => heights[Math.floor(n / 0.5) * 400 + Math.floor(e / 0.5)]!;
    expect(at(100.25, 105.25)).toBeCloseTo(3.125, 6);
    expect(at(97.25, 105.25)).toBeCloseTo(6 - 3.25 / 2, 6);
    // Against the surface of nearest distances, summed over cells.
    let sum = 0;
    const inU = (e: number, n: number): boolean =>
      e > 70 && e < 130 && n > 70 && n < 120 && !(e > 94 && e < 106 && n > 90);
    const sides = [[70, 70, 130, 70], [130, 70, 130, 120], [130, 120, 106, 120], [106, 120, 106, 90], [106, 90, 94, 90], [94, 90, 94, 120], [94, 120, 70, 120], [70, 120, 70, 70]] as const; // prettier-ignore
    for (let e = 50.25; e < 150; e += 0.5)
      for (let n = 50.25; n < 150; n += 0.5) {
        const apart = Math.min(...sides.map(([a, b, c, d]) => {
          const t = Math.max(0, Math.min(1, ((e - a) * (c - a) + (n - b) * (d - b)) / ((c - a) ** 2 + (d - b) ** 2)));
          return Math.hypot(e - a - t * (c - a), n - b - t * (d - b));
        })); // prettier-ignore
        sum += Math.max(0, inU(e, n) ? 6 : 6 - apart / 2) * 0.25;
      }
    expect(volume.fill / sum).toBeGreaterThan(0.998);
    expect(volume.fill / sum).toBeLessThan(1.002);
  });
});

describe('a pad on a hillside', () => {
  test('is cut above and filled below; every foot lies on the ground', () => {
    const hill = land((_, n) => n / 4);
    const { tin, volume, open } = earthworkOn(hill, padTop(square(25)), SLOPES);
    expect(open).toBe(0);
    expect(volume.cut).toBeGreaterThan(50);
    // Slopes alike and a pad at the middle's height: as much is filled as cut.
    expect(volume.fill / volume.cut).toBeCloseTo(1, 2);
    const rim = [...tin.twins.keys()].filter((h) => tin.twins[h]! < 0).map((h) => tin.facets[h]!);
    for (const k of rim) expect(tin.elevation[k]).toBeCloseTo((tin.northing[k]! + tin.origin[1] - N) / 4, 6);
  });

  test('the slopes are as steep as was asked, everywhere outside the top', () => {
    const random = seededRandom(7);
    const rough = land(() => 10 + 2 * random());
    const { tin } = earthworkOn(rough, padTop(square(16)), SLOPES);
    let steepest = 0;
    let gentlest = Infinity;
    for (let f = 0; f < tin.facets.length; f += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => tin.facets[f + k]!) as [number, number, number];
      const [ux, uy, uz] = [
        tin.easting[b]! - tin.easting[a]!,
        tin.northing[b]! - tin.northing[a]!,
        tin.elevation[b]! - tin.elevation[a]!,
      ];
      const [vx, vy, vz] = [
        tin.easting[c]! - tin.easting[a]!,
        tin.northing[c]! - tin.northing[a]!,
        tin.elevation[c]! - tin.elevation[a]!,
      ];
      const area = ux * vy - uy * vx;
      const slope = Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz) / area;
      if (slope < 1e-9 || area < 1e-3) continue;
      steepest = Math.max(steepest, slope);
      gentlest = Math.min(gentlest, slope);
    }
    // In a fan the chord is a little nearer than its circle.
    expect(steepest).toBeLessThan(0.5 / Math.cos(Math.PI / 36) + 0.02);
    expect(gentlest).toBeGreaterThan(0.45);
  });
});

describe('a bank along a line', () => {
  const level = land(() => 0);

  test('is as wide as its crest, with slopes all round', () => {
    const top = crestTop(
      withLevels(
        line(
          [
            [60, 100],
            [140, 100],
          ],
          false,
        ),
        { rule: 'level', level: 3 },
      ),
      4,
      0,
    );
    expect(earthworkOn(level, top, SLOPES).volume.fill).toBeCloseTo(raised(320, 168, 3, 2), 3);
  });

  test('follows a grade: end areas agree by the prismoidal formula', () => {
    const top = crestTop(withLevels(line([[60, 100], [140, 100]], false), { rule: 'grade', level: 2, grade: 0.05 }), 4, 0); // prettier-ignore
    const { volume } = earthworkOn(level, top, SLOPES);
    const section = (height: number): number => 4 * height + 2 * height ** 2;
    const prism = (80 * (section(2) + 4 * section(4) + section(6))) / 6;
    // At its ends half cones and the slope before the crest; those of the two heights, each exact on level land.
    const end = (height: number): number => 4 * height ** 2 + (Math.PI * FAN * 4 * height ** 3) / 3 / 2;
    expect(volume.fill).toBeGreaterThan(prism + end(2) + end(6) - 20);
    expect(volume.fill).toBeLessThan(prism + end(2) + end(6) + 20);
  });

  test('falls to both sides where a crossfall is given', () => {
    const flat = withLevels(
      line(
        [
          [60, 100],
          [140, 100],
        ],
        false,
      ),
      { rule: 'level', level: 3 },
    );
    const { tin } = earthworkOn(level, crestTop(flat, 4, 0.05), SLOPES);
    const heights = sampleTin(tin, { east: E, north: N, cell: 1, columns: 200, rows: 200 });
    expect(heights[100 * 200 + 100]).toBeCloseTo(3 - 0.05 * 0.5, 6);
    expect(heights[101 * 200 + 100]).toBeCloseTo(3 - 0.05 * 1.5, 6);
  });

  test('raised over the elevations it was drawn with', () => {
    const drawn = line(
      [
        [60, 100, 1],
        [140, 100, 2],
      ],
      false,
    );
    expect([...withLevels(drawn, { rule: 'drawn', raise: 0.6 }).elevation]).toEqual([1.6, 2.6]);
  });
});

describe('what cannot be designed', () => {
  test('a line without elevations, and one off the ground', () => {
    const bare = line(
      [
        [60, 100],
        [140, 100, 3],
      ],
      false,
    );
    expect(() => withLevels(bare, { rule: 'drawn' })).toThrow(expect.objectContaining({ code: 'line-without-elevation' }) as Error); // prettier-ignore
    const away = line(
      [
        [600, 100, 3],
        [640, 100, 3],
      ],
      false,
    );
    expect(() => earthworkOn(land(() => 0), crestTop(away, 4, 0), SLOPES)).toThrow(expect.objectContaining({ code: 'line-off-surface' }) as Error); // prettier-ignore
  });

  test('where the ground ends before the slope does, it is counted and the slope ends there', () => {
    const high = line([[20, 90, 30], [40, 90, 30], [40, 110, 30], [20, 110, 30]], true); // prettier-ignore
    const { open, tin } = earthworkOn(
      land(() => 0),
      padTop(high),
      SLOPES,
    );
    expect(open).toBeGreaterThan(10);
    expect(Math.min(...tin.elevation)).toBeGreaterThanOrEqual(-1e-9);
  });
});

test('any ring of places gives a surface whose rim is on the ground and whose volume does not depend on the step', () => {
  const hilly = land((e, n) => 3 * Math.sin(e / 30) + 3 * Math.cos(n / 25));
  fc.assert(
    fc.property(fc.array(fc.double({ min: 12, max: 30, noNaN: true }), { minLength: 5, maxLength: 9 }), fc.double({ min: -4, max: 8, noNaN: true }), (radii, level) => {
      const ring = line(radii.map((r, k) => [100 + r * Math.cos((2 * Math.PI * k) / radii.length), 100 + r * Math.sin((2 * Math.PI * k) / radii.length), level]), true); // prettier-ignore
      const [coarse, fine] = [2, 0.5].map((step) => earthworkOn(hilly, padTop(ring), { ...SLOPES, step }));
      expect(coarse!.open + fine!.open).toBe(0);
      const total = fine!.volume.cut + fine!.volume.fill;
      expect(Math.abs(coarse!.volume.cut - fine!.volume.cut)).toBeLessThan(0.01 * total + 1);
      expect(Math.abs(coarse!.volume.fill - fine!.volume.fill)).toBeLessThan(0.01 * total + 1);
      expect(fine!.volume.uncovered).toBeLessThan(1e-3);
    }),
    { numRuns: 25 },
  ); // prettier-ignore
});
