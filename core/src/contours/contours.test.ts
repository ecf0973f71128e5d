import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import { cutTin, triangulate, type Tin } from '../terrain/index.js';
import { contourFacts } from './contour-facts.js';
import { packContours, unpackContours } from './pack-contours.js';
import { contourDefaults, type ContourSet } from './contour-set.js';
import { traceContours } from './trace-contours.js';

/** A surface z = f(x, y) sampled at random sites of the square −half … half, corners included. */
function surface(f: (x: number, y: number) => number, count: number, half = 50, seed = 5): Tin {
  const random = seededRandom(seed);
  const sites = [
    [-half, -half],
    [half, -half],
    [half, half],
    [-half, half],
  ];
  while (sites.length < count) sites.push([(random() * 2 - 1) * half, (random() * 2 - 1) * half]);
  const column = (of: (s: number[]) => number): Float64Array => Float64Array.from(sites, of);
  return triangulate(
    column((s) => s[0]!),
    column((s) => s[1]!),
    column((s) => f(s[0]!, s[1]!)),
  ).tin;
}

function* vertices(set: ContourSet): Generator<{ line: number; level: number; x: number; y: number }> {
  for (let line = 0; line < set.level.length; line++)
    for (let v = set.starts[line]!; v < set.starts[line + 1]!; v++)
      yield { line, level: set.level[line]!, x: set.easting[v]! + set.origin[0], y: set.northing[v]! + set.origin[1] };
}

describe('contours of known surfaces', () => {
  test('of a plane: straight, parallel, at their exact place, from rim to rim', () => {
    // z = 20 + 0.3 x − 0.4 y
    const set = traceContours(
      surface((x, y) => 20 + 0.3 * x - 0.4 * y, 800),
      { ...contourDefaults, interval: 2 },
    );
    for (const { level, x, y } of vertices(set)) expect(20 + 0.3 * x - 0.4 * y).toBeCloseTo(level, 9);
    expect(set.isClosed.every((closed) => closed === 0)).toBe(true);
    // Elevations run from −15 to 55: −14, −12 … 54, one line each.
    expect([...set.level]).toEqual(Array.from({ length: 35 }, (_, k) => -14 + 2 * k));
    // Across the square at 3:4, a line through the middle is 100 / 0.8 = 125 m long.
    const middle = [...set.level].indexOf(20);
    const [first, last] = [set.starts[middle]!, set.starts[middle + 1]! - 1];
    expect(
      Math.hypot(set.easting[last]! - set.easting[first]!, set.northing[last]! - set.northing[first]!),
    ).toBeCloseTo(125, 6);
  });

  test('of a cone: circles, closed, within the chord error of the triangles', () => {
    // z = r / 2: the contour at z is the circle of radius 2 z. A chord of length c misses its circle by c² / 8r.
    const set = traceContours(
      surface((x, y) => Math.hypot(x, y) / 2, 40_000),
      { ...contourDefaults, interval: 4, base: 2 },
    );
    // Above 25 the circles leave the square.
    const isRing = (level: number): boolean => level < 25;
    expect([...set.isClosed].filter((_, l) => isRing(set.level[l]!))).toEqual([1, 1, 1, 1, 1, 1]);
    const rings = [...set.level].filter(isRing);
    expect(rings).toEqual([2, 6, 10, 14, 18, 22]);
    let worst = 0;
    for (const { level, x, y } of vertices(set))
      if (isRing(level)) worst = Math.max(worst, Math.abs(Math.hypot(x, y) - 2 * level));
    expect(worst).toBeLessThan(0.35); // sides of about 0.6 m, up to 2.5 m, on a circle of 4 m
    // Length against 2 π r, to a hundredth.
    for (let l = 0; l < set.level.length; l++) {
      if (!isRing(set.level[l]!)) continue;
      let length = 0;
      for (let v = set.starts[l]! + 1; v < set.starts[l + 1]!; v++)
        length += Math.hypot(set.easting[v]! - set.easting[v - 1]!, set.northing[v]! - set.northing[v - 1]!);
      expect(length / (4 * Math.PI * set.level[l]!)).toBeCloseTo(1, 1);
    }
  });

  test('of a saddle: four open arms at each level, on the hyperbolas xy = level', () => {
    const set = traceContours(
      surface((x, y) => (x * y) / 100, 30_000),
      { ...contourDefaults, interval: 5, base: 2.5 },
    );
    for (const level of [-12.5, -2.5, 2.5, 12.5]) expect([...set.level].filter((z) => z === level)).toHaveLength(2);
    for (const { level, x, y } of vertices(set)) expect(Math.abs((x * y) / 100 - level)).toBeLessThan(0.05);
    expect(set.isClosed.some((closed) => closed === 1)).toBe(false);
  });

  test('the higher ground lies on the right', () => {
    // z = x: higher ground is east, which is to the right of a line that runs north.
    const set = traceContours(
      surface((x) => x, 500),
      { ...contourDefaults, interval: 10 },
    );
    for (let l = 0; l < set.level.length; l++) {
      const [first, last] = [set.starts[l]!, set.starts[l + 1]! - 1];
      expect(set.northing[last]!).toBeGreaterThan(set.northing[first]!);
    }
  });
});

