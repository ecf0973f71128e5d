import fc from 'fast-check';
import { incircle } from 'robust-predicates';
import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/seeded-random.js';
import { editTin, tinFacts, triangulate, type SurfaceEdit, type TerrainLine, type Tin } from './index.js';
import { isWhole } from './whole-tin.fixture.js';

function land(seed: number, lines: TerrainLine[] = []): Tin {
  const random = seededRandom(seed);
  const at = (): Float64Array => Float64Array.from({ length: 120 }, () => random() * 100);
  const [e, n] = [at(), at()];
  return triangulate(
    e,
    n,
    Float64Array.from(e, (x, i) => x / 10 + n[i]! / 20),
    undefined,
    lines,
  ).tin;
}
const after = (h: number): number => (h % 3 === 2 ? h - 2 : h + 1);
const area = (tin: Tin): number => tinFacts(tin).areaInPlan;
function isDelaunay({ facets, twins, easting: e, northing: n }: Tin): boolean {
  for (let h = 0; h < facets.length; h++) {
    const twin = twins[h]!;
    if (twin < 0) continue;
    const [a, b, c] = [facets[h]!, facets[after(h)]!, facets[after(after(h))]!];
    const d = facets[after(after(twin))]!;
    if (incircle(e[a]!, n[a]!, e[b]!, n[b]!, e[c]!, n[c]!, e[d]!, n[d]!) > 1e-9) return false;
  }
  return true;
}
/** Corners of the surface away from the rim. */
function inner(tin: Tin): [number, number][] {
  const rim = new Set<number>();
  for (let h = 0; h < tin.facets.length; h++) if (tin.twins[h]! < 0) rim.add(tin.facets[h]!).add(tin.facets[after(h)]!);
  return Array.from(tin.easting, (x, i): [number, number] => [
    x + tin.origin[0],
    tin.northing[i]! + tin.origin[1],
  ]).filter((_, i) => !rim.has(i));
}

describe('edits by hand', () => {
  test('points taken out and added: whole, Delaunay, and of the same area, whatever the order', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 1, maxLength: 30 }),
        (seed, picks) => {
          const tin = land(seed);
          const places = inner(tin);
          // Each point once: where one is gone, the place would mean another.
          const chosen = [...new Set(picks.map((pick) => Math.floor(pick * (places.length - 1))))];
          const edits = chosen.map((index, k): SurfaceEdit => {
            const place = places[index]!;
            return k % 2 === 0
              ? { kind: 'take-out', place }
              : { kind: 'add', place: [place[0] + 0.37, place[1] - 0.21], elevation: 7 };
          });
          const { tin: edited } = editTin(tin, edits);
          isWhole(edited);
          expect(isDelaunay(edited)).toBe(true);
          expect(area(edited)).toBeCloseTo(area(tin), 6);
        },
      ),
      { numRuns: 40 },
    );
  });

  test('a side swapped twice is as it was; one that cannot be is refused', () => {
    const tin = land(3);
    let done = 0;
    for (let h = 0; h < tin.facets.length; h += 7) {
      if (tin.twins[h]! < 0) continue;
      const [a, b] = [tin.facets[h]!, tin.facets[after(h)]!];
      const place = [
        (tin.easting[a]! + tin.easting[b]!) / 2 + tin.origin[0],
        (tin.northing[a]! + tin.northing[b]!) / 2 + tin.origin[1],
      ] as const;
      const once = editTin(tin, [{ kind: 'swap', place }]);
      isWhole(once.tin);
      expect(area(once.tin)).toBeCloseTo(area(tin), 6);
      if (once.refused[0]) expect(once.refused[0].code).toBe('side-not-swapped');
      else done++;
    }
    expect(done).toBeGreaterThan(15);
  });

  test('an outlier taken out of a plane leaves the plane', () => {
    const random = seededRandom(2);
    const e = Float64Array.from({ length: 200 }, (_, i) => (i === 0 ? 50 : random() * 100));
    const n = Float64Array.from({ length: 200 }, (_, i) => (i === 0 ? 50 : random() * 100));
    const z = Float64Array.from(e, (_, i) => (i === 0 ? 60 : 10));
    const { tin } = triangulate(e, n, z);
    const { tin: edited, refused } = editTin(tin, [{ kind: 'take-out', place: [50.1, 50] }]);
    expect(refused).toEqual([undefined]);
    expect(tinFacts(edited)).toMatchObject({ highest: 10, points: tin.easting.length - 1 });
  });

  test('triangles are dropped at a place and within an outline; beside the surface nothing is done, and it is said', () => {
    const tin = land(5);
    const one = editTin(tin, [{ kind: 'drop', place: [50, 50] }]);
    expect(one.tin.facets.length).toBe(tin.facets.length - 3);
    isWhole(one.tin);
    const hole = editTin(tin, [{ kind: 'drop-within', outline: [[30, 30], [70, 30], [70, 70], [30, 70]] }]); // prettier-ignore
    expect(area(hole.tin)).toBeLessThan(area(tin) - 1200);
    const beside = editTin(tin, [
      { kind: 'add', place: [500, 500], elevation: 1 },
      { kind: 'take-out', place: [-40, 50] },
    ]);
    expect(beside.refused.map((error) => error?.code)).toEqual(['beside-surface', 'beside-surface']);
    expect(beside.tin.facets).toEqual(tin.facets);
  });

  test('breaklines are left alone: their points stay, their sides are not swapped, a point on one parts it', () => {
    const line: TerrainLine = { role: 'breakline', easting: [20, 80], northing: [50, 50], elevation: [5, 5], isClosed: false }; // prettier-ignore
    const tin = land(9, [line]);
    expect(editTin(tin, [{ kind: 'take-out', place: [20, 50] }]).refused[0]!.code).toBe('held-side');
    const on = editTin(tin, [{ kind: 'add', place: [50, 50], elevation: 5 }]);
    expect(on.refused).toEqual([undefined]);
    isWhole(on.tin);
    const held = (of: Tin): number => {
      let length = 0;
      for (let h = 0; h < of.facets.length; h++)
        if (of.held![h] === 1)
          length += Math.hypot(
            of.easting[of.facets[h]!]! - of.easting[of.facets[after(h)]!]!,
            of.northing[of.facets[h]!]! - of.northing[of.facets[after(h)]!]!,
          );
      return length / 2;
    };
    expect(held(tin)).toBeCloseTo(60, 6);
    expect(held(on.tin)).toBeCloseTo(60, 6);
  });
});
