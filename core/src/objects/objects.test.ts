import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import {
  addGround,
  classifyObjects,
  eigenvalues,
  groundAt,
  groundModel,
  mergeGround,
  newGroundSums,
  planarPoints,
  WIDE_ROOFS,
  type GroundModel,
  type ObjectOptions,
} from './index.js';

const QUANTISATION = { scale: [0.01, 0.01, 0.01], offset: [0, 0, 0] } as const;
const frame = { east: 0, north: 0, cell: 1, columns: 60, rows: 60 };
const ground: GroundModel = { ...frame, elevation: new Float64Array(3600).fill(10) };
const options: ObjectOptions = {
  lowFrom: 0.2,
  mediumFrom: 0.5,
  highFrom: 2,
  highest: 60,
  roofs: { leastHeight: 2, leastArea: 6, roughness: 0.08, radius: 1, spacing: 0.3 },
  wires: { leastHeight: 4, radius: 3, leastLength: 12 },
};

type Point = readonly [number, number, number];
function places(list: readonly Point[]) {
  return {
    count: list.length,
    x: Float64Array.from(list, ([x]) => x),
    y: Float64Array.from(list, ([, y]) => y),
    z: Float64Array.from(list, ([, , z]) => z),
  };
}
const classify = (list: readonly Point[], count = list.length, with_ = options) =>
  classifyObjects(
    places(list),
    ground,
    with_,
    new Uint8Array(list.length).fill(1),
    new Uint8Array(count).fill(1),
    count,
  );

/** Points every so far over a rectangle, at a height that may depend on the place, with a scatter. */
function sheet(
  west: number,
  south: number,
  east: number,
  north: number,
  step: number,
  height: (x: number, y: number) => number,
): Point[] {
  const random = seededRandom(7);
  const out: Point[] = [];
  for (let x = west; x <= east; x += step)
    for (let y = south; y <= north; y += step) out.push([x, y, height(x, y) + (random() - 0.5) * 0.06]);
  return out;
}
function crown(cx: number, cy: number, radius: number, base: number, count: number): Point[] {
  const random = seededRandom(11);
  return Array.from({ length: count }, () => {
    const [a, r, h] = [random() * 2 * Math.PI, radius * Math.cbrt(random()), random()];
    return [cx + r * Math.cos(a), cy + r * Math.sin(a), base + h * 2 * radius] as const;
  });
}

describe('ground heights', () => {
  test('means by cell, the same over tiles, and holes filled smoothly between them', () => {
    const batch = {
      count: 4,
      x: Int32Array.of(50, 60, 950, 950),
      y: Int32Array.of(50, 50, 50, 950),
      z: Int32Array.of(1000, 1002, 1100, 1300),
      classification: Uint8Array.of(2, 2, 2, 1),
      flags: new Uint8Array(4),
    };
    const isGround = new Uint8Array(256);
    isGround[2] = 1;
    const whole = newGroundSums({ ...frame, columns: 10, rows: 10 });
    addGround(whole, batch, QUANTISATION, isGround);
    const parts = newGroundSums({ ...frame, columns: 10, rows: 10 });
    const tile = newGroundSums({ east: 5, north: 0, cell: 1, columns: 5, rows: 10 });
    addGround(tile, { ...batch, x: batch.x.subarray(2), y: batch.y.subarray(2), z: batch.z.subarray(2), classification: batch.classification.subarray(2), count: 2 }, QUANTISATION, isGround); // prettier-ignore
    addGround(parts, { ...batch, count: 2 }, QUANTISATION, isGround);
    mergeGround(parts, tile);
    expect(parts).toEqual(whole);
    const model = groundModel(whole, QUANTISATION)!;
    expect(groundAt(model, 0.5, 0.5)).toBeCloseTo(10.01, 9);
    expect(groundAt(model, 9.5, 0.5)).toBeCloseTo(11, 9);
    // Nothing lies higher or lower than the ground that was measured.
    expect(Math.min(...model.elevation)).toBeGreaterThanOrEqual(10.01 - 1e-9);
    expect(Math.max(...model.elevation)).toBeLessThanOrEqual(11 + 1e-9);
    expect(groundModel(newGroundSums(frame), QUANTISATION)).toBeUndefined();
  });
});

