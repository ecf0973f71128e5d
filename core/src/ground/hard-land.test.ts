import { describe, expect, test } from 'vitest';
import type { Quantisation } from '../cloud/index.js';
import { seededRandom } from '../task/index.js';
import {
  groundNoise,
  groundPlanes,
  newLowestRaster,
  newNearSums,
  pointEvidence,
  proposeGround,
  refuseOvergrown,
  rejectLowOutliers,
  rejectUnsupported,
  stripDisagreement,
  type LowestRaster,
  type NearSums,
} from './index.js';

/** Land that simple scenes do not show. Invented, with what is true of it known; no source. */
const SIDE = 60;
const FRAME = { east: 0, north: 0, cell: 0.5, columns: SIDE, rows: SIDE };
const METRES = 1;

function rasterOf(height: (column: number, row: number) => number): LowestRaster {
  const raster = newLowestRaster(FRAME);
  for (let i = 0; i < raster.lowest.length; i++) raster.lowest[i] = height(i % SIDE, Math.floor(i / SIDE));
  return raster;
}

describe('points under the ground', () => {
  test('a cluster of wrong matches is emptied, on a slope too, and where few cells are filled', () => {
    for (const filled of [1, 0.2]) {
      const random = seededRandom(4);
      const raster = rasterOf((c, r) => (random() < filled ? 0.15 * c + 0.02 * r : Infinity));
      const cluster = [1825, 1826, 1885];
      for (const i of cluster) raster.lowest[i] = 0.15 * (i % SIDE) - 2;
      const before = raster.lowest.slice();
      expect(rejectLowOutliers(raster, 0.5)).toBe(3);
      for (const i of cluster) expect(raster.lowest[i]).toBe(Infinity);
      expect(before.filter((z, i) => z !== raster.lowest[i]).length).toBe(3);
    }
  });

  test('the ground under a close canopy stays, though it lies far under most cells about it', () => {
    const random = seededRandom(5);
    const isGround = new Set<number>();
    const raster = rasterOf((c, r) => {
      if (random() > 0.15) return 12 + 6 * random();
      isGround.add(r * SIDE + c);
      return 0.2 * r + 0.02 * random();
    });
    rejectLowOutliers(raster, 0.5);
    const lost = [...isGround].filter((i) => raster.lowest[i] === Infinity).length;
    expect(lost / isGround.size).toBeLessThan(0.04);
  });
});

describe('the noise', () => {
  /** So many pieces of 24 points; the scatter of each is drawn by `scatterOf`. */
  const pieces = (count: number, scatterOf: (k: number) => number) => {
    const random = seededRandom(6);
    const normal = (): number => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
    const points = Array.from({ length: count * 24 }, (_, i) => {
      const k = Math.floor(i / 24);
      return [2 * (k % 100) + 2 * random(), 2 * Math.floor(k / 100) + 2 * random(), scatterOf(k) * normal()] as const;
    });
    const of = (axis: 0 | 1 | 2): Float64Array => Float64Array.from(points, (p) => p[axis]);
    return { count: points.length, x: of(0), y: of(1), z: of(2), strip: new Uint16Array(points.length) };
  };

  test('is that of the few bare pieces where nearly all is canopy', () => {
    const noise = groundNoise([pieces(10_000, (k) => (k % 25 === 0 ? 0.02 : 0.5 + (k % 7)))], 2)!;
    expect(noise).toBeGreaterThan(0.016);
    expect(noise).toBeLessThan(0.022);
  });

  test('of each strip is told from what strips disagree by, and the proposal says both', () => {
    const cloud = pieces(4000, () => 0.02);
    for (let i = 0; i < cloud.count; i++) {
      cloud.strip[i] = 1 + (i % 2);
      cloud.z[i]! += cloud.strip[i] === 1 ? 0.05 : -0.05;
    }
    const evidence = pointEvidence(cloud, [cloud], 1 / 3, METRES);
    expect(evidence.noise!).toBeLessThan(0.023);
    expect(evidence.stripDisagreement!).toBeGreaterThan(0.09);
    expect(evidence.stripDisagreement!).toBeLessThan(0.11);
    const known = { spacing: 0.33, manyReturns: 0.1, hasColour: false };
    const { settings, reasons } = proposeGround({ ...known, ...evidence }, 'metre');
    expect(settings.tolerance).toBeGreaterThan(0.13);
    expect(reasons.join(' ')).toMatch(/Strips lie 10 cm apart/);
    expect(stripDisagreement([pieces(4000, () => 0.02)], 2, 0.02)).toBeUndefined();
  });

  test('does not depend on the order of the points', () => {
    const cloud = pieces(2000, (k) => (k % 3 === 0 ? 0.02 : 0.2));
    const order = Uint32Array.from(cloud.x.keys()).reverse();
    const turned = {
      count: cloud.count,
      x: Float64Array.from(order, (i) => cloud.x[i]!),
      y: Float64Array.from(order, (i) => cloud.y[i]!),
      z: Float64Array.from(order, (i) => cloud.z[i]!),
    };
    expect(groundNoise([turned], 2)!).toBeCloseTo(groundNoise([cloud], 2)!, 9);
  });
});

