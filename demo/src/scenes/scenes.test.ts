import { createHash } from 'node:crypto';
import type { PointBatch } from '@pampero/core/cloud';
import { describe, expect, test } from 'vitest';
import { QUANTISATION } from '../simulation/lidar-flight.js';
import { CLASS } from '../simulation/scene.js';
import { SCENES, surveyScene } from './index.js';

/*
 * The table of quality is worth what the truth of its scenes is worth: what is called ground lies on the ground, what stands on it stands
 * over it, and the returns are those that LAS 1.4 (ASPRS, revision 15, point format 6) can hold.
 */

/** Of each way in which land is made; those that are quick to survey. */
const LOOKED_AT = ['dense-canopy', 'badlands', 'solar-field', 'dunes'];
const VEGETATION: readonly number[] = [CLASS.low, CLASS.medium, CLASS.high];

const bytesOf = ({ x, y, z, classification }: PointBatch): string =>
  createHash('sha256').update(x).update(y).update(z).update(classification).digest('hex');

test('all that is looked at are scenes that quality is measured on', () => {
  expect(SCENES).toEqual(expect.arrayContaining(LOOKED_AT));
});

describe.each(LOOKED_AT)('the survey of %s', (name) => {
  const { scene, cloud } = surveyScene(name, 3);
  const [east, north, up] = [cloud.x, cloud.y, cloud.z].map((values, axis) => {
    const offset = axis === 2 ? QUANTISATION.offset[2] : 0;
    return (i: number): number => values[i]! * QUANTISATION.scale[axis as 0 | 1 | 2] + offset;
  }) as [(i: number) => number, (i: number) => number, (i: number) => number];
  /** How far over the ground nearest to it: on a face a few centimetres in plan are decimetres in height. */
  const over = (i: number): number => {
    const offs = [-0.08, 0, 0.08].flatMap((e) =>
      [-0.08, 0, 0.08].map((n) => up(i) - scene.ground(east(i) + e, north(i) + n)),
    );
    return offs.reduce((best, off) => (Math.abs(off) < Math.abs(best) ? off : best));
  };
  const everyFifth = (isWanted: (code: number) => boolean): number[] =>
    [...cloud.classification.keys()].filter((i) => i % 5 === 0 && isWanted(cloud.classification[i]!));

  test('calls ground what lies on the ground', () => {
    const sizes = everyFifth((code) => code === CLASS.ground)
      .map((i) => Math.abs(over(i)))
      .sort((a, b) => a - b);
    expect(sizes.length).toBeGreaterThan(1000);
    expect(sizes[sizes.length >> 1]).toBeLessThan(scene.flight.rangeNoise);
    expect(sizes[Math.floor(0.999 * sizes.length)]).toBeLessThan(6 * scene.flight.rangeNoise);
  });

  test('calls by other names what stands over it', () => {
    const standing = everyFifth((code) => VEGETATION.includes(code) || code === CLASS.building);
    expect(standing.length).toBeGreaterThan(100);
    const under = standing.filter((i) => up(i) - scene.ground(east(i), north(i)) < -6 * scene.flight.rangeNoise);
    // On a steep face the beam's own width reaches under its brink.
    expect(under.length).toBeLessThan(0.01 * standing.length);
  });

  test('has false points under the ground, alone and in clusters', () => {
    const low = [...cloud.classification.keys()].filter((i) => cloud.classification[i] === CLASS.lowPoint);
    expect(low.length).toBeGreaterThanOrEqual(0.5 * scene.falsePoints.low);
    expect(low.length).toBeLessThanOrEqual(4 * scene.falsePoints.low);
    for (const i of low) expect(up(i)).toBeLessThan(scene.ground(east(i), north(i)));
  });

  test('numbers its returns as the format can hold them', () => {
    const isWrong = (code: number): boolean => (code & 15) === 0 || (code & 15) > code >> 4;
    expect(cloud.returns.filter(isWrong)).toHaveLength(0);
    // Of several returns of one pulse the first is the highest: it is seen from above.
    const { gpsTime } = cloud;
    const firsts = new Map<number, number>();
    let [pairs, wrong] = [0, 0];
    for (let i = 0; i < cloud.count && pairs < 2000; i++) {
      const number = cloud.returns[i]! & 15;
      if (cloud.returns[i]! >> 4 < 2) continue;
      if (number === 1) firsts.set(gpsTime![i]!, up(i));
      else if (firsts.has(gpsTime![i]!)) {
        pairs++;
        if (up(i) > firsts.get(gpsTime![i]!)! + 0.2) wrong++;
      }
    }
    // Where nothing grows a pulse comes back once.
    expect(pairs > 20).toBe(scene.objects.trees.length > 0);
    expect(wrong).toBe(0);
  });

  test('stays within its land', () => {
    for (let i = 0; i < cloud.count; i += 5) {
      if (east(i) >= 0 && east(i) <= scene.extent.east && north(i) >= 0 && north(i) <= scene.extent.north) continue;
      expect([east(i), north(i)]).toEqual('within the extent');
    }
  });
});

test('the same seed gives the same survey, another one another', { timeout: 120_000 }, () => {
  const hash = (seed: number): string => bytesOf(surveyScene('badlands', seed).cloud);
  const first = hash(3);
  expect(hash(3)).toBe(first);
  expect(hash(4)).not.toBe(first);
});
