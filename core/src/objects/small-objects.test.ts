import { describe, expect, test } from 'vitest';
import { convexHull, narrowestRectangle, signedArea } from '../measuring/index.js';
import { seededRandom } from '../task/seeded-random.js';
import { SMALL_OBJECT } from './small-object-kind.js';
import { smallObjects, type SmallObjectOptions } from './small-objects.js';

const OPTIONS: SmallObjectOptions = {
  metre: 1,
  spacing: 0.35,
  poles: { leastHeight: 4 },
  fences: { leastLength: 8 },
  hasVehicles: true,
};

type P = readonly [number, number, number];
const random = seededRandom(5);
const between = (a: number, b: number): number => a + (b - a) * random();

/** A plan rectangle seen from above, its top at a height, with some points on its sides. */
function box(e: number, n: number, length: number, width: number, top: number, turned: number, spacing = 0.35): P[] {
  const out: P[] = [];
  const [c, s] = [Math.cos(turned), Math.sin(turned)];
  for (let u = -length / 2; u <= length / 2; u += spacing)
    for (let v = -width / 2; v <= width / 2; v += spacing)
      out.push([e + c * u - s * v, n + s * u + c * v, top + between(-0.02, 0.02)]);
  return out;
}

/** Points all through an ellipsoid that stands on the ground. */
function bush(e: number, n: number, radius: number, height: number, count: number): P[] {
  const out: P[] = [];
  while (out.length < count) {
    const [u, v, w] = [between(-1, 1), between(-1, 1), between(-1, 1)];
    if (u * u + v * v + w * w <= 1) out.push([e + radius * u, n + radius * v, (height / 2) * (1 + w)]);
  }
  return out;
}

function kindsOf(points: readonly P[], options: SmallObjectOptions, wire?: Uint8Array): Uint8Array {
  const of = (axis: 0 | 1 | 2): Float64Array => Float64Array.from(points, (p) => p[axis]);
  // The ground lies at 0.
  return smallObjects(
    { count: points.length, x: of(0), y: of(1), z: of(2) },
    Float32Array.from(points, (p) => p[2]),
    options,
    Uint8Array.from(points, (_, i) => 1 - (wire?.[i] ?? 0)),
    wire,
    undefined,
  );
}
const share = (kinds: Uint8Array, kind: number): number => kinds.filter((k) => k === kind).length / kinds.length;