/** What would be seen near a surface: so many points on it and over it, and in all. */
function seenNear(of: (column: number, row: number) => { near: number; over: number; all: number }): NearSums {
  const sums = newNearSums(FRAME);
  for (let i = 0; i < sums.count.length; i++) {
    const { near, over, all } = of(i % SIDE, Math.floor(i / SIDE));
    sums.count[i] = near;
    sums.over[i] = over;
    sums.all[i] = all;
    sums.x[i] = near * ((i % SIDE) + 0.5) * 500;
    sums.y[i] = near * (Math.floor(i / SIDE) + 0.5) * 500;
  }
  return sums;
}
const QUANTISATION: Quantisation = { scale: [0.001, 0.001, 0.001], offset: [0, 0, 0] };
const BARE = { near: 8, over: 0, all: 8 };

describe('lowest points that stand on plants', () => {
  test('are refused where neighbours reach the ground, and bare ones are kept whatever lies lower', () => {
    const random = seededRandom(8);
    const onPlants = new Set<number>();
    const raster = rasterOf((c, r) => {
      if (c < 30 || random() < 0.5) return 0;
      onPlants.add(r * SIDE + c);
      return 0.3;
    });
    // On the left a step of 0.4 m between bare levels.
    for (let i = 0; i < raster.lowest.length; i++) if (i % SIDE < 12) raster.lowest[i] = 0.4;
    const sums = seenNear((c) => (c < 30 ? BARE : { near: 2, over: 6, all: 8 }));
    refuseOvergrown(raster, groundPlanes(sums, QUANTISATION), 0.06, METRES);
    for (let i = 0; i < raster.lowest.length; i++) {
      if (i % SIDE < 28) expect(raster.lowest[i]).not.toBe(Infinity);
    }
    const left = [...onPlants].filter((i) => raster.lowest[i] !== Infinity).length;
    expect(left / onPlants.size).toBeLessThan(0.05);
  });
});

describe('patches that stand out of the land', () => {
  const hump = (height: number, radius: number) => (c: number, r: number) =>
    Math.hypot(c - 30, r - 30) * 0.5 < radius ? height : 0;
  const emptiedOf = (height: (c: number, r: number) => number, near: NearSums): number => {
    const raster = rasterOf(height);
    return rejectUnsupported(raster, raster.lowest.slice(), near, Math.tan((5 * Math.PI) / 180), METRES);
  };
  const bare = seenNear(() => BARE);
  const crown = seenNear((c, r) => (Math.hypot(c - 30, r - 30) < 16 ? { near: 1, over: 2, all: 8 } : BARE));

  test('a roof is taken away for its edge, a crown for what hides in it', () => {
    expect(emptiedOf(hump(3, 3.5), bare)).toBeGreaterThan(120);
    const dome = (c: number, r: number): number => Math.max(0, 3 - 0.2 * Math.hypot(c - 30, r - 30));
    expect(emptiedOf(dome, crown)).toBeGreaterThan(20);
  });

  test('a bare mound with banks of 1 : 2 stays, and so do a flood bank and a terrace however steep', () => {
    const mound = (c: number, r: number): number => Math.min(3, Math.max(0, 5 - 0.25 * Math.hypot(c - 30, r - 30)));
    expect(emptiedOf(mound, bare)).toBe(0);
    const bank = (c: number): number => Math.max(0, 3 - 0.5 * Math.max(0, Math.abs(c - 30) - 4) * 0.5);
    expect(emptiedOf(bank, crown)).toBe(0);
    expect(emptiedOf((_, r) => (r > 30 ? 2.5 : 0), bare)).toBe(0);
  });

  test('false points under the ground are taken away, a bare pit is not', () => {
    const pit = hump(-1.5, 1.2);
    const ghosts = seenNear((c, r) => (Math.hypot(c - 30, r - 30) < 3 ? { near: 2, over: 0, all: 8 } : BARE));
    expect(emptiedOf(pit, ghosts)).toBeGreaterThan(5);
    expect(emptiedOf(pit, bare)).toBe(0);
  });
});
