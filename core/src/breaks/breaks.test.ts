import { seededRandom } from '../task/index.js';
import { describe, expect, test } from 'vitest';
import {
  findBends,
  findBreaks,
  findStep,
  followBreak,
  PointField,
  type BreakOptions,
  type FoundBreak,
} from './index.js';

const KERB: BreakOptions = {
  ...{ kind: 'kerb', leastHeight: 0.06, mostHeight: 0.3, faceWidth: 0.1, stoneWidth: 0.15, leastTurn: 0.2 },
  ...{ halfProfile: 0.9, reach: 1, longestGap: 6 },
};

/** Points scattered evenly over a strip of land, with noise. */
function land(
  height: (e: number, n: number) => number,
  { length = 40, width = 10, spacing = 0.15, noise = 0.01, seed = 7, without = () => false }: { length?: number; width?: number; spacing?: number; noise?: number; seed?: number; without?: (e: number, n: number) => boolean } = {}, // prettier-ignore
): PointField {
  const random = seededRandom(seed);
  const gauss = (): number => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
  const [easting, northing, elevation] = [[], [], []] as [number[], number[], number[]];
  for (let i = 0; i < (length * width) / spacing ** 2; i++) {
    const [e, n] = [random() * length, (random() - 0.5) * width];
    if (without(e, n)) continue;
    easting.push(e);
    northing.push(n);
    elevation.push(height(e, n) + noise * gauss());
  }
  return new PointField(
    { easting: Float64Array.from(easting), northing: Float64Array.from(northing), elevation: Float64Array.from(elevation) }, // prettier-ignore
    4 * spacing,
  );
}

/** A kerb 12 cm high along n = 0, ground rising 1 % along it. */
const kerb = (e: number, n: number): number => 20 + 0.01 * e + (n > 0 ? 0.12 : 0);
const guide = [[1, 0.4], [39, -0.4]] as const; // prettier-ignore
const worst = (corners: readonly (readonly [number, number, number])[], off: (e: number, n: number, z: number) => number): number => Math.max(...corners.map(([e, n, z]) => Math.abs(off(e, n, z)))); // prettier-ignore

describe('a step in one profile', () => {
  const across = Float64Array.from({ length: 41 }, (_, k) => (k - 20) * 0.05);
  const limits = { least: 0.05, most: 0.3, faceWidth: 0.06, reach: 1, stoneWidth: 0 };

  test('foot and top are the last places either side lies undisturbed', () => {
    const z = across.map((x) => 10 + 0.02 * x + (x > 0.22 ? 0.15 : 0));
    const step = findStep(across, z, 41, limits)!;
    expect(step.isUpRight).toBe(true);
    expect(step.foot).toBeCloseTo(0.2, 9);
    expect(step.top).toBeCloseTo(0.25, 9);
    expect(step.topElevation - step.footElevation).toBeCloseTo(0.151, 6);
  });

  test('a slope, however steep, is no step; nor is one that is too low or too high', () => {
    expect(findStep(across, across.map((x) => 0.5 * x), 41, limits)).toBeUndefined(); // prettier-ignore
    for (const height of [0.03, 0.5])
      expect(findStep(across, across.map((x) => (x > 0 ? height : 0)), 41, limits)).toBeUndefined(); // prettier-ignore
  });

  test('what lies beyond the reach is not taken for something at its edge', () => {
    const z = across.map((x) => (x > 0.6 ? 0.15 : 0));
    expect(findStep(across, z, 41, { ...limits, reach: 0.4 })).toBeUndefined();
  });

  test('the back of the stone, 15 cm behind its top', () => {
    const z = across.map((x) => (x > 0 && x < 0.17 ? 0.15 : x >= 0.17 ? 0.07 : 0));
    const step = findStep(across, z, 41, { ...limits, stoneWidth: 0.15 })!;
    expect(step.back!.at).toBeGreaterThan(0.1);
    expect(step.back!.at).toBeLessThan(0.2);
    expect(step.topElevation).toBeCloseTo(0.15, 2);
  });
});