describe('planes', () => {
  test('eigenvalues of a matrix with known ones', () => {
    // [[2,1,0],[1,2,0],[0,0,5]]: 1, 3 and 5.
    const [a, b, c] = eigenvalues([2, 1, 0, 2, 0, 5]);
    expect(a).toBeCloseTo(1, 9);
    expect(b).toBeCloseTo(3, 9);
    expect(c).toBeCloseTo(5, 9);
    expect(eigenvalues([4, 0, 0, 4, 0, 4])).toEqual([4, 4, 4]);
  });

  test('a roof is plane, a wall, a wire and a crown are not', () => {
    const roof = sheet(0, 0, 6, 6, 0.5, (x) => 14 + x * 0.6);
    const wall = sheet(20, 0, 20, 8, 0.4, () => 0).flatMap(([, y]) =>
      Array.from({ length: 8 }, (_, k): Point => [20, y, 11 + k * 0.4]),
    );
    const wire = Array.from({ length: 60 }, (_, k): Point => [30 + k * 0.2, 5, 20]);
    const tree = crown(50, 50, 3, 12, 900);
    const all = [...roof, ...wall, ...wire, ...tree];
    const planar = planarPoints(places(all), options.roofs!, new Uint8Array(all.length).fill(1));
    const share = (from: number, to: number) =>
      planar.subarray(from, to).filter((kind) => kind === 1).length / (to - from);
    const [r, w, l] = [roof.length, roof.length + wall.length, roof.length + wall.length + wire.length];
    expect(share(0, r)).toBeGreaterThan(0.95);
    expect(share(r, w)).toBe(0);
    expect(planar.subarray(r, w).filter((kind) => kind === 2).length).toBeGreaterThan(0.5 * (w - r));
    expect(share(w, l)).toBe(0);
    expect(share(l, all.length)).toBeLessThan(0.05);
  });
});

describe('objects', () => {
  test('vegetation goes by height over the ground', () => {
    const list: Point[] = [[5, 5, 10.1], [15, 5, 10.3], [25, 5, 10.9], [35, 5, 13], [45, 5, 90]]; // prettier-ignore
    expect([...classify(list)]).toEqual([1, 3, 4, 5, 1]);
  });

  test('a gable and a small shed are buildings, the tree beside them and a car are not', () => {
    const gable = sheet(10, 10, 22, 20, 0.5, (_, y) => 16 - Math.abs(y - 15) * 0.8);
    const shed = sheet(40, 10, 43, 13, 0.5, () => 12.6);
    const car = sheet(50, 10, 52, 14, 0.5, () => 11.4);
    const tree = crown(30, 40, 3.5, 12, 1400);
    const all = [...gable, ...shed, ...car, ...tree];
    const classes = classify(all);
    const share = (from: number, to: number, code: number) =>
      classes.subarray(from, to).filter((c) => c === code).length / (to - from);
    const [g, s, c] = [gable.length, gable.length + shed.length, gable.length + shed.length + car.length];
    expect(share(0, g, 6)).toBeGreaterThan(0.97);
    expect(share(g, s, 6)).toBeGreaterThan(0.9);
    expect(share(s, c, 6)).toBe(0);
    expect(share(c, all.length, 5)).toBeGreaterThan(0.97);
  });

  test('three wires over a tree are wires, the tree and a post are not', () => {
    const wires = [0, 1.5, 3].flatMap((off) =>
      Array.from({ length: 90 }, (_, k): Point => [5 + k * 0.5, 30 + off, 19 + ((k - 45) / 45) ** 2 * 1.5]),
    );
    const tree = crown(30, 31, 2.5, 11, 700);
    const post = Array.from({ length: 20 }, (_, k): Point => [5, 31, 10.5 + k * 0.4]);
    const all = [...wires, ...tree, ...post];
    const classes = classify(all);
    const share = (from: number, to: number) => classes.subarray(from, to).filter((c) => c === 14).length / (to - from);
    expect(share(0, wires.length)).toBeGreaterThan(0.9);
    expect(share(wires.length, wires.length + tree.length)).toBeLessThan(0.01);
    expect(share(wires.length + tree.length, all.length)).toBeLessThan(0.2);
  });

  test('walls belong to their house where a point falls on a square metre; a tree beside it does not', () => {
    const random = seededRandom(4);
    const within = (from: number, to: number): number => from + (to - from) * random();
    const roof = Array.from({ length: 600 }, (): Point => [within(10, 40), within(10, 30), 17 + within(-0.04, 0.04)]);
    const walls = Array.from({ length: 160 }, (_, k): Point => {
      const along = within(0, 1);
      const up = within(11.5, 16.8);
      return k % 2 === 0 ? [10 + 30 * along, k % 4 === 0 ? 10 : 30, up] : [k % 4 === 1 ? 10 : 40, 10 + 20 * along, up];
    });
    const tree = crown(50, 20, 3.5, 15, 90);
    const all = [...roof, ...walls, ...tree];
    const sparse = { ...options, roofs: { ...options.roofs!, radius: 2, spacing: 1 }, wires: undefined };
    const classes = classify(all, all.length, sparse);
    const share = (from: number, to: number) => classes.subarray(from, to).filter((c) => c === 6).length / (to - from);
    expect(share(0, roof.length)).toBeGreaterThan(0.96);
    expect(share(roof.length, roof.length + walls.length)).toBeGreaterThan(0.85);
    expect(share(roof.length + walls.length, all.length)).toBe(0);
  });

  test('rows of points on a facade are no wires; wires over its roof and away from it are', () => {
    const roof = sheet(10, 10, 40, 22, 0.4, () => 18);
    // As a scanner that looks from the side sees a wall: a few rows, far apart.
    const facade = [12, 14.2, 16.4].flatMap((z) => Array.from({ length: 60 }, (_, k): Point => [10 + k * 0.5, 9.9, z]));
    const over = Array.from({ length: 80 }, (_, k): Point => [5 + k * 0.5, 16, 21]);
    const away = Array.from({ length: 80 }, (_, k): Point => [5 + k * 0.5, 6, 17]);
    const all = [...roof, ...facade, ...over, ...away];
    const classes = classify(all);
    const share = (from: number, to: number) => classes.subarray(from, to).filter((c) => c === 14).length / (to - from);
    const [r, f] = [roof.length, roof.length + facade.length];
    expect(share(0, r)).toBe(0);
    expect(share(r, f)).toBe(0);
    expect(share(f, f + over.length)).toBeGreaterThan(0.95);
    expect(share(f + over.length, all.length)).toBeGreaterThan(0.95);
    // Without roofs nothing tells them from wires.
    const alone = classify(all, all.length, { ...options, roofs: undefined });
    expect(alone.subarray(r, f).filter((c) => c === 14).length).toBeGreaterThan(50);
  });

  test('land in two pieces with a margin gives what it gives whole', () => {
    const all = [
      ...sheet(10, 10, 30, 20, 0.5, () => 15),
      ...crown(26, 30, 3, 12, 600),
      ...sheet(24, 40, 27, 43, 0.5, () => 13),
    ];
    const whole = classify(all);
    const cut = 25;
    for (const isWest of [true, false]) {
      const own = all.filter(([x]) => x < cut === isWest);
      const rest = all.filter(([x]) => x < cut !== isWest && Math.abs(x - cut) < 30);
      const part = classify([...own, ...rest], own.length);
      const expected = whole.filter((_, i) => all[i]![0] < cut === isWest);
      expect([...part]).toEqual([...expected]);
    }
  });
});

