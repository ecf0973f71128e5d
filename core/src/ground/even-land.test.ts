import { describe, expect, test } from 'vitest';
import { newPointBatch } from '../cloud/index.js';
import { seededRandom } from '../task/index.js';
import { evenLandFrom } from './even-land.js';
import {
  densifyDefaults,
  densifyTin,
  findGround,
  newLowestRaster,
  type GroundSettings,
  type LowestRaster,
} from './index.js';

/** Invented land, what is true of it known; no source. */
const SIDE = 60;
const FRAME = { east: 0, north: 0, cell: 1, columns: SIDE, rows: SIDE };
const EVEN = 0.06;

/** The lowest points of cells, somewhere in each, with 1 cm of noise. */
function rasterOf(height: (e: number, n: number) => number, seed = 3): LowestRaster {
  const random = seededRandom(seed);
  const raster = newLowestRaster(FRAME);
  for (let i = 0; i < raster.lowest.length; i++) {
    [raster.fromCentreEast[i], raster.fromCentreNorth[i]] = [0.8 * random() - 0.4, 0.8 * random() - 0.4];
    const [e, n] = [
      (i % SIDE) + 0.5 + raster.fromCentreEast[i]!,
      Math.floor(i / SIDE) + 0.5 + raster.fromCentreNorth[i]!,
    ];
    raster.lowest[i] = height(e, n) + 0.02 * (random() - 0.5);
  }
  return raster;
}

/** Cells reached from the western edge, as a share of those within some columns. */
function reached(raster: LowestRaster): (from: number, to: number) => number {
  const isGround = new Uint8Array(SIDE * SIDE);
  for (let row = 0; row < SIDE; row++) isGround[row * SIDE] = isGround[row * SIDE + 1] = 1;
  const found = new Set(evenLandFrom(raster, isGround, EVEN));
  return (from, to) => [...found].filter((i) => i % SIDE >= from && i % SIDE < to).length / (SIDE * (to - from));
}

/** 0 to the west of 20, then at this slope up to a height. */
const bank = (slope: number, height: number) => (e: number) => Math.min(height, Math.max(0, (e - 20) * slope));

describe('even land leads on', () => {
  test.each([0.1, 0.3, 0.6, 0.9, 1.3, 1.8])('up a bank that rises %d in 1, and over its brow', (slope) => {
    const share = reached(rasterOf(bank(slope, 6)));
    expect(share(5, 20)).toBeGreaterThan(0.97);
    expect(share(50, 58)).toBeGreaterThan(slope * 30 >= 6 ? 0.97 : 0.9);
  });

  test('down again, and into a ditch', () => {
    const share = reached(rasterOf((e) => (e < 30 ? bank(0.5, 4)(e) : Math.max(-3, 4 - (e - 30) * 0.6))));
    expect(share(45, 58)).toBeGreaterThan(0.97);
  });

  test.each([0.4, 1, 3])('not up a wall of %d m: a crop, a car, a roof', (height) => {
    const share = reached(rasterOf((e) => (e > 20 ? height : 0)));
    expect(share(5, 19)).toBeGreaterThan(0.97);
    expect(share(22, 58)).toBe(0);
  });

  test('not onto a roof that slopes up from its eaves', () => {
    expect(reached(rasterOf((e) => (e > 20 ? 2.5 + 0.5 * (e - 20) : 0)))(22, 58)).toBe(0);
  });

  test('not by the one or two cells where the low edge of solar panels looks like a slope', () => {
    // 3.2 m deep, rising by a half from 0.5 m over the ground, a row every 8 m; the ground between them is known.
    const into = (e: number): number => (e + 4) % 8;
    const isPanel = (e: number): boolean => into(e) < 3.2;
    let [found, all] = [0, 0];
    for (let seed = 1; seed <= 8; seed++) {
      const raster = rasterOf((e) => (isPanel(e) ? 0.5 + 0.5 * into(e) : 0), seed);
      const isGround = raster.lowest.map((z) => (z < 0.2 ? 1 : 0));
      found += evenLandFrom(raster, Uint8Array.from(isGround), EVEN).length;
      all += isGround.filter((is) => is === 0).length;
    }
    // Nine tenths were, where one way was enough.
    expect(found).toBeLessThan(0.1 * all);
  });

  test('not into scrub, which is not even', () => {
    const random = seededRandom(9);
    expect(reached(rasterOf((e) => (e > 20 ? 0.6 * random() : 0)))(23, 58)).toBeLessThan(0.02);
  });

  test('to the same cells whatever the order: turned round, it is the same land', () => {
    const raster = rasterOf(bank(0.5, 5));
    const isGround = new Uint8Array(SIDE * SIDE);
    for (let row = 0; row < SIDE; row++) isGround[row * SIDE + 1] = 1;
    const turn = (i: number): number => SIDE * SIDE - 1 - i;
    const turned: LowestRaster = {
      ...FRAME,
      lowest: raster.lowest.map((_, i) => raster.lowest[turn(i)]!),
      fromCentreEast: raster.fromCentreEast.map((_, i) => -raster.fromCentreEast[turn(i)]!),
      fromCentreNorth: raster.fromCentreNorth.map((_, i) => -raster.fromCentreNorth[turn(i)]!),
    };
    const there = evenLandFrom(raster, isGround, EVEN);
    const back = evenLandFrom(turned, isGround.map((_, i) => isGround[turn(i)]!), EVEN).map(turn); // prettier-ignore
    expect(there.length).toBeGreaterThan(1000);
    expect(back.sort((a, b) => a - b)).toEqual(there);
  });
});

