import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import { lineDefaults, orientation, tinFacts, triangulate, type TerrainLine, type Tin } from './index.js';

const line = (
  role: TerrainLine['role'],
  corners: readonly (readonly [number, number, number?])[],
  isClosed = false,
): TerrainLine => ({
  role,
  isClosed,
  easting: corners.map(([e]) => e),
  northing: corners.map(([, n]) => n),
  elevation: corners.map(([, , z]) => z ?? NaN),
});

function field(count: number, side: number, seed: number, height: (e: number, n: number) => number = () => 0) {
  const random = seededRandom(seed);
  const e = Float64Array.from({ length: count }, () => Math.round(random() * side * 1000) / 1000);
  const n = Float64Array.from({ length: count }, () => Math.round(random() * side * 1000) / 1000);
  return [e, n, Float64Array.from(e, (v, i) => height(v, n[i]!))] as const;
}

/** Whether a chain of sides in line leads from one place to another. */
function runsAlong(
  { origin, easting, northing, facets }: Tin,
  a: readonly [number, number],
  b: readonly [number, number],
): boolean {
  const at = (i: number): [number, number] => [easting[i]! + origin[0], northing[i]! + origin[1]];
  const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
  const on: [number, number][] = [];
  const share = ([e, n]: readonly [number, number]): number =>
    ((e - a[0]) * (b[0] - a[0]) + (n - a[1]) * (b[1] - a[1])) / length / length;
  const off = ([e, n]: readonly [number, number]): number =>
    Math.abs((e - a[0]) * (b[1] - a[1]) - (n - a[1]) * (b[0] - a[0])) / length;
  for (let h = 0; h < facets.length; h++) {
    const p = at(facets[h]!);
    const q = at(facets[h % 3 === 2 ? h - 2 : h + 1]!);
    if (off(p) < 1e-6 && off(q) < 1e-6) on.push([Math.min(share(p), share(q)), Math.max(share(p), share(q))]);
  }
  on.sort((p, q) => p[0] - q[0]);
  let reached = 0;
  for (const [from, to] of on) if (from <= reached + 1e-9) reached = Math.max(reached, to);
  return reached >= 1 - 1e-9;
}

/** Every facet turns the same way and twins are each other's: nothing overlaps and nothing is torn. */
function expectSound(tin: Tin): void {
  const { easting: e, northing: n, facets, twins } = tin;
  for (let f = 0; f < facets.length; f += 3) {
    const [a, b, c] = [facets[f]!, facets[f + 1]!, facets[f + 2]!];
    expect(orientation(e[a]!, n[a]!, e[b]!, n[b]!, e[c]!, n[c]!)).toBeGreaterThan(0);
  }
  const next = (side: number): number => (side % 3 === 2 ? side - 2 : side + 1);
  twins.forEach((twin, side) => {
    if (twin < 0) return;
    expect(twins[twin]).toBe(side);
    expect([facets[twin], facets[next(twin)]]).toEqual([facets[next(side)], facets[side]]);
  });
}

