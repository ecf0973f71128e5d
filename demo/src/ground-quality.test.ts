import { agreementCounts, agreementOf } from '@pampero/core/accuracy';
import { lowPoints } from '@pampero/core/cleaning';
import { findGround, groundNoise, proposeGround } from '@pampero/core/ground';
import { addGround, classifyObjects, groundModel, newGroundSums } from '@pampero/core/objects';
import { createHash } from 'node:crypto';
import { describe, expect, test } from 'vitest';
import { EXTENT } from './farm/terrain.js';
import { flyFarm } from './farm/farm.js';
import { QUANTISATION } from './simulation/lidar-flight.js';

const cloud = flyFarm(1852);

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
    expect(hash(flyFarm(1852))).toBe(hash(cloud));
  });

  test('ground with the settings proposed for it reaches kappa 0.90 against its truth', () => {
    const frame = { east: 5_512_000, north: 6_150_000, cell: 1, columns: EXTENT.east + 1, rows: EXTENT.north + 1 };
    const takes = new Uint8Array(256).fill(1);
    const given = { ...cloud, classification: new Uint8Array(cloud.count).fill(1) };
    const last = Uint32Array.from(cloud.returns.keys()).filter(
      (i) => (cloud.returns[i]! & 15) >= cloud.returns[i]! >> 4,
    );
    const of = (values: Int32Array): Float64Array => Float64Array.from(last, (i) => values[i]! / 1000);
    const noise = groundNoise([{ count: last.length, x: of(cloud.x), y: of(cloud.y), z: of(cloud.z) }], 1.6);
    const { settings } = proposeGround(
      { spacing: 0.4, steepSlope: 8, manyReturns: 0.02, hasColour: false, noise, stripDisagreement: 0 },
      'metre',
    );
    const found = findGround(given, QUANTISATION, frame, settings, takes);
    const { kappa, typeOne, typeTwo, total } = agreementOf(agreementCounts(cloud.classification, found, 2));
    const percent = (share: number): string => `${(share * 100).toFixed(2)} %`;
    console.log(
      `demo farm, ground: kappa ${kappa.toFixed(4)}, type I ${percent(typeOne)}, type II ${percent(typeTwo)}, total ${percent(total)}`,
    );
    expect(kappa).toBeGreaterThanOrEqual(0.9);
    expect(total).toBeLessThanOrEqual(0.03);

    // What stands on that ground, with the settings that the form proposes.
    const isGround = new Uint8Array(256);
    isGround[2] = 1;
    const sums = newGroundSums(frame);
    addGround(sums, { ...given, classification: found }, QUANTISATION, isGround);
    const at = (values: Int32Array, axis: 0 | 1 | 2): Float64Array =>
      Float64Array.from(values, (v) => v * QUANTISATION.scale[axis] + QUANTISATION.offset[axis]);
    const classes = classifyObjects(
      { count: cloud.count, x: at(cloud.x, 0), y: at(cloud.y, 1), z: at(cloud.z, 2) },
      groundModel(sums, QUANTISATION)!,
      {
        lowFrom: 0.2,
        mediumFrom: 0.6,
        highFrom: 3,
        highest: 40,
        roofs: { leastHeight: 2, leastArea: 6.25, roughness: 0.08, radius: 1, spacing: 0.4 },
        wires: { leastHeight: 4, radius: 5, leastLength: 20 },
      },
      Uint8Array.from(found, (code) => (code === 2 ? 0 : 1)),
      found,
      cloud.count,
    );
    const judge = (code: number) => {
      let [both, ours, theirs] = [0, 0, 0];
      for (let i = 0; i < cloud.count; i++) {
        if (classes[i] === code) ours++;
        if (cloud.classification[i] !== code) continue;
        theirs++;
        if (classes[i] === code) both++;
      }
      const [precision, recall] = [both / ours, both / theirs];
      console.log(`demo farm, class ${code}: precision ${precision.toFixed(3)}, recall ${recall.toFixed(3)}`);
      return { precision, recall };
    };
    for (const code of [5, 6]) {
      const { precision, recall } = judge(code);
      expect(precision).toBeGreaterThanOrEqual(0.9);
      expect(recall).toBeGreaterThanOrEqual(0.9);
    }
    const wires = judge(14);
    expect(wires.precision).toBeGreaterThanOrEqual(0.95);
    expect(wires.recall).toBeGreaterThanOrEqual(0.8);
    const low = lowPoints(
      { count: cloud.count, x: at(cloud.x, 0), y: at(cloud.y, 1), z: at(cloud.z, 2) },
      { radius: 4, drop: 0.4, largestCluster: 8 },
    );
    const isRight = low.reduce((sum, bit, i) => sum + (bit === 1 && cloud.classification[i] === 7 ? 1 : 0), 0);
    const all = low.reduce((sum, bit) => sum + bit, 0);
    console.log(`demo farm, low points: ${isRight} of 70 planted found, ${all - isRight} others`);
    expect(isRight).toBeGreaterThanOrEqual(68);
    expect(all - isRight).toBeLessThanOrEqual(5);
  });
});
