import type { RasterFrame } from '../raster/index.js';
import { describe, expect, test } from 'vitest';
import type { PointBatch } from '../cloud/index.js';
import { seededRandom } from '../task/index.js';
import {
  addLowestPoints,
  classifyAgainstSurface,
  clothDefaults,
  mergeLowestRaster,
  newLowestRaster,
  rejectLowOutliers,
  settleCloth,
  type ClothOptions,
} from './index.js';

type Points = Pick<PointBatch, 'count' | 'x' | 'y' | 'z' | 'classification' | 'flags' | 'returns'>;

const quantisation = { scale: [0.001, 0.001, 0.001], offset: [0, 0, 0] } as const;
const everyClass = new Uint8Array(256).fill(1);

/** Points in metres, single returns, class 1. */
function cloud(sites: readonly (readonly [number, number, number])[]): Points {
  const column = (axis: 0 | 1 | 2): Int32Array => Int32Array.from(sites, (s) => Math.round(s[axis] * 1000));
  const count = sites.length;
  return {
    count,
    x: column(0),
    y: column(1),
    z: column(2),
    classification: new Uint8Array(count).fill(1),
    flags: new Uint8Array(count),
    returns: new Uint8Array(count).fill(0x11),
  };
}

/** A 100 x 80 m scene, two points a square metre, 2 cm scatter: `height` gives ground, `above` what a beam meets first. */
function scene(
  height: (e: number, n: number) => number,
  above: (e: number, n: number) => number | undefined = () => undefined,
): { points: Points; isGround: boolean[] } {
  const random = seededRandom(31);
  const sites: [number, number, number][] = [];
  const isGround: boolean[] = [];
  for (let i = 0; i < 16_000; i++) {
    const e = random() * 100;
    const n = random() * 80;
    const met = above(e, n);
    sites.push([e, n, (met ?? height(e, n)) + 0.02 * (random() + random() - 1)]);
    isGround.push(met === undefined);
  }
  return { points: cloud(sites), isGround };
}

const frame: RasterFrame = { east: 0, north: 0, cell: 1, columns: 101, rows: 81 };

function findGround(points: Points, options: Partial<ClothOptions> = {}, classDistance = 0.2): Uint8Array {
  const raster = newLowestRaster(frame);
  addLowestPoints(raster, points, quantisation, everyClass);
  rejectLowOutliers(raster, 0.5);
  const cloth = settleCloth(raster, { ...clothDefaults, ...options });
  return classifyAgainstSurface(points, quantisation, frame, cloth, { classDistance, takes: everyClass });
}

function wrong(classes: Uint8Array, isGround: boolean[]): { missed: number; added: number } {
  let missed = 0;
  let added = 0;
  isGround.forEach((ground, i) => {
    if (ground && classes[i] !== 2) missed++;
    if (!ground && classes[i] === 2) added++;
  });
  return { missed, added };
}