describe('narrow, long and low things', () => {
  test('a car at any angle is a vehicle; a bush of its size, a cow and a container of 12 by 4 m are not', () => {
    for (let k = 0; k < 12; k++) {
      const car = box(50 + random(), 70 + random(), 4.4, 1.8, 1.5, (k * Math.PI) / 12);
      expect(share(kindsOf(car, OPTIONS), SMALL_OBJECT.vehicle)).toBe(1);
      const shrub = bush(50 + random(), 70 + random(), 1.5, 2, 90);
      expect(share(kindsOf(shrub, OPTIONS), SMALL_OBJECT.vehicle)).toBe(0);
      expect(share(kindsOf(box(50, 70, 2.2, 0.7, 1.4, k, 0.2), OPTIONS), SMALL_OBJECT.vehicle)).toBe(0);
      expect(share(kindsOf(box(50, 70, 12, 4, 2.6, k), OPTIONS), SMALL_OBJECT.vehicle)).toBe(0);
    }
  });

  test('a car under the crown of a tree is found by its lid', () => {
    const car = box(20, 20, 4.4, 1.8, 1.6, 0.4);
    const crown = bush(22, 21, 2.5, 3, 120).map(([e, n, z]): P => [e, n, z + 3]);
    const kinds = kindsOf([...car, ...crown], OPTIONS);
    expect(kinds.subarray(0, car.length).filter((k) => k === SMALL_OBJECT.vehicle).length).toBeGreaterThan(
      0.9 * car.length,
    );
    expect([...kinds.subarray(car.length)].filter((k) => k !== 0)).toEqual([]);
  });

  test('a slender mast is a pole, a young tree of that height is not, unless it carries the wire', () => {
    const mast = Array.from({ length: 12 }, (_, k): P => [10 + between(-0.1, 0.1), 10 + between(-0.1, 0.1), 0.7 + k]);
    expect(share(kindsOf(mast, OPTIONS), SMALL_OBJECT.pole)).toBe(1);
    const tree = bush(40, 10, 1.4, 6, 60);
    expect(share(kindsOf(tree, OPTIONS), SMALL_OBJECT.pole)).toBe(0);
    const tower = [0, 1, 2, 3, 4, 5, 6, 7].flatMap((k): P[] =>
      [-1, 1].map((side): P => [90 + (side * (8 - k)) / 4, 10, 2 + 2 * k]),
    );
    const span = Array.from({ length: 20 }, (_, k): P => [90.5 + k, 10, 16.2]);
    const all = [...tower, ...span];
    const wire = Uint8Array.from(all, (_, i) => (i >= tower.length ? 1 : 0));
    const found = kindsOf(all, OPTIONS, wire);
    expect([...found.subarray(0, tower.length)].every((k) => k === SMALL_OBJECT.pole)).toBe(true);
    expect([...found.subarray(tower.length)].every((k) => k === SMALL_OBJECT.none)).toBe(true);
  });

  test('a bough beside a crown, or one that hangs without a foot, is no pole; a mast beside a lower tree is', () => {
    const upright = (foot: number): P[] =>
      Array.from({ length: 14 }, (_, k): P => [10 + between(-0.1, 0.1), 10, foot + ((9 - foot) * k) / 13]);
    const crown = (top: number): P[] => bush(12.6, 10, 1.6, 4, 80).map(([e, n, z]): P => [e, n, z + top - 4]);
    const poleOf = (points: readonly P[], others: readonly P[]): number =>
      share(kindsOf([...points, ...others], OPTIONS).subarray(0, points.length), SMALL_OBJECT.pole);
    expect(poleOf(upright(0.8), crown(11))).toBe(0);
    expect(poleOf(upright(0.8), crown(7))).toBe(1);
    expect(poleOf(upright(5.5), [])).toBe(0);
    expect(poleOf(upright(3), [])).toBe(1);
  });

  test('a broad tree that a wire passes is no tower: it has no waist', () => {
    const tree = bush(90, 10, 2.3, 7.5, 600);
    const wire = Array.from({ length: 40 }, (_, k): P => [70 + k, 10, 7.6]);
    const all = [...tree, ...wire];
    const found = kindsOf(
      all,
      OPTIONS,
      Uint8Array.from(all, (_, i) => (i >= tree.length ? 1 : 0)),
    );
    expect([...found.subarray(0, tree.length)]).not.toContain(SMALL_OBJECT.pole);
  });

  test('the ends of spans that hang on a pole are wire, its arm is pole; a piece of a span that nothing holds up is no pole', () => {
    const shaft = Array.from({ length: 14 }, (_, k): P => [
      10 + between(-0.1, 0.1),
      10 + between(-0.1, 0.1),
      0.7 + 0.55 * k,
    ]);
    const arm = [-0.4, 0.4].flatMap((off): P[] => [[10, 10 + off, 8.2], [10 + off, 10.2, 8.1]]); // prettier-ignore
    const ends = [-2.1, -1.7, -1.3, -0.9, 0.9, 1.3, 1.7, 2.1].map((along): P => [10 + along, 10.2, 8.1]);
    const hanging = Array.from({ length: 6 }, (_, k): P => [40 + 0.6 * k, 10.4, 8]);
    const run = [...Array.from({ length: 20 }, (_, k): P => [13 + k, 10.4, 8]), ...Array.from({ length: 20 }, (_, k): P => [44 + k, 10.4, 8])]; // prettier-ignore
    const all = [...shaft, ...arm, ...ends, ...hanging, ...run];
    const wire = Uint8Array.from(all, (_, i) => (i >= all.length - run.length ? 1 : 0));
    const found = [...kindsOf(all, OPTIONS, wire)];
    const of = (from: number, count: number): number[] => [...new Set(found.slice(from, from + count))];
    expect(of(0, shaft.length + arm.length)).toEqual([SMALL_OBJECT.pole]);
    expect(of(shaft.length + arm.length, ends.length)).toEqual([SMALL_OBJECT.wire]);
    expect(of(shaft.length + arm.length + ends.length, hanging.length)).not.toContain(SMALL_OBJECT.pole);
  });

  test('a fence round a yard is found with its corners; a hedge three metres wide and a short piece are not', () => {
    const corners = [[0, 0], [30, 4], [26, 34], [-4, 30], [0, 0]] as const; // prettier-ignore
    const fence: P[] = [];
    for (let s = 0; s < 4; s++)
      for (let k = 0; k < 90; k++) {
        const [[ae, an], [be, bn]] = [corners[s]!, corners[s + 1]!];
        fence.push([
          ae + ((be - ae) * k) / 90 + between(-0.05, 0.05),
          an + ((bn - an) * k) / 90 + between(-0.05, 0.05),
          between(0.4, 1.5),
        ]);
      }
    expect(share(kindsOf(fence, OPTIONS), SMALL_OBJECT.fence)).toBeGreaterThan(0.95);
    const hedge = Array.from({ length: 400 }, (): P => [between(0, 30), between(0, 3), between(0.3, 1.5)]);
    expect(share(kindsOf(hedge, OPTIONS), SMALL_OBJECT.fence)).toBe(0);
    const short = fence.filter(([e, n]) => e < 6 && n < 4 && n > -1);
    expect(share(kindsOf(short, OPTIONS), SMALL_OBJECT.fence)).toBe(0);
  });

  test('pieces with their margins give what the whole gives', () => {
    const things: P[] = [];
    for (let k = 0; k < 25; k++) {
      const [e, n] = [between(0, 120), between(0, 120)];
      things.push(...box(e, n, 4.4, 1.8, 1.5, k), ...bush(between(0, 120), between(0, 120), 1.5, 3, 40));
      things.push(...Array.from({ length: 8 }, (_, q): P => [e + 9, n + 9, 0.8 + q]));
    }
    for (let k = 0; k < 300; k++) things.push([k * 0.4, 60 + between(-0.05, 0.05), between(0.7, 1.4)]);
    const whole = kindsOf(things, OPTIONS);
    const margin = 14 + 4 * 0.46 + 8 + 1;
    for (const [west, east] of [
      [0, 60],
      [60, 130],
    ] as const) {
      // prettier-ignore
      const near = things.map((_, i) => i).filter((i) => things[i]![0] >= west - margin && things[i]![0] < east + margin);
      const part = kindsOf(
        near.map((i) => things[i]!),
        OPTIONS,
      );
      near.forEach((i, k) => {
        if (things[i]![0] >= west && things[i]![0] < east) expect(part[k]).toBe(whole[i]);
      });
    }
  });

  test('a fence at one side of the land does not go on at the other', () => {
    // Too short to be a fence, at the west side; a long one at the east side, a row of cells further south.
    const short = Array.from({ length: 16 }, (_, k): P => [0.2 + 0.4 * k, 60, between(0.7, 1.4)]);
    const long = Array.from({ length: 60 }, (_, k): P => [60 - 0.4 * k, 59.4, between(0.7, 1.4)]);
    const found = kindsOf([...short, ...long], { ...OPTIONS, hasVehicles: false });
    expect([...new Set(found.subarray(0, short.length))]).toEqual([SMALL_OBJECT.none]);
    expect(found.subarray(short.length).filter((kind) => kind === SMALL_OBJECT.fence).length).toBeGreaterThan(50);
  });

  test('nothing at all, and one point', () => {
    expect(kindsOf([], OPTIONS)).toHaveLength(0);
    expect([...kindsOf([[1, 2, 5]], OPTIONS)]).toEqual([0]);
  });
});

describe('outlines in plan', () => {
  test('the narrowest rectangle about a turned one is itself', () => {
    const [c, s] = [Math.cos(0.7), Math.sin(0.7)];
    const corners = [[-3, -1], [3, -1], [3, 1], [-3, 1], [0, 0], [1, 0.5]].map(
      ([u, v]): [number, number] => [5_512_000 + c * u! - s * v!, 6_150_000 + s * u! + c * v!],
    ); // prettier-ignore
    const hull = convexHull(corners);
    expect(hull).toHaveLength(4);
    expect(signedArea(hull)).toBeCloseTo(12, 6);
    const { length, width, area } = narrowestRectangle(hull);
    expect([length, width, area].map((v) => Number(v.toFixed(6)))).toEqual([6, 2, 12]);
  });
});
