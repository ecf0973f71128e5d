import Delaunator from 'delaunator';
import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import { GrowingTin } from './growing-tin.js';

const SQUARE = [-1, -1, 11, -1, 11, 11, -1, 11];

/** Facets by their vertices' places, so that numbering does not count. */
function facetsOf(tin: GrowingTin): Set<string> {
  return new Set(
    Array.from(
      { length: tin.facets },
      (_, t) =>
      [0, 1, 2].map((k) => tin.vertices[3 * t + k]!).map((v) => `${tin.x[v]} ${tin.y[v]}`).sort().join(', '), // prettier-ignore
    ),
  );
}
function areaOf(tin: GrowingTin): number {
  let sum = 0;
  for (let t = 0; t < tin.facets; t++) {
    const [a, b, c] = [0, 1, 2].map((k) => tin.vertices[3 * t + k]!) as [number, number, number];
    const area =
      ((tin.x[b]! - tin.x[a]!) * (tin.y[c]! - tin.y[a]!) - (tin.y[b]! - tin.y[a]!) * (tin.x[c]! - tin.x[a]!)) / 2;
    expect(area).toBeGreaterThan(0);
    sum += area;
  }
  return sum;
}
function grow(places: readonly (readonly [number, number])[], near: (k: number, tin: GrowingTin) => number = () => 0) {
  const tin = new GrowingTin(Float64Array.from(SQUARE));
  tin.reserve(places.length);
  tin.beginRound();
  places.forEach(([x, y], k) => tin.add(x, y, near(k, tin)));
  return tin;
}

describe('a triangulation that grows', () => {
  test('is the Delaunay triangulation of all its places, as Delaunator makes it at once, whatever their order', () => {
    const random = seededRandom(3);
    const places = Array.from({ length: 3000 }, (): [number, number] => [10 * random(), 10 * random()]);
    const at = new Float64Array([...SQUARE, ...places.flat()]);
    const { triangles } = new Delaunator(at);
    const whole = new Set<string>();
    for (let t = 0; t < triangles.length; t += 3)
      whole.add([0, 1, 2].map((k) => triangles[t + k]!).map((v) => `${at[2 * v]} ${at[2 * v + 1]}`).sort().join(', ')); // prettier-ignore
    const grown = grow(places, (k, tin) => (k * 7919) % tin.facets);
    expect(facetsOf(grown)).toEqual(whole);
    expect(facetsOf(grow([...places].reverse()))).toEqual(whole);
    expect(areaOf(grown)).toBeCloseTo(144, 9);
  });

  test('takes places on edges, on a grid, where four lie on a circle, and the same place twice', () => {
    const places: [number, number][] = [];
    for (let y = 0; y <= 10; y++) for (let x = 0; x <= 10; x++) places.push([x, y]);
    const tin = grow([...places, ...places, [5, 5]]);
    expect(tin.count).toBe(4 + 121);
    // Euler: a triangulation with n vertices of which h are on the outline has 2n - h - 2 facets.
    expect(tin.facets).toBe(2 * 125 - 4 - 2);
    expect(areaOf(tin)).toBeCloseTo(144, 9);
    expect(tin.add(3, 7, 0)).toBe(4 + 7 * 11 + 3);
  });

  test('tells which facets a round has changed: together they cover what they covered before', () => {
    const random = seededRandom(9);
    const tin = grow(Array.from({ length: 400 }, (): [number, number] => [10 * random(), 10 * random()]));
    const before = facetsOf(tin);
    tin.reserve(1);
    tin.beginRound();
    tin.add(5.123, 5.321, 0);
    const changed = new Set(tin.changedFacets);
    expect(changed.size).toBeGreaterThan(2);
    expect(changed.size).toBeLessThan(20);
    const others = [...facetsOf(tin)].filter((facet) => before.has(facet)).length;
    expect(others).toBe(tin.facets - changed.size);
    // A place outside nothing: the one that stands there changes no facet.
    tin.beginRound();
    tin.add(5.123, 5.321, 0);
    expect(tin.changedFacets).toEqual([]);
  });

  test('a place outside the outline is refused, where it could be looked for without end', () => {
    const tin = new GrowingTin(Float64Array.from([0, 0, 10, 0, 10, 10, 0, 10]));
    tin.reserve(40);
    // Some of them end at the facet on the outline: what must not be is a walk without end.
    for (let k = 0; k < 40; k++) {
      const [x, y] = [20 * Math.cos(k), 20 * Math.sin(k)];
      try {
        expect(tin.facetAt(x, y, 0)).toBeLessThan(tin.facets);
      } catch (error) {
        expect((error as Error).message).toMatch(/lies outside the outline/);
      }
    }
  });

  test('makes room as it goes', () => {
    const tin = new GrowingTin(Float64Array.from(SQUARE));
    const random = seededRandom(1);
    for (let k = 0; k < 50; k++) {
      tin.reserve(3);
      for (let n = 0; n < 3; n++) tin.add(10 * random(), 10 * random(), 0);
    }
    expect(tin.count).toBe(154);
    expect(areaOf(tin)).toBeCloseTo(144, 9);
  });
});
