import { agreementCounts, agreementOf } from '@pampero/core/accuracy';
import {
  addLowestPoints,
  classifyAgainstCloth,
  clothDefaults,
  newLowestRaster,
  rejectLowOutliers,
  settleCloth,
} from '@pampero/core/ground';
import { createHash } from 'node:crypto';
import { describe, expect, test } from 'vitest';
import { EXTENT } from './terrain.js';
import { flyLidar, QUANTISATION } from './lidar-flight.js';

const cloud = flyLidar(1852);

describe('the demo cloud', () => {
  test('has about a million and a half points, up to five returns, five strips, every class of the scene', () => {
    expect(cloud.count).toBeGreaterThan(1.35e6);
    expect(cloud.count).toBeLessThan(1.65e6);
    expect(Math.max(...new Set(cloud.returns.map((r) => r >> 4)))).toBeGreaterThanOrEqual(4);
    expect([...new Set(cloud.pointSourceId)].sort()).toEqual([1, 2, 3, 4, 5]);
    for (const code of [2, 3, 5, 6, 7, 9, 14, 15, 18])
      expect(cloud.classification.includes(code), `class ${code}`).toBe(true);
  });

  test('is the same, byte for byte, each time it is flown', () => {
    const hash = (batch: typeof cloud): string =>
      createHash('sha256')
        .update(batch.x)
        .update(batch.y)
        .update(batch.z)
        .update(batch.intensity)
        .update(batch.classification)
        .digest('hex');
    expect(hash(flyLidar(1852))).toBe(hash(cloud));
  });

  test('ground by cloth with the default settings reaches kappa 0.90 against its truth', () => {
    const frame = { east: 5_512_000, north: 6_150_000, cell: 1, columns: EXTENT.east + 1, rows: EXTENT.north + 1 };
    const takes = new Uint8Array(256).fill(1);
    const given = { ...cloud, classification: new Uint8Array(cloud.count).fill(1) };
    const raster = newLowestRaster(frame);
    addLowestPoints(raster, given, QUANTISATION, takes);
    rejectLowOutliers(raster, 0.5);
    const cloth = settleCloth(raster, clothDefaults);
    const found = classifyAgainstCloth(given, QUANTISATION, frame, cloth, { classDistance: 0.12, takes });
    const { kappa, typeOne, typeTwo, total } = agreementOf(agreementCounts(cloud.classification, found, 2));
    const percent = (share: number): string => `${(share * 100).toFixed(2)} %`;
    console.log(
      `demo farm, ground by cloth: kappa ${kappa.toFixed(4)}, type I ${percent(typeOne)}, type II ${percent(typeTwo)}, total ${percent(total)}`,
    );
    expect(kappa).toBeGreaterThanOrEqual(0.9);
    expect(total).toBeLessThanOrEqual(0.03);
  });
});
