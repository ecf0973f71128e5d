import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/seeded-random.js';
import { triangulate, type TerrainLine, type Tin } from '../terrain/index.js';
import {
  contourDefaults,
  contourLabels,
  departureOf,
  depressionTicks,
  partObscured,
  smoothSurface,
  thinFacets,
  traceContours,
  traceWithFacets,
  withoutLabels,
  type ContourSet,
} from './index.js';

/** A surface over a square, points scattered, with noise. */
function land(
  height: (e: number, n: number) => number,
  { count = 3000, side = 100, noise = 0, lines = [] as TerrainLine[], seed = 3 } = {},
): Tin {
  const random = seededRandom(seed);
  const at = (): Float64Array => Float64Array.from({ length: count }, () => random() * side);
  const [e, n] = [at(), at()];
  const z = Float64Array.from(e, (value, i) => height(value, n[i]!) + noise * (random() - 0.5));
  return triangulate(e, n, z, undefined, lines).tin;
}
const hills = (e: number, n: number): number => 4 * Math.sin(e / 14) * Math.cos(n / 17) + e / 25;
const OPTIONS = { ...contourDefaults, interval: 0.25 };

/** Turning of a line at its corners, radians a unit of length. */
function unrest({ starts, easting, northing, level }: ContourSet): number {
  let [turned, length] = [0, 0];
  for (let l = 0; l < level.length; l++)
    for (let v = starts[l]! + 1; v + 1 < starts[l + 1]!; v++) {
      const [ux, uy] = [easting[v]! - easting[v - 1]!, northing[v]! - northing[v - 1]!];
      const [vx, vy] = [easting[v + 1]! - easting[v]!, northing[v + 1]! - northing[v]!];
      turned += Math.abs(Math.atan2(ux * vy - uy * vx, ux * vx + uy * vy));
      length += Math.hypot(ux, uy);
    }
  return turned / length;
}

/** Crossings of segments of different lines, by cells. */
function crossings({ starts, easting, northing, level }: ContourSet): number {
  const cells = new Map<string, [number, number][]>();
  let found = 0;
  for (let l = 0; l < level.length; l++)
    for (let v = starts[l]! + 1; v < starts[l + 1]!; v++) {
      const key = `${Math.floor(easting[v]! / 2)} ${Math.floor(northing[v]! / 2)}`;
      const list = cells.get(key) ?? [];
      cells.set(key, list);
      for (const [other, w] of list) if (other !== l && cross(v, w)) found++;
      list.push([l, v]);
    }
  return found;
  function cross(v: number, w: number): boolean {
    const turn = (a: number, b: number, c: number): number =>
      (easting[b]! - easting[a]!) * (northing[c]! - northing[a]!) -
      (northing[b]! - northing[a]!) * (easting[c]! - easting[a]!);
    return turn(v - 1, v, w - 1) * turn(v - 1, v, w) < -1e-18 && turn(w - 1, w, v - 1) * turn(w - 1, w, v) < -1e-18;
  }
}

