import { execFileSync } from 'node:child_process';
import Delaunator from 'delaunator';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import { orientation } from './orientation.js';
import { packTin, unpackTin } from './pack-tin.js';
import { sampleTin } from './sample-tin.js';
import { tinFacts } from './tin-facts.js';
import { triangulate, type Tin } from './tin.js';

function randomSites(count: number, seed: number): [Float64Array, Float64Array, Float64Array] {
  const random = seededRandom(seed);
  const column = (shift: number): Float64Array =>
    Float64Array.from({ length: count }, () => shift + Math.round(random() * 1e6) / 1000);
  return [column(5_512_000), column(6_150_000), column(0)];
}

/** Each facet as its corners' coordinates, sorted, so that two triangulations can be held against each other. */
function facetKeys(easting: ArrayLike<number>, northing: ArrayLike<number>, facets: ArrayLike<number>): string[] {
  const keys: string[] = [];
  for (let f = 0; f < facets.length; f += 3) {
    keys.push(
      [0, 1, 2]
        .map((k) => `${easting[facets[f + k]!]} ${northing[facets[f + k]!]}`)
        .sort()
        .join(' / '),
    );
  }
  return keys.sort();
}

function edges(tin: Tin): number {
  let rim = 0;
  for (const twin of tin.twins) if (twin < 0) rim++;
  return (tin.twins.length + rim) / 2;
}

describe('orientation', () => {
  test('is positive counter-clockwise with northing up, negative clockwise, 0 in line', () => {
    expect(orientation(0, 0, 1, 0, 0, 1)).toBeGreaterThan(0);
    expect(orientation(0, 0, 0, 1, 1, 0)).toBeLessThan(0);
    expect(orientation(0, 0, 0.1, 0.1, 0.3, 0.3)).toBe(0);
  });
});

