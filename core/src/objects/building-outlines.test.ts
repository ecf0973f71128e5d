import { describe, expect, test } from 'vitest';
import { distanceToLeg, legCount, shapeOf, type LineShape } from '../lines/index.js';
import { signedArea } from '../measuring/index.js';
import { seededRandom } from '../task/index.js';
import { buildingOutlines, type BuildingOutline } from './index.js';

/** Invented buildings whose outlines are known; no source. */
const [E, N] = [5_512_000, 6_150_000];
type Place = readonly [number, number];

/** Points spread evenly over a polygon turned by an angle, so many to a square metre, 3 cm off in plan. */
function pointsOn(outline: readonly Place[], degrees: number, density: number, seed = 1, middle: Place = [50, 50]) {
  const random = seededRandom(seed);
  const [xs, ys] = [outline.map(([x]) => x), outline.map(([, y]) => y)];
  const [west, south, east, north] = [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
  const [cos, sin] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
  const turn = ([x, y]: Place): Place => [E + middle[0] + cos * x - sin * y, N + middle[1] + sin * x + cos * y];
  const isInside = (x: number, y: number): boolean => {
    let inside = false;
    outline.forEach(([ax, ay], k) => {
      const [bx, by] = outline[(k + 1) % outline.length]!;
      if (ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax)) inside = !inside;
    });
    return inside;
  };
  const places: Place[] = [];
  for (let k = 0; k < (east - west) * (north - south) * density; k++) {
    const [x, y] = [west + random() * (east - west), south + random() * (north - south)];
    if (isInside(x, y)) places.push(turn([x + 0.06 * (random() - 0.5), y + 0.06 * (random() - 0.5)]));
  }
  const truth = shapeOf(outline.map(turn).map(([e, n]) => ({ e, n, z: 0, source: 0 })), true); // prettier-ignore
  return {
    points: {
      easting: Float64Array.from(places, ([e]) => e),
      northing: Float64Array.from(places, ([, n]) => n),
      elevation: Float64Array.from(places, () => 35 + 0.1 * random()),
    },
    truth,
  };
}

const optionsAt = (density: number) => {
  const spacing = 1 / Math.sqrt(density);
  return { cell: 1.5 * spacing, leastArea: 10, tolerance: spacing, shortestSide: Math.max(1, 3 * spacing) };
};

/** How far the corners of one ring lie from the other, root mean square. */
function cornersOff(ring: LineShape, from: LineShape): number {
  const off = Array.from(ring.easting, (e, k) =>
    Math.min(...Array.from({ length: legCount(from) }, (_, leg) => distanceToLeg(from, leg, e, ring.northing[k]!))),
  );
  return Math.sqrt(off.reduce((sum, d) => sum + d * d, 0) / off.length);
}

function isRightAngled({ easting, northing }: LineShape): boolean {
  const count = easting.length;
  return Array.from(easting, (_, k) => {
    const [a, b, c] = [(k + count - 1) % count, k, (k + 1) % count];
    const [ux, uy] = [easting[b]! - easting[a]!, northing[b]! - northing[a]!];
    const [vx, vy] = [easting[c]! - easting[b]!, northing[c]! - northing[b]!];
    return Math.abs(ux * vx + uy * vy) / (Math.hypot(ux, uy) * Math.hypot(vx, vy));
  }).every((cos) => cos < 1e-6);
}

const RECTANGLE: Place[] = [[0, 0], [18, 0], [18, 10], [0, 10]]; // prettier-ignore
const L: Place[] = [[0, 0], [22, 0], [22, 9], [9, 9], [9, 18], [0, 18]]; // prettier-ignore
const T: Place[] = [[0, 0], [30, 0], [30, 8], [20, 8], [20, 20], [11, 20], [11, 8], [0, 8]]; // prettier-ignore