describe('smoothed contours', () => {
  test('are quieter, keep within the tolerance in elevation, and never cross', () => {
    const tin = land(hills, { noise: 0.08 });
    const exact = traceContours(tin, OPTIONS);
    const smooth = smoothSurface(tin, 0.05);
    const traced = traceWithFacets(smooth, OPTIONS);
    expect(unrest(traced.contours)).toBeLessThan(0.6 * unrest(exact));
    expect(crossings(exact)).toBe(0);
    expect(crossings(traced.contours)).toBe(0);
    const { worst, p95 } = departureOf(traced, smooth, tin.elevation);
    expect(worst).toBeLessThanOrEqual(0.05 + 1e-9);
    expect(p95).toBeLessThan(worst);
    // The figure is true: sampled against the measured surface itself.
    const unmoved = traceWithFacets(tin, OPTIONS);
    expect(departureOf(unmoved, tin, tin.elevation).worst).toBeLessThan(1e-9);
  });

  test('are nearer the truth than the exact ones where the noise is less than the tolerance', () => {
    // Away from the rim, where the facets are long.
    const off = (set: ContourSet): number => {
      let [sum, count] = [0, 0];
      for (let l = 0; l < set.level.length; l++)
        for (let v = set.starts[l]!; v < set.starts[l + 1]!; v++) {
          const [e, n] = [set.easting[v]! + set.origin[0], set.northing[v]! + set.origin[1]];
          if (Math.max(Math.abs(e - 50), Math.abs(n - 50)) > 44) continue;
          sum += (hills(e, n) - set.level[l]!) ** 2;
          count++;
        }
      return Math.sqrt(sum / count);
    };
    const tin = land(hills, { noise: 0.12, count: 12_000 });
    expect(off(traceContours(smoothSurface(tin, 0.06), OPTIONS))).toBeLessThan(0.8 * off(traceContours(tin, OPTIONS)));
  });

  test('a breakline keeps its sides: the contour over a crest has its corner on it', () => {
    const crest: TerrainLine = { role: 'breakline', easting: [50, 50], northing: [-1, 101], elevation: [10, 10], isClosed: false }; // prettier-ignore
    const tin = land((e) => 10 - Math.abs(e - 50) / 4, { lines: [crest] });
    const smooth = smoothSurface(tin, 0.2);
    expect(tin.held!.reduce((sum, bit) => sum + bit, 0)).toBeGreaterThan(0);
    const high = traceContours(smooth, { ...OPTIONS, interval: 1, base: 9.9 });
    for (let v = 0; v < high.easting.length; v++)
      if (high.level[0]! > 9.8) expect(Math.abs(high.easting[v]! + high.origin[0] - 50)).toBeLessThan(2);
  });

  test('along a soft breakline sides run too, but contours go round it', () => {
    const along = Array.from({ length: 21 }, (_, k) => 5 * k);
    const line = (role: 'breakline' | 'soft'): TerrainLine => ({
      role,
      easting: along.map(() => 50),
      northing: along,
      elevation: along.map(() => 10),
      isClosed: false,
    });
    const crest = (role: 'breakline' | 'soft') => land((e) => 10 - Math.abs(e - 50) / 4, { lines: [line(role)] });
    const [hard, soft] = [crest('breakline'), crest('soft')];
    expect([...soft.facets]).toEqual([...hard.facets]);
    expect(soft.held!.some((is) => is === 1)).toBe(false);
    expect(smoothSurface(hard, 0.2).elevation).not.toEqual(smoothSurface(soft, 0.2).elevation);
  });

  test('a tolerance of nothing leaves the surface; a plane stays one whatever the tolerance', () => {
    const plane = land((e, n) => 3 + 0.2 * e - 0.1 * n, { count: 400 });
    expect(smoothSurface(plane, 0)).toBe(plane);
    smoothSurface(plane, 1).elevation.forEach((z, i) => expect(z).toBeCloseTo(plane.elevation[i]!, 9));
  });
});

describe('depressions and support', () => {
  const bowl = land((e, n) => Math.hypot(e - 50, n - 50) / 5, { count: 4000 });

  test('rings round a pit are depressions and their ticks point inwards; round a hill they are not', () => {
    const pit = traceContours(bowl, { ...OPTIONS, interval: 1, minimumLength: 5 });
    const closed = [...pit.isClosed].flatMap((is, l) => (is === 1 ? [l] : []));
    expect(closed.length).toBeGreaterThan(5);
    for (const l of closed) expect(pit.isDepression[l]).toBe(1);
    for (const [ae, an, be, bn] of depressionTicks(pit, 1, 10)) {
      const far = (e: number, n: number): number => Math.hypot(e + pit.origin[0] - 50, n + pit.origin[1] - 50);
      expect(far(be, bn)).toBeLessThan(far(ae, an) - 0.5);
    }
    const hill = traceContours({ ...bowl, elevation: bowl.elevation.map((z) => -z) }, { ...OPTIONS, interval: 1 });
    expect(hill.isDepression.some((is) => is === 1)).toBe(false);
  });

  test('where points are far apart the line is parted and marked; its length and its ends stay', () => {
    const random = seededRandom(8);
    const [e, n]: [number[], number[]] = [[], []];
    for (let i = 0; i < 4000; i++) {
      const [x, y] = [random() * 100, random() * 100];
      if (Math.hypot(x - 50, y - 50) < 15) continue;
      e.push(x);
      n.push(y);
    }
    const { tin } = triangulate(
      Float64Array.from(e),
      Float64Array.from(n),
      Float64Array.from(e, (v) => v / 10),
    );
    const traced = traceWithFacets(tin, { ...OPTIONS, interval: 1, base: 0.5 });
    const thin = thinFacets(tin, 6);
    const parted = partObscured(traced, (facet) => thin[facet] === 1, 3);
    const lengthOf = (set: ContourSet, which: (l: number) => boolean): number => {
      let length = 0;
      for (let l = 0; l < set.level.length; l++)
        for (let v = set.starts[l]! + 1; which(l) && v < set.starts[l + 1]!; v++)
          length += Math.hypot(set.easting[v]! - set.easting[v - 1]!, set.northing[v]! - set.northing[v - 1]!);
      return length;
    };
    expect(lengthOf(parted, () => true)).toBeCloseTo(
      lengthOf(traced.contours, () => true),
      6,
    );
    // North-south lines at 35 to 65 cross the round gap on chords of 2 sqrt(15² − d²): 112 m of them in all at whole tens and five.
    const dashed = lengthOf(parted, (l) => parted.isObscured[l] === 1);
    const chords = [35.1, 45, 55, 64.9].reduce((sum, at) => sum + 2 * Math.sqrt(Math.max(0, 225 - (at - 50) ** 2)), 0);
    expect(dashed).toBeGreaterThan(0.8 * chords);
    expect(dashed).toBeLessThan(1.5 * chords);
  });

  test('a ring that is thin on one side stays two pieces, each in one', () => {
    const traced = traceWithFacets(bowl, { ...OPTIONS, interval: 100, base: 4 });
    const east = (facet: number): boolean => {
      const corner = bowl.facets[3 * facet]!;
      return bowl.easting[corner]! + bowl.origin[0] > 50;
    };
    const parted = partObscured(traced, east, 4);
    expect([...parted.isObscured].sort()).toEqual([0, 1]);
    expect([...parted.isClosed]).toEqual([0, 0]);
  });
});