describe('bends of a profile', () => {
  const across = Float64Array.from({ length: 61 }, (_, k) => (k - 30) * 0.2);

  test('a crest of 1 in 5 either side, exactly', () => {
    const z = across.map((x) => 5 - 0.2 * Math.abs(x - 0.4));
    const found = findBends(across, z, 61, { bends: 1, reach: 2, raster: 0.1, least: 0 })!;
    expect(found.bends[0]!.at).toBeCloseTo(0.4, 9);
    expect(found.bends[0]!.elevation).toBeCloseTo(5, 9);
    expect(found.bends[0]!.turn).toBeCloseTo(-0.4, 9);
    expect(found.residual).toBeLessThan(1e-6);
  });

  test('top and toe of a bank: level, 1 in 2, level', () => {
    const z = across.map((x) => 10 - 0.5 * Math.max(0, Math.min(3, x + 1)));
    const found = findBends(across, z, 61, { bends: 2, reach: 5, raster: 0.2, least: 0.5 })!;
    expect(found.bends.map(({ at }) => Number(at.toFixed(9)))).toEqual([-1, 2]);
    expect(found.slopes.map((slope) => Number(slope.toFixed(6)) + 0)).toEqual([0, -0.5, 0]);
  });
});

describe('a kerb followed along two clicks', () => {
  test('foot and top within a point spacing in plan, and within the noise in height', () => {
    const [found, ...others] = followBreak(land(kerb), guide, KERB);
    expect(others).toEqual([]);
    const { foot, top } = found!.strands as Record<string, readonly (readonly [number, number, number])[]>;
    for (const strand of [foot!, top!]) expect(worst(strand, (_, n) => n)).toBeLessThan(0.15);
    expect(worst(foot!, (e, _, z) => z - 20 - 0.01 * e)).toBeLessThan(0.01);
    expect(worst(top!, (e, _, z) => z - 20.12 - 0.01 * e)).toBeLessThan(0.01);
    expect(found!.length).toBeGreaterThan(36);
    expect(found!.agree).toBeGreaterThan(0.95);
  });

  test('the order of the points changes nothing', () => {
    const { points, cell } = land(kerb);
    const backwards = new PointField(
      { easting: points.easting.slice().reverse(), northing: points.northing.slice().reverse(), elevation: points.elevation.slice().reverse() }, // prettier-ignore
      cell,
    );
    const one = followBreak(land(kerb), guide, KERB)[0]!.strands['foot']!;
    const other = followBreak(backwards, guide, KERB)[0]!.strands['foot']!;
    expect(other.length).toBe(one.length);
    one.forEach((corner, k) => corner.forEach((value, axis) => expect(other[k]![axis]).toBeCloseTo(value, 6)));
  });

  test('a drive of 3 m is bridged and told; one of 10 m parts the kerb in two', () => {
    const drive = (width: number) => (e: number, n: number): number => 20 + 0.01 * e + (n > 0 && Math.abs(e - 20) > width / 2 ? 0.12 : 0); // prettier-ignore
    const narrow = followBreak(land(drive(3)), guide, KERB);
    expect(narrow).toHaveLength(1);
    expect(narrow[0]!.bridged).toHaveLength(1);
    expect(narrow[0]!.bridged[0]!.easting).toBeCloseTo(20, 0);
    expect(narrow[0]!.bridged[0]!.length).toBeGreaterThan(2.5);
    expect(followBreak(land(drive(10)), guide, KERB)).toHaveLength(2);
  });

  test('a curve of 15 m radius is followed from its chord', () => {
    const curve = (e: number, n: number): number => (Math.hypot(e - 15, n + 5) > 15 ? 0.12 : 0);
    const field = land(curve, { length: 30, width: 24 });
    const arc = [[2, 0.5], [8, 8], [15, 10.5], [22, 8], [28, 0.5]] as const; // prettier-ignore
    const [found] = followBreak(field, arc, { ...KERB, reach: 1.5 });
    expect(worst(found!.strands['foot']!, (e, n) => Math.hypot(e - 15, n + 5) - 15)).toBeLessThan(0.2);
    expect(found!.length).toBeGreaterThan(25);
  });

  test('level ground has none, nor has a guide that lies beside the points', () => {
    expect(followBreak(land(() => 20), guide, KERB)).toEqual([]); // prettier-ignore
    const beside = [[0, 500], [40, 500]] as const; // prettier-ignore
    expect(followBreak(land(kerb), beside, KERB)).toEqual([]);
  });
});