describe('low roofs', () => {
  const low: ObjectOptions = { ...options, roofs: { ...options.roofs!, leastHeight: 1.7, wideBelow: WIDE_ROOFS } };
  const share = (list: readonly Point[], code: number): number => {
    const classes = classify(list, list.length, low);
    return classes.reduce((sum, of) => sum + (of === code ? 1 : 0), 0) / list.length;
  };

  test('a hut of four metres and 1.9 m high is a building, the lid of a van is none', () => {
    expect(share(sheet(20, 20, 24, 24, 0.3, () => 11.9), 6)).toBeGreaterThan(0.95); // prettier-ignore
    expect(share(sheet(20, 20, 22, 25.4, 0.3, () => 11.95), 6)).toBe(0); // prettier-ignore
    // A garden shed as narrow, but taller than vans are.
    expect(share(sheet(20, 20, 22.4, 25.4, 0.3, () => 12.6), 6)).toBeGreaterThan(0.95); // prettier-ignore
  });

  test('scrub that grows on from a wall stays scrub; the wall alone is of the building', () => {
    const roof = sheet(20, 20, 26, 26, 0.3, () => 12.4);
    const random = seededRandom(5);
    const scrub = Array.from({ length: 900 }, (): Point => [
      26.3 + 3.7 * random(),
      20 + 6 * random(),
      10.5 + 1.2 * random(),
    ]);
    const wall = Array.from({ length: 24 }, (): Point => [19.9, 20 + 6 * random(), 10.5 + 1.9 * random()]);
    const classes = classify([...roof, ...scrub, ...wall], roof.length + scrub.length + wall.length, low);
    const among = (from: number, count: number): number =>
      classes.subarray(from, from + count).reduce((sum, of) => sum + (of === 6 ? 1 : 0), 0) / count;
    expect(among(0, roof.length)).toBeGreaterThan(0.94);
    expect(among(roof.length, scrub.length)).toBeLessThan(0.05);
    expect(among(roof.length + scrub.length, wall.length)).toBeGreaterThan(0.9);
  });
});