describe('contours of any surface', () => {
  const heights = fc.array(fc.integer({ min: 0, max: 6 }), { minLength: 49, maxLength: 49 });
  /** 7 x 7 corners with whole heights: many corners lie at the very level, many facets are level. */
  const awkward = (z: number[]): Tin =>
    triangulate(
      Float64Array.from(z, (_, i) => i % 7),
      Float64Array.from(z, (_, i) => Math.floor(i / 7)),
      Float64Array.from(z),
    ).tin;

  test('every line closes on itself or ends at the rim, even through corners at the level', () => {
    fc.assert(
      fc.property(heights, (z) => {
        const set = traceContours(awkward(z), { ...contourDefaults, interval: 1 });
        for (let l = 0; l < set.level.length; l++) {
          const [first, last] = [set.starts[l]!, set.starts[l + 1]! - 1];
          const isSame = set.easting[first] === set.easting[last] && set.northing[first] === set.northing[last];
          const onRim = (v: number): boolean => [set.easting[v]!, set.northing[v]!].some((c) => c === 0 || c === 6);
          expect(set.isClosed[l] ? isSame : onRim(first) && onRim(last)).toBe(true);
        }
      }),
      { seed: 1904, numRuns: 300 },
    );
  });

  test('contours of different elevations never cross or touch', () => {
    fc.assert(
      fc.property(heights, (z) => {
        const set = traceContours(awkward(z.map((h, i) => h + (i % 5) * 0.1)), { ...contourDefaults, interval: 0.75 });
        const segments = [...segmentsOf(set)];
        let crossings = 0;
        for (let i = 0; i < segments.length; i++)
          for (let j = i + 1; j < segments.length; j++)
            if (segments[i]!.level !== segments[j]!.level && cross(segments[i]!, segments[j]!)) crossings++;
        expect(crossings).toBe(0);
      }),
      { seed: 77, numRuns: 60 },
    );
  });

  interface Segment {
    level: number;
    ax: number;
    ay: number;
    bx: number;
    by: number;
  }
  function* segmentsOf(set: ContourSet): Generator<Segment> {
    for (let l = 0; l < set.level.length; l++)
      for (let v = set.starts[l]! + 1; v < set.starts[l + 1]!; v++)
        yield {
          level: set.level[l]!,
          ax: set.easting[v - 1]!,
          ay: set.northing[v - 1]!,
          bx: set.easting[v]!,
          by: set.northing[v]!,
        };
  }
  function cross(p: Segment, q: Segment): boolean {
    const side = (s: Segment, x: number, y: number): number => (s.bx - s.ax) * (y - s.ay) - (s.by - s.ay) * (x - s.ax);
    return side(p, q.ax, q.ay) * side(p, q.bx, q.by) < -1e-12 && side(q, p.ax, p.ay) * side(q, p.bx, p.by) < -1e-12;
  }
});