describe('both edges of a track', () => {
  const TRACK: BreakOptions = { ...KERB, kind: 'track', leastTurn: 0.1, halfProfile: 4, reach: 1.2 };
  const middle = (e: number): number => 1.5 * Math.sin(e / 12);
  /** Three metres wide, 2 % to one side, its sides 1 in 4. */
  const track = (falls: number) => (e: number, n: number): number => {
    const off = n - middle(e);
    return 20 + 0.01 * e + 0.02 * off - (falls / 4) * Math.max(0, Math.abs(off) - 1.5);
  }; // prettier-ignore
  const along = [[2, 0.6], [12, 0.9], [24, 1.6], [38, 0.2]] as const; // prettier-ignore

  test.each([
    ['on a bank', 1],
    ['worn into the ground', -1],
  ])('%s: each within a point spacing in plan and the noise in height', (_, falls) => {
    // prettier-ignore
    const field = land(track(falls), { width: 16 });
    const [found, ...others] = followBreak(field, along, TRACK);
    expect(others).toEqual([]);
    const { left, right } = found!.strands as Record<string, readonly (readonly [number, number, number])[]>;
    const rms = (corners: readonly (readonly [number, number, number])[], off: (e: number, n: number, z: number) => number): number =>
      Math.sqrt(corners.reduce((sum, [e, n, z]) => sum + off(e, n, z) ** 2, 0) / corners.length); // prettier-ignore
    for (const strand of [left!, right!]) {
      expect(rms(strand, (e, n) => Math.abs(n - middle(e)) - 1.5)).toBeLessThan(0.15);
      expect(rms(strand, (e, n, z) => z - track(falls)(e, n))).toBeLessThan(0.02);
    }
    expect(found!.length).toBeGreaterThan(34);
    expect(found!.agree).toBeGreaterThan(0.9);
  });

  test('a crest without a top to drive on is none, nor is a plane', () => {
    expect(followBreak(land((e, n) => 20 - 0.25 * Math.abs(n - middle(e)), { width: 16 }), along, { ...TRACK, leastTurn: 0.3 })).toEqual([]); // prettier-ignore
    expect(followBreak(land((_, n) => 20 + 0.1 * n, { width: 16 }), along, TRACK)).toEqual([]); // prettier-ignore
  });
});

describe('the whole land searched', () => {
  const total = (lines: readonly FoundBreak[]): number => lines.reduce((sum, { length }) => sum + length, 0);

  test('one kerb is one line; scatter alone is none', () => {
    const lines = findBreaks(land(kerb), KERB, { leastLength: 5, leastAgree: 0.6 });
    expect(lines).toHaveLength(1);
    expect(lines[0]!.length).toBeGreaterThan(37);
    const scatter = land((e, n) => 20 + 0.3 * Math.sin(e / 9) + 0.2 * Math.cos(n / 7), { noise: 0.02 });
    expect(total(findBreaks(scatter, KERB, { leastLength: 5, leastAgree: 0.6 }))).toBe(0);
  });

  test('a kerb that goes round an island closes', () => {
    const island = (e: number, n: number): number => (Math.hypot(e - 10, n) < 5 ? 0.12 : 0);
    const [found] = findBreaks(land(island, { length: 20, width: 20 }), KERB, { leastLength: 5, leastAgree: 0.6 });
    expect(found!.isClosed).toBe(true);
    expect(found!.length).toBeGreaterThan(2 * Math.PI * 5 * 0.93);
    expect(found!.length).toBeLessThan(2 * Math.PI * 5 * 1.07);
  });
});