describe('buildings', () => {
  test.each([
    ['a rectangle', RECTANGLE],
    ['an L', L],
    ['a T', T],
  ])('%s: right angles, its corners, within half the spacing of its points, whichever way it lies', (_, outline) => {
    for (const density of [4, 16])
      for (const degrees of [0, 13, 27, 45, 71]) {
        const { points, truth } = pointsOn(outline, degrees, density, degrees + density);
        const found = buildingOutlines(points, optionsAt(density));
        expect(found, `${degrees}° at ${density}`).toHaveLength(1);
        const { ring, isSquared, area, residual } = found[0]!;
        expect(isSquared).toBe(true);
        expect(isRightAngled(ring)).toBe(true);
        expect(ring.easting.length).toBe(outline.length);
        const spacing = 1 / Math.sqrt(density);
        expect(cornersOff(ring, truth)).toBeLessThan(0.5 * spacing);
        expect(cornersOff(truth, ring)).toBeLessThan(0.5 * spacing);
        expect(Math.abs(area / Math.abs(signedArea(outline)) - 1)).toBeLessThan(0.04);
        expect(residual).toBeLessThan(spacing);
      }
  });

  test('round ones are told by their edge as it is, and it is said that they are not squared', () => {
    const circle = Array.from({ length: 60 }, (_, k): Place => [9 * Math.cos((k * Math.PI) / 30), 9 * Math.sin((k * Math.PI) / 30)]); // prettier-ignore
    const { points, truth } = pointsOn(circle, 0, 9);
    const [silo] = buildingOutlines(points, optionsAt(9));
    expect(silo!.isSquared).toBe(false);
    expect(cornersOff(silo!.ring, truth)).toBeLessThan(0.5);
    expect(silo!.area / (Math.PI * 81)).toBeCloseTo(1, 1);
  });

  test('each is one, small ones are left out, a gap in a roof is none', () => {
    const [a, b] = [pointsOn(RECTANGLE, 20, 9, 1), pointsOn([[0, 0], [2.5, 0], [2.5, 2.5], [0, 2.5]], 0, 9, 2, [100, 100])]; // prettier-ignore
    const c = pointsOn(L, 60, 9, 3, [150, 60]);
    const join = (key: 'easting' | 'northing' | 'elevation') => Float64Array.from([a, b, c].flatMap(({ points }) => [...points[key]])); // prettier-ignore
    const all = { easting: join('easting'), northing: join('northing'), elevation: join('elevation') };
    const found = buildingOutlines(all, optionsAt(9));
    expect(found.map(({ ring }) => ring.easting.length).sort()).toEqual([4, 6]);
    const hole = (i: number): boolean =>
      Math.hypot(a.points.easting[i]! - E - 56, a.points.northing[i]! - N - 57) > 0.4;
    const kept = [...a.points.easting.keys()].filter(hole);
    const pick = (values: Float64Array) => Float64Array.from(kept, (i) => values[i]!);
    const holed = { easting: pick(a.points.easting), northing: pick(a.points.northing), elevation: pick(a.points.elevation) }; // prettier-ignore
    expect(buildingOutlines(holed, optionsAt(9))[0]!.ring.easting.length).toBe(4);
  });

  test('the same whatever the order of the points; none where there are none', () => {
    const { points } = pointsOn(T, 33, 9);
    const reversed = Object.fromEntries(Object.entries(points).map(([key, values]) => [key, values.slice().reverse()])) as typeof points; // prettier-ignore
    const rounded = (of: BuildingOutline[]) => of.flatMap(({ ring }) => Array.from(ring.easting, (e, k) => [e, ring.northing[k]!].map((v) => v.toFixed(4)).join())).sort(); // prettier-ignore
    expect(rounded(buildingOutlines(reversed, optionsAt(9)))).toEqual(rounded(buildingOutlines(points, optionsAt(9))));
    const none = new Float64Array();
    expect(buildingOutlines({ easting: none, northing: none, elevation: none }, optionsAt(9))).toEqual([]);
  });
});