describe('options', () => {
  const hill = surface((x, y) => 40 - Math.hypot(x, y) * 0.5, 4000);

  test('index contours are every n-th, counted from the base', () => {
    const set = traceContours(hill, { ...contourDefaults, interval: 1, base: 0.5, indexEvery: 5 });
    for (let l = 0; l < set.level.length; l++) expect(set.isIndex[l]).toBe((set.level[l]! - 0.5) % 5 === 0 ? 1 : 0);
    expect(set.isIndex.some((index) => index === 1)).toBe(true);
  });

  test('lines shorter than asked are left out', () => {
    const all = traceContours(hill, { ...contourDefaults, interval: 0.5 });
    const long = traceContours(hill, { ...contourDefaults, interval: 0.5, minimumLength: 20 });
    expect(long.level.length).toBeLessThan(all.level.length);
    expect(contourFacts(long).length).toBeGreaterThan(0.95 * contourFacts(all).length);
  });

  test('but for those that end at an edge of a square: they go on in the next one', () => {
    const square = { west: -3, south: -500, east: 500, north: 500 };
    const cut = cutTin(hill, square);
    const options = { ...contourDefaults, interval: 0.5, minimumLength: 40 };
    const kept = traceContours(cut, { ...options, square });
    const plain = traceContours(cut, options);
    const lengthOf = (l: number): number => {
      let sum = 0;
      for (let v = kept.starts[l]! + 1; v < kept.starts[l + 1]!; v++) sum += Math.hypot(kept.easting[v]! - kept.easting[v - 1]!, kept.northing[v]! - kept.northing[v - 1]!); // prettier-ignore
      return sum;
    };
    const isOnEdge = (v: number): boolean => Math.abs(kept.easting[v]! + kept.origin[0] - square.west) < 1e-9;
    const short = Array.from(kept.level, (_, l) => l).filter((l) => lengthOf(l) < 40);
    expect(short.length).toBe(kept.level.length - plain.level.length);
    expect(short.length).toBeGreaterThan(0);
    for (const l of short) expect(isOnEdge(kept.starts[l]!) || isOnEdge(kept.starts[l + 1]! - 1)).toBe(true);
  });

  test('a level facet draws nothing, a level surface has no contours', () => {
    expect(
      traceContours(
        surface(() => 10, 300),
        { ...contourDefaults, interval: 1 },
      ).level,
    ).toHaveLength(0);
  });

  test('an interval of nothing, or in the wrong unit, is refused with a reason', () => {
    expect(() => traceContours(hill, { ...contourDefaults, interval: 0 })).toThrow(
      expect.objectContaining({ code: 'interval-wrong' }) as Error,
    );
    expect(() => traceContours(hill, { ...contourDefaults, interval: 1e-5 })).toThrow(
      expect.objectContaining({ code: 'too-many-contours' }) as Error,
    );
  });

  test('contours survive packing', () => {
    const set = traceContours(hill, { ...contourDefaults, interval: 5 });
    expect(unpackContours(packContours(set))).toEqual(set);
  });
});

test('corners that a file cannot tell apart are one, and rings still close', () => {
  // Elevations to the centimetre and levels a hair beside them: each vertex near a level gives a corner on every side about it.
  const hair = (z: number): number => Math.round(z * 10) / 10 + 1e-7;
  const set = traceContours(
    surface((x, y) => hair(20 - 0.05 * Math.hypot(x, y) ** 1.5), 6000),
    { ...contourDefaults, interval: 0.5 },
  );
  expect(set.level.length).toBeGreaterThan(20);
  expect([...set.isClosed].filter((closed) => closed === 1).length).toBeGreaterThan(5);
  for (let line = 0; line < set.level.length; line++) {
    const [from, end] = [set.starts[line]!, set.starts[line + 1]!];
    const written = Array.from({ length: end - from }, (_, k) =>
      [set.easting[from + k]!, set.northing[from + k]!].map((value) => value.toFixed(4)).join(' '),
    );
    for (let k = 1; k < written.length; k++) expect(written[k]).not.toBe(written[k - 1]);
    if (set.isClosed[line] === 1) {
      expect(written.length).toBeGreaterThanOrEqual(4);
      expect(set.easting[end - 1]).toBe(set.easting[from]);
      expect(set.northing[end - 1]).toBe(set.northing[from]);
    }
  }
});