describe('ground by cloth', () => {
  test('on a bare tilted plane of 20 % all is ground', () => {
    const { points, isGround } = scene((e) => 30 + 0.2 * e);
    // The scatter is ±2 cm, the rule ±20 cm: only a point at the very corner of the cloth may miss it.
    expect(wrong(findGround(points), isGround).missed).toBeLessThanOrEqual(2);
  });

  for (const landShape of ['flat', 'rolling'] as const) {
    test(`a hall 20 x 30 m with eaves at 5 m stays out of the ground of ${landShape} land`, () => {
      const inside = (e: number, n: number): boolean => e > 40 && e < 60 && n > 25 && n < 55;
      const { points, isGround } = scene(
        () => 30,
        (e, n) => (inside(e, n) ? 35 : undefined),
      );
      expect(wrong(findGround(points, { landShape }), isGround)).toEqual({ missed: 0, added: 0 });
    });
  }

  test('a bank 4 m high at 1:2 is ground with the steep-slope pass, and mostly lost without it', () => {
    const bank = (e: number): number => 30 + Math.max(0, Math.min(4, 10 - Math.abs(e - 50) / 2));
    const { points, isGround } = scene(bank);
    const followed = wrong(findGround(points), isGround);
    expect(followed.missed / points.count).toBeLessThan(0.01);
    expect(
      wrong(findGround(points, { followSteepSlopes: false, landShape: 'flat' }), isGround).missed / points.count,
    ).toBeGreaterThan(0.1);
  });

  test('trees over ground: only last returns low down become ground', () => {
    const { points, isGround } = scene(
      (e, n) => 30 + 0.5 * Math.sin(e / 15) * Math.cos(n / 12),
      (e, n) => (Math.sin(e * 1.7) * Math.sin(n * 2.3) > 0.3 ? 30 + 3 + ((e * 7 + n * 13) % 6) : undefined),
    );
    const { missed, added } = wrong(findGround(points), isGround);
    expect(added).toBe(0);
    expect(missed / points.count).toBeLessThan(0.01);
  });

  test('a first return of several is never ground, however low', () => {
    const { points } = scene(() => 30);
    points.returns[5] = 0x21; // first of two
    expect(findGround(points)[5]).toBe(1);
  });

  test('points far below, alone or few together, neither become ground nor drag it down', () => {
    const { points, isGround } = scene(() => 30);
    for (const i of [100, 2000, 9000]) {
      points.z[i]! -= 3000;
      isGround[i] = false;
    }
    expect(wrong(findGround(points), isGround)).toEqual({ missed: 0, added: 0 });
  });

  test('ground found before and no longer near the cloth becomes unclassified; withheld points keep their class', () => {
    const { points } = scene(() => 30);
    points.z[7]! += 2000;
    points.z[8]! += 2000;
    points.classification[7] = 2;
    points.classification[8] = 2;
    points.flags[8] = 4;
    const classes = findGround(points);
    expect([classes[7], classes[8]]).toEqual([1, 2]);
  });

  test('the lowest-point raster is the same whatever the tiles and their order', () => {
    const { points } = scene((e, n) => 30 + Math.sin(e) + Math.cos(n));
    const whole = newLowestRaster(frame);
    addLowestPoints(whole, points, quantisation, everyClass);
    const merged = newLowestRaster(frame);
    const halves = [1, 0].map((half) => {
      const pick = [...points.x.keys()].filter((i) => i % 2 === half).reverse();
      const of = <T extends Int32Array | Uint8Array>(column: T): T =>
        column.map((_, k) => column[pick[k] ?? 0]!).slice(0, pick.length) as T;
      return {
        count: pick.length,
        x: of(points.x),
        y: of(points.y),
        z: of(points.z),
        classification: of(points.classification),
        flags: of(points.flags),
      };
    });
    for (const half of halves) {
      const part = newLowestRaster(frame);
      addLowestPoints(part, half, quantisation, everyClass);
      mergeLowestRaster(merged, part);
    }
    expect(merged).toEqual(whole);
  });

  test('the stiffness is that of the land, not of the cell: at half the cell the cloth hangs alike', () => {
    // Over a gap 40 m wide a cloth of hang h sags h w² / 8 when it is let hang free: 0.02 · 1600 / 8 = 4 m (Zhang et al. 2016
    // give the physics; the parabola of a shallow membrane is textbook statics).
    for (const cell of [2, 1, 0.5]) {
      const gap: RasterFrame = { east: 0, north: 0, cell, columns: 60 / cell, rows: 4 };
      const raster = newLowestRaster(gap);
      for (let i = 0; i < raster.lowest.length; i++) {
        const e = ((i % gap.columns) + 0.5) * cell;
        raster.lowest[i] = e > 10 && e < 50 ? 100 : 30;
      }
      const cloth = settleCloth(raster, { ...clothDefaults, followSteepSlopes: false });
      const sag = Math.max(...cloth) - 30;
      // Held at the centres of the cells on either side, the gap is a cell wider.
      expect(sag / ((0.02 * (40 + cell) ** 2) / 8)).toBeCloseTo(1, 1);
    }
  });

  test('an empty raster is refused with a way out', () => {
    expect(() => settleCloth(newLowestRaster(frame), clothDefaults)).toThrow(
      expect.objectContaining({ code: 'no-ground-candidates' }) as Error,
    );
  });

  test('cancelling stops the cloth', () => {
    const raster = newLowestRaster(frame);
    addLowestPoints(raster, scene(() => 30).points, quantisation, everyClass);
    expect(() => settleCloth(raster, clothDefaults, undefined, { aborted: true })).toThrow('Cancelled');
  });
});
