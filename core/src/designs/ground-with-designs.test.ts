import { describe, expect, test } from 'vitest';
import { shapeOf, type LineShape } from '../lines/index.js';
import { seededRandom } from '../task/index.js';
import { triangulate, type TerrainLine, type Tin } from '../terrain/index.js';
import { FacetIndex, volumeBetween } from '../volumes/index.js';
import { crestTop, earthworkOn, groundWithDesigns, padTop } from './index.js';

const [E, N] = [5_512_000, 6_150_000];
const SLOPES = { fill: 2, cut: 2, step: 1, reach: 200 };

function land(z: (e: number, n: number) => number, lines: readonly TerrainLine[] = []): Tin {
  const random = seededRandom(17);
  const places = Array.from({ length: 2500 }, () => [200 * random(), 200 * random()] as const);
  for (const corner of [[0, 0], [200, 0], [0, 200], [200, 200]] as const) places.push(corner); // prettier-ignore
  const of = (pick: (e: number, n: number) => number): Float64Array =>
    Float64Array.from(places, ([e, n]) => pick(e, n));
  return triangulate(of((e) => E + e), of((_, n) => N + n), of(z), { maximumEdge: 0 }, lines).tin; // prettier-ignore
}
const line = (places: readonly (readonly [number, number, number])[], isClosed: boolean): LineShape =>
  shapeOf(places.map(([e, n, z]) => ({ e: E + e, n: N + n, z, source: 1 })), isClosed); // prettier-ignore

const hills = (e: number, n: number): number => 20 + 3 * Math.sin(e / 17) + 2 * Math.cos(n / 23);
const pad = (level: number, west = 80): LineShape =>
  line([[west, 80, level], [west + 30, 80, level], [west + 30, 110, level], [west, 110, level]], true); // prettier-ignore

/** Elevations of two surfaces at drawn places, where both are; and whether one is where the other is not. */
function compared(one: Tin, two: Tin, isAsked: (e: number, n: number) => boolean, count = 4000) {
  const random = seededRandom(5);
  const [a, b] = [new FacetIndex(one, [E, N]), new FacetIndex(two, [E, N])];
  let [worst, asked] = [0, 0];
  for (let k = 0; k < count; k++) {
    const [e, n] = [1 + 198 * random(), 1 + 198 * random()];
    if (!isAsked(e, n)) continue;
    asked++;
    const [z, w] = [a.elevationAt(e, n), b.elevationAt(e, n)];
    worst = Math.max(worst, z === undefined || w === undefined ? Infinity : Math.abs(z - w));
  }
  return { worst, asked };
}

describe('the ground with a design built in', () => {
  const ground = land(hills);
  const { tin: design, volume } = earthworkOn(ground, padTop(pad(24)), SLOPES);
  const built = groundWithDesigns(ground, [design]);
  const onDesign = new FacetIndex(design, [E, N]);
  const isDesign = (e: number, n: number): boolean => onDesign.elevationAt(e, n) !== undefined;

  test('is the design within it, and the ground beside it but for the triangles that touch it', () => {
    const within = compared(built, design, isDesign);
    expect(within.asked).toBeGreaterThan(80);
    expect(within.worst).toBeLessThan(0.01);
    const beside = compared(built, ground, (e, n) => {
      const far = [[-9, 0], [9, 0], [0, -9], [0, 9], [0, 0]].every(([x, y]) => !isDesign(e + x!, n + y!)); // prettier-ignore
      return far;
    });
    expect(beside.asked).toBeGreaterThan(2000);
    expect(beside.worst).toBeLessThan(1e-6);
  });

  test('differs from the ground by the earth of the design', () => {
    const between = volumeBetween(built, ground);
    expect(between.uncovered).toBeLessThan(1e-6);
    // Beside the slopes' feet triangles of the ground are drawn anew: a few litres to either side.
    expect(Math.abs(between.fill - volume.fill) / volume.fill).toBeLessThan(0.01);
    expect(Math.abs(between.cut - volume.cut)).toBeLessThan(0.01 * Math.max(volume.cut, volume.fill));
  });

  test('has no gap between the two, and every triangle an area', () => {
    const { facets, twins, easting, northing } = built;
    let area = 0;
    for (let f = 0; f < facets.length; f += 3) {
      const [a, b, c] = [facets[f]!, facets[f + 1]!, facets[f + 2]!];
      const twice =
        (easting[b]! - easting[a]!) * (northing[c]! - northing[a]!) -
        (northing[b]! - northing[a]!) * (easting[c]! - easting[a]!);
      expect(twice).toBeGreaterThan(0);
      area += twice / 2;
    }
    expect(area).toBeCloseTo(200 * 200, 3);
    for (let h = 0; h < twins.length; h++) if (twins[h]! >= 0) expect(twins[twins[h]!]).toBe(h);
  });

  test('of two that overlap the later lies over the earlier', () => {
    const other = earthworkOn(ground, padTop(pad(27, 95)), SLOPES).tin;
    const both = groundWithDesigns(ground, [design, other]);
    const onOther = new FacetIndex(other, [E, N]);
    const inOther = (e: number, n: number): boolean => onOther.elevationAt(e, n) !== undefined;
    expect(compared(both, other, inOther).worst).toBeLessThan(0.01);
  });
});

test('edges at which the ground breaks go on to the foot of the slopes and no further', () => {
  const kerb: TerrainLine = {
    role: 'breakline',
    isClosed: false,
    easting: [E + 2, E + 198],
    northing: [N + 95, N + 95],
    elevation: [30, 30],
  };
  const ground = land(hills, [kerb]);
  const { tin: design } = earthworkOn(ground, crestTop(line([[95, 40, 32], [95, 150, 32]], false), 4, 0), SLOPES); // prettier-ignore
  const built = groundWithDesigns(ground, [design]);
  const [onBuilt, onDesign] = [new FacetIndex(built, [E, N]), new FacetIndex(design, [E, N])];
  let asked = 0;
  for (let e = 3; e < 197; e += 0.5) {
    const of = onDesign.elevationAt(e, 95);
    if (of === undefined) asked++;
    expect(onBuilt.elevationAt(e, 95)!, `${e}`).toBeCloseTo(of ?? 30, 2);
  }
  expect(asked).toBeGreaterThan(100);
});

test('where the ground ends there is none afterwards either, but for the design', () => {
  const far = land(hills);
  // A ground with a hole: triangles over the middle are left out.
  const hole: TerrainLine = {
    role: 'hole',
    isClosed: true,
    easting: [E + 150, E + 170, E + 170, E + 150],
    northing: [N + 150, N + 150, N + 170, N + 170],
    elevation: [NaN, NaN, NaN, NaN],
  };
  const ground = land(hills, [hole]);
  const { tin: design } = earthworkOn(far, padTop(pad(24)), SLOPES);
  const built = new FacetIndex(groundWithDesigns(ground, [design]), [E, N]);
  expect(built.elevationAt(160, 160)).toBeUndefined();
  expect(built.elevationAt(145, 160)).toBeCloseTo(new FacetIndex(ground, [E, N]).elevationAt(145, 160)!, 6);
});
