import { expect, test } from 'vitest';
import { newPointBatch, slicePoints } from '../cloud/index.js';
import { seededRandom } from '../task/index.js';
import { OnePointPerCube } from './one-point-per-cube.js';

const SCALE = { scale: [0.01, 0.01, 0.01], offset: [0, 0, 0] } as const;
const COLUMNS = { gpsTime: false, rgb: false, nearInfrared: false, wavePacket: false, extraBytesLength: 0 };

test('of every cube that has points just one remains, over any number of batches', () => {
  const random = seededRandom(4);
  const points = newPointBatch(200_000, COLUMNS);
  for (const axis of [points.x, points.y, points.z])
    for (let i = 0; i < axis.length; i++) axis[i] = Math.floor(random() * 5000);
  const cube = (i: number, of = points): string =>
    [of.x[i]!, of.y[i]!, of.z[i]!].map((v) => Math.floor(v / 100)).join();
  const all = new Set(Array.from({ length: points.count }, (_, i) => cube(i)));
  const thin = new OnePointPerCube(1, { min: [0, 0, 0], max: [4999, 4999, 4999] }, SCALE);
  const kept = new Set<string>();
  let count = 0;
  for (let first = 0; first < points.count; first += 30_000) {
    const batch = thin.pass(slicePoints(points, first, Math.min(points.count, first + 30_000)));
    count += batch.count;
    for (let i = 0; i < batch.count; i++) kept.add(cube(i, batch));
  }
  expect(count).toBe(all.size);
  expect(kept).toEqual(all);
});

test('a side so small that cubes cannot be told apart is refused', () => {
  const bounds = { min: [-(2 ** 31), -(2 ** 31), -(2 ** 31)], max: [2 ** 31, 2 ** 31, 2 ** 31] };
  expect(() => new OnePointPerCube(1e-4, bounds, SCALE)).toThrow(/wider spacing/);
});