describe('a TIN', () => {
  test('has the triangles delaunator gives for the same points', () => {
    const [e, n, z] = randomSites(5000, 2);
    const { tin } = triangulate(e, n, z);
    const local = (values: Float64Array, shift: number): number[] => Array.from(values, (v) => v - shift);
    const coords = local(e, tin.origin[0]).flatMap((v, i) => [v, n[i]! - tin.origin[1]]);
    const reference = Delaunator.from(
      Array.from({ length: 5000 }, (_, i) => [coords[2 * i]!, coords[2 * i + 1]!] as [number, number]),
    );
    expect(facetKeys(tin.easting, tin.northing, tin.facets)).toEqual(
      facetKeys(local(e, tin.origin[0]), local(n, tin.origin[1]), reference.triangles),
    );
  });

  test('has the triangles SciPy (Qhull) gives for the same points', () => {
    const [e, n, z] = randomSites(3000, 11);
    const { tin } = triangulate(e, n, z);
    const sites = Array.from(tin.easting, (x, i) => [x, tin.northing[i]!]);
    const script =
      'import sys,json,numpy as np\nfrom scipy.spatial import Delaunay\np=np.array(json.load(sys.stdin))\nprint(json.dumps(Delaunay(p).simplices.tolist()))';
    const simplices = JSON.parse(
      execFileSync('/usr/bin/python3', ['-c', script], { input: JSON.stringify(sites), maxBuffer: 1e8 }).toString(),
    ) as number[][];
    expect(facetKeys(tin.easting, tin.northing, tin.facets)).toEqual(
      facetKeys(tin.easting, tin.northing, simplices.flat()),
    );
  });

  test("runs counter-clockwise everywhere, and twins are each other's", () => {
    const { tin } = triangulate(...randomSites(2000, 3));
    for (let f = 0; f < tin.facets.length; f += 3) {
      const [a, b, c] = [tin.facets[f]!, tin.facets[f + 1]!, tin.facets[f + 2]!];
      expect(
        orientation(
          tin.easting[a]!,
          tin.northing[a]!,
          tin.easting[b]!,
          tin.northing[b]!,
          tin.easting[c]!,
          tin.northing[c]!,
        ),
      ).toBeGreaterThan(0);
    }
    const next = (side: number): number => (side % 3 === 2 ? side - 2 : side + 1);
    tin.twins.forEach((twin, side) => {
      if (twin < 0) return;
      expect(tin.twins[twin]).toBe(side);
      expect([tin.facets[twin], tin.facets[next(twin)]]).toEqual([tin.facets[next(side)], tin.facets[side]]);
    });
  });

  test('is one disc: V − E + F = 1, outer face not counted (Euler)', () => {
    const site = fc.tuple(fc.integer({ min: 0, max: 12 }), fc.integer({ min: 0, max: 12 }));
    fc.assert(
      fc.property(fc.uniqueArray(site, { minLength: 3, maxLength: 90, selector: ([x, y]) => `${x} ${y}` }), (sites) => {
        const e = Float64Array.from(sites, ([x]) => 5e6 + x);
        const n = Float64Array.from(sites, ([, y]) => 6e6 + y);
        fc.pre(
          sites.some(
            ([x, y], i) => i > 1 && orientation(sites[0]![0], sites[0]![1], sites[1]![0], sites[1]![1], x, y) !== 0,
          ),
        );
        const { tin } = triangulate(e, n, new Float64Array(sites.length));
        expect(tin.easting.length - edges(tin) + tin.facets.length / 3).toBe(1);
      }),
      { seed: 1707, numRuns: 300 },
    );
  });

  test('no point lies inside the circle round a facet (Delaunay)', () => {
    const { tin } = triangulate(...randomSites(120, 8));
    const { easting: e, northing: n, facets } = tin;
    for (let f = 0; f < facets.length; f += 3) {
      const [a, b, c] = [facets[f]!, facets[f + 1]!, facets[f + 2]!];
      const d = 2 * (e[a]! * (n[b]! - n[c]!) + e[b]! * (n[c]! - n[a]!) + e[c]! * (n[a]! - n[b]!));
      const sq = (i: number): number => e[i]! ** 2 + n[i]! ** 2;
      const x = (sq(a) * (n[b]! - n[c]!) + sq(b) * (n[c]! - n[a]!) + sq(c) * (n[a]! - n[b]!)) / d;
      const y = (sq(a) * (e[c]! - e[b]!) + sq(b) * (e[a]! - e[c]!) + sq(c) * (e[b]! - e[a]!)) / d;
      const radius = Math.hypot(e[a]! - x, n[a]! - y);
      for (let i = 0; i < e.length; i++)
        expect(Math.hypot(e[i]! - x, n[i]! - y)).toBeGreaterThanOrEqual(radius * (1 - 1e-7));
    }
  });

  test('of points in one place keeps the lowest', () => {
    const { tin, report } = triangulate(
      Float64Array.of(0, 10, 0, 0, 10),
      Float64Array.of(0, 0, 10, 0, 0),
      Float64Array.of(5, 6, 7, 4, 9),
    );
    expect(report.duplicatesDropped).toBe(2);
    expect([...tin.elevation].sort()).toEqual([4, 6, 7]);
  });

  test('level water is one sheet, however wide: its long edges are no false ground', () => {
    // A field of points 5 m apart round a pond of 80 by 80 m, at whose edge the level is 29.5 m.
    const sites: [number, number][] = [];
    for (let x = 0; x <= 140; x += 5) for (let y = 0; y <= 140; y += 5) if (x < 30 || x > 110 || y < 30 || y > 110) sites.push([x, y]); // prettier-ignore
    const [x, y] = [0, 1].map((k) => Float64Array.from(sites, (site) => site[k]!)) as [Float64Array, Float64Array];
    const z = Float64Array.from(sites, () => 30);
    // Its outline has a vertex every 5 m, as one found on points has.
    const along = Array.from({ length: 16 }, (_, k) => 30 + 5 * k);
    const ring = [
      ...along.map((v) => [v, 30]),
      ...along.map((v) => [110, v]),
      ...along.map((v) => [140 - v, 110]),
      ...along.map((v) => [30, 140 - v]),
    ];
    const water = {
      role: 'water' as const,
      isClosed: true,
      easting: ring.map(([e]) => e!),
      northing: ring.map(([, n]) => n!),
      elevation: ring.map(() => 29.5),
    };
    const dry = tinFacts(triangulate(x, y, z, { maximumEdge: 30 }).tin);
    expect(dry.areaInPlan).toBeLessThan(140 * 140 - 60 * 60);
    const { tin } = triangulate(x, y, z, { maximumEdge: 30 }, [water]);
    const wet = tinFacts(tin);
    expect(wet.areaInPlan).toBeCloseTo(140 * 140, 6);
    expect(wet.lowest).toBe(29.5);
  });

  test('leaves out facets with a side over the limit: a bay is not bridged', () => {
    // A U of points 1 m apart round an empty bay 10 m wide.
    const sites: [number, number][] = [];
    for (let i = 0; i <= 20; i++) sites.push([i, 0], [i, 1]);
    for (let j = 2; j <= 10; j++) for (const i of [0, 1, 2, 18, 19, 20]) sites.push([i, j]);
    const columns = [0, 1].map((k) => Float64Array.from(sites, (s) => s[k]!)) as [Float64Array, Float64Array];
    const { tin, report } = triangulate(...columns, new Float64Array(sites.length), { maximumEdge: 1.5 });
    expect(report.facetsLeftOut).toBeGreaterThan(0);
    expect(tinFacts(tin).longestEdge).toBeLessThanOrEqual(1.5);
    // The foot, 20 x 1, two arms of 2 x 9, and half a square in each inner corner.
    expect(tinFacts(tin).areaInPlan).toBeCloseTo(20 + 2 * 2 * 9 + 2 * 0.5, 6);
  });

  test('a plane 100 x 50 m at slope 3:4 has 5000 m² in plan and 6250 m² on the slope', () => {
    // Slope 3/4 along easting: sqrt(1 + 9/16) = 5/4.
    const { tin } = triangulate(
      Float64Array.of(0, 100, 100, 0, 37),
      Float64Array.of(0, 0, 50, 50, 21),
      Float64Array.of(0, 75, 75, 0, 37 * 0.75),
    );
    const facts = tinFacts(tin);
    expect(facts.areaInPlan).toBeCloseTo(5000, 9);
    expect(facts.areaOnSlope).toBeCloseTo(6250, 9);
    expect([facts.lowest, facts.highest]).toEqual([0, 75]);
  });

  test('sampled on a grid, a plane gives its own elevations to single precision, NaN outside', () => {
    const { tin } = triangulate(
      Float64Array.of(0, 40, 40, 0),
      Float64Array.of(0, 0, 40, 40),
      Float64Array.of(10, 30, 50, 30),
    );
    const grid = sampleTin(tin, { east: -10, north: 0, cell: 10, columns: 6, rows: 4 });
    // z = 10 + e/2 + n/2 at cell centres (5, 5), (15, 5) ...
    expect(Array.from(grid.subarray(0, 6))).toEqual([NaN, 15, 20, 25, 30, NaN]);
  });

  test('survives packing', () => {
    const { tin } = triangulate(...randomSites(50, 1));
    expect(unpackTin(packTin(tin))).toEqual(tin);
  });

  test.each([
    ['two points', [0, 1], [0, 1], 'too-few-points'],
    ['three points at two places', [0, 1, 1], [0, 1, 1], 'too-few-points'],
    ['five points in a line', [0, 1, 2, 3, 4], [0, 2, 4, 6, 8], 'points-in-line'],
    ['a point that is no number', [0, NaN, 1], [0, 1, 2], 'coordinate-not-finite'],
    ['no points', [], [], 'too-few-points'],
  ])('%s: a message, not a surface', (_, e, n, code) => {
    expect(() => triangulate(Float64Array.from(e), Float64Array.from(n), new Float64Array(e.length))).toThrow(
      expect.objectContaining({ code }) as Error,
    );
  });
});