describe('a plateau without a seed', () => {
  // A valley 42 m wide and 6 m deep; the lowest point of each seed's square lies in it.
  const valley = (e: number): number => 30 - 6 * Math.min(1, Math.max(0, (21 - Math.abs(e - 50)) / 9));
  const settings: GroundSettings = {
    method: 'tin',
    cell: 1,
    tolerance: 0.1,
    refine: true,
    largestBuilding: 60,
    steepestRise: 8,
    tallestStep: 3,
    landShape: 'rolling',
    followSteepSlopes: true,
    steepestDegrees: 40,
    iterations: 500,
    steepSlope: 10,
    lowPointDepth: 0.5,
    trustGreenLess: false,
  };

  test.each([
    [1, false],
    [1, true],
    [0.79, false],
    [0.79, true],
    [0.5, false],
  ])('is ground, with cells of %d m, turned round: %s', (cell, isTurned) => {
    const count = 30_000;
    const random = seededRandom(31);
    const columns = { gpsTime: false, rgb: false, nearInfrared: false, wavePacket: false, extraBytesLength: 0 };
    const points = newPointBatch(count, columns);
    for (let i = 0; i < count; i++) {
      const [e, n] = [100 * random(), 60 * random()];
      points.x[i] = Math.round((isTurned ? 100 - e : e) * 1000);
      points.y[i] = Math.round(n * 1000);
      points.z[i] = Math.round((valley(e) + 0.03 * random()) * 1000);
      points.classification[i] = 1;
      points.returns[i] = 0x11;
    }
    const frame = { east: 0, north: 0, cell, columns: Math.ceil(100 / cell) + 1, rows: Math.ceil(60 / cell) + 1 };
    const quantisation = { scale: [0.001, 0.001, 0.001], offset: [0, 0, 0] } as const;
    const classes = findGround(points, quantisation, frame, { ...settings, cell }, new Uint8Array(256).fill(1));
    const found = classes.reduce((sum, code) => sum + (code === 2 ? 1 : 0), 0);
    expect(found / count).toBeGreaterThan(0.995);
  });

  test('that rises towards the edge of the cloud goes on level beyond it', () => {
    const raster = rasterOf(bank(0.3, 5));
    const { heights } = densifyTin(raster, densifyDefaults);
    for (let row = 0; row < SIDE; row++) expect(heights[row * SIDE + SIDE - 1]).toBeCloseTo(5, 1);
  });
});