describe('labels on contours', () => {
  const cone = land((e, n) => 20 - Math.hypot(e - 50, n - 50) / 5, { count: 8000 });
  const set = traceContours(smoothSurface(cone, 0.1), {
    ...OPTIONS,
    interval: 1,
    indexEvery: 2,
    minimumLength: 20,
  });
  const labels = contourLabels(set, { textHeight: 0.8, spacing: 60, decimals: 1, reading: 'uphill' });

  test('stand on index lines, their tops uphill, none over another', () => {
    expect(labels.length).toBeGreaterThan(8);
    for (const { line, easting, northing, degrees, level } of labels) {
      expect(set.isIndex[line]).toBe(1);
      const [e, n] = [easting + set.origin[0] - 50, northing + set.origin[1] - 50];
      if (Math.hypot(e, n) > 46) continue; // beside the rim the facets are long
      expect(Math.hypot(e, n) / 5).toBeCloseTo(20 - level, 0);
      // Up is a quarter turn from the reading direction; uphill is towards the tip.
      const up = ((degrees + 90) * Math.PI) / 180;
      expect((-e * Math.cos(up) - n * Math.sin(up)) / Math.hypot(e, n)).toBeGreaterThan(0.9);
    }
    for (const a of labels)
      for (const b of labels)
        if (a !== b) expect(Math.hypot(a.easting - b.easting, a.northing - b.northing)).toBeGreaterThan(2);
  });

  test('read from below never stand upside down, in the same places', () => {
    const below = contourLabels(set, { textHeight: 0.8, spacing: 60, decimals: 1, reading: 'from-below' });
    expect(below.map(({ line, from }) => [line, from])).toEqual(labels.map(({ line, from }) => [line, from]));
    for (const [k, { degrees }] of below.entries()) {
      expect(degrees).toBeGreaterThan(-90);
      expect(degrees).toBeLessThanOrEqual(90);
      // The same direction, or turned round.
      expect(Math.abs(Math.sin(((degrees - labels[k]!.degrees) * Math.PI) / 180))).toBeLessThan(1e-9);
    }
    expect(labels.some(({ degrees }) => Math.abs(degrees) > 90)).toBe(true);
  });

  test('leave gaps in the line: what remains and the gaps make up its length', () => {
    const line = labels[0]!.line;
    const of = (piece: readonly (readonly [number, number])[]): number =>
      piece.slice(1).reduce((sum, [e, n], k) => sum + Math.hypot(e - piece[k]![0], n - piece[k]![1]), 0);
    const pieces = withoutLabels(set, line, labels);
    const own = labels.filter((label) => label.line === line);
    const whole = Array.from({ length: set.starts[line + 1]! - set.starts[line]! }, (_, k): [number, number] => [
      set.easting[set.starts[line]! + k]!,
      set.northing[set.starts[line]! + k]!,
    ]);
    expect(pieces.length).toBe(own.length + 1);
    const gaps = own.reduce((sum, { from, to }) => sum + to - from, 0);
    expect(pieces.reduce((sum, piece) => sum + of(piece), 0) + gaps).toBeCloseTo(of(whole), 6);
  });
});