describe('lines in a TIN', () => {
  test('every edge of a random fan of lines is there, and the facets stay sound (property)', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 1, max: 14 }), (seed, count) => {
        const random = seededRandom(seed);
        const lines = Array.from({ length: count }, () =>
          line(
            'breakline',
            Array.from({ length: 3 }, (): [number, number, number] => [5 + 90 * random(), 5 + 90 * random(), random()]),
          ),
        );
        const { tin, report } = triangulate(...field(400, 100, seed), { maximumEdge: 0 }, lines);
        expect(report.edgesNotHeld).toBe(0);
        expectSound(tin);
        for (const { easting, northing } of lines)
          for (let k = 1; k < easting.length; k++)
            expect(
              runsAlong(tin, [easting[k - 1]!, northing[k - 1]!], [easting[k]!, northing[k]!]) ||
                // Crossings are rounded to where numbers can lie: such a line is bent by less than a thousandth.
                report.edgesHeld > count * 2,
            ).toBe(true);
        expect(tinFacts(tin).areaInPlan).toBeGreaterThan(8000);
      }),
      { seed: 1997, numRuns: 60 },
    );
  });

  test('far from the lines the triangulation is Delaunay as it was', () => {
    const points = field(600, 100, 4);
    const plain = triangulate(...points).tin;
    const cut = triangulate(...points, { maximumEdge: 0 }, [line('breakline', [[2, 3, 0], [40, 4, 0]])]).tin; // prettier-ignore
    const keys = (tin: Tin): Set<string> => {
      const out = new Set<string>();
      for (let f = 0; f < tin.facets.length; f += 3) {
        const corners = [0, 1, 2].map((k) => `${tin.easting[tin.facets[f + k]!]} ${tin.northing[tin.facets[f + k]!]}`);
        const isFar = (i: number): boolean =>
          tin.northing[i]! > 20 && tin.northing[i]! < 95 && tin.easting[i]! > 5 && tin.easting[i]! < 95;
        if ([0, 1, 2].every((k) => isFar(tin.facets[f + k]!))) out.add(corners.sort().join('/'));
      }
      return out;
    };
    expect(keys(cut)).toEqual(keys(plain));
  });

  test('an edge through a point becomes two; along a row of points, as many as there are', () => {
    const e = Float64Array.from({ length: 121 }, (_, i) => i % 11);
    const n = Float64Array.from({ length: 121 }, (_, i) => Math.floor(i / 11));
    const { tin, report } = triangulate(e, n, new Float64Array(121), { maximumEdge: 0 }, [
      line('breakline', [[0.5, 0.5, 0], [9.5, 9.5, 0]]), // prettier-ignore
      line('breakline', [[0.5, 4, 0], [9.5, 4, 0]]), // prettier-ignore
    ]);
    expect(report.edgesNotHeld).toBe(0);
    expectSound(tin);
    expect(runsAlong(tin, [0.5, 0.5], [9.5, 9.5])).toBe(true);
    expect(runsAlong(tin, [0.5, 4], [9.5, 4])).toBe(true);
  });

  test.each([
    ['mean', 11],
    ['lowest', 10],
    ['highest', 12],
    ['first', 10],
  ] as const)('two lines that cross meet by the rule: %s', (crossing, expected) => {
    const lines = [line('breakline', [[20, 50, 10], [80, 50, 10]]), line('breakline', [[50, 20, 12], [50, 80, 12]])]; // prettier-ignore
    const { tin, report } = triangulate(
      ...field(300, 100, 9),
      { maximumEdge: 0, lines: { ...lineDefaults, crossing } },
      lines,
    );
    expect(report.crossings).toEqual([{ easting: 50, northing: 50, elevations: [10, 12] }]);
    const at = [...tin.easting.keys()].find(
      (i) => tin.easting[i]! + tin.origin[0] === 50 && tin.northing[i]! + tin.origin[1] === 50,
    )!;
    expect(tin.elevation[at]).toBe(expected);
  });

  test('points beside a line are left out, corners without elevation take that of the land', () => {
    const { tin, report } = triangulate(
      ...field(2000, 100, 2, (e) => e / 10),
      { maximumEdge: 0, lines: { ...lineDefaults, offset: 2, largestStep: 5 } },
      [line('breakline', [[20, 50], [80, 50]])], // prettier-ignore
    );
    expect(report.pointsNearLines).toBeGreaterThan(20);
    for (let i = 0; i < tin.easting.length; i++) {
      const [e, n] = [tin.easting[i]! + tin.origin[0], tin.northing[i]! + tin.origin[1]];
      if (e > 20 && e < 80 && n !== 50) expect(Math.abs(n - 50)).toBeGreaterThanOrEqual(2);
      else if (n === 50) expect(tin.elevation[i]!).toBeCloseTo(e / 10, 0);
    }
  });

  test('the surface ends at its boundary and has none in a hole', () => {
    const square = (low: number, high: number): [number, number][] => [[low, low], [high, low], [high, high], [low, high]]; // prettier-ignore
    const { tin, report } = triangulate(...field(3000, 100, 3, () => 5), { maximumEdge: 0 }, [
      line('boundary', square(10, 90), true),
      line('hole', square(40, 60), true),
    ]);
    expect(report.edgesNotHeld).toBe(0);
    expect(tinFacts(tin).areaInPlan).toBeCloseTo(80 * 80 - 20 * 20, 6);
  });

  test('water is level inside its outline and takes no points', () => {
    const { tin } = triangulate(...field(2000, 100, 6, (e) => e), { maximumEdge: 0 }, [
      line('water', [[30, 30, 7], [70, 30, 7], [70, 70, 7], [30, 70, 7]], true), // prettier-ignore
    ]);
    for (let f = 0; f < tin.facets.length; f += 3) {
      const corners = [0, 1, 2].map((k) => tin.facets[f + k]!);
      const middle = (of: Float64Array): number => corners.reduce((sum, i) => sum + of[i]!, 0) / 3;
      const [e, n] = [middle(tin.easting) + tin.origin[0], middle(tin.northing) + tin.origin[1]];
      if (e > 30 && e < 70 && n > 30 && n < 70) for (const i of corners) expect(tin.elevation[i]).toBe(7);
    }
  });

  test.each([
    ['a breakline outside the boundary', [line('boundary', [[10, 10], [50, 10], [50, 50], [10, 50]], true), line('breakline', [[60, 60, 1], [90, 90, 1]])]], // prettier-ignore
    ['the same line twice', [line('breakline', [[20, 20, 1], [80, 80, 1]]), line('breakline', [[20, 20, 1], [80, 80, 1]])]], // prettier-ignore
    ['a line of one corner', [line('breakline', [[50, 50, 1]])]],
    ['a line with a corner twice', [line('breakline', [[20, 20, 1], [20, 20, 1], [80, 60, 2]])]], // prettier-ignore
  ])('%s leaves a sound surface', (_, lines) => {
    const { tin, report } = triangulate(...field(500, 100, 8), { maximumEdge: 0 }, lines);
    expectSound(tin);
    expect(report.edgesNotHeld).toBe(0);
  });

  test('a boundary that crosses itself is told', () => {
    const bow = line('boundary', [[10, 10], [90, 90], [90, 10], [10, 90]], true); // prettier-ignore
    expect(() => triangulate(...field(500, 100, 8), { maximumEdge: 0 }, [bow])).toThrow(/cross each other/);
  });
});
