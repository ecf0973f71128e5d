import { describe, expect, test } from 'vitest';
import type { PointBatch } from '../cloud/index.js';
import { seededRandom } from '../task/index.js';
import { bareBatch, proposedGround } from './proposed-ground.fixture.js';

const SIDE = 180;
const PER_SQUARE_METRE = 8;
const FLOOR = 3;

/** How far a place is from the middle of a gully that winds down a slope. */
const fromMiddle = (east: number, north: number): number => Math.abs(east - 90 - 12 * Math.sin(north / 30));

/** A slope of 22 degrees in a closed wood, with a gully six metres deep; a twelfth of the points reach the ground, bushes stand on its brinks. */
function woodedGully(): PointBatch {
  const random = seededRandom(5);
  const points = bareBatch(SIDE * SIDE * PER_SQUARE_METRE);
  for (let i = 0; i < points.count; i++) {
    const [east, north] = [random() * SIDE, random() * SIDE];
    const away = fromMiddle(east, north);
    const ground = 0.4 * north - 6 * Math.max(0, 1 - Math.max(0, away - FLOOR) / 4);
    const isBush = away > 6 && away < 11 && Math.sin(north / 3) > 0 && random() < 0.25;
    const isGround = !isBush && random() < 1 / 12;
    const up = isGround ? 0.02 * (random() - 0.5) : isBush ? 0.4 + random() : 5 + 12 * random();
    points.x[i] = Math.round(1000 * east);
    points.y[i] = Math.round(1000 * north);
    points.z[i] = Math.round(1000 * (50 + ground + up));
    points.returns[i] = 0x11;
    points.classification[i] = isGround ? 2 : 5;
  }
  return points;
}

describe('a gully in a closed wood', () => {
  test('is ground to its floor, which facets from brink to brink lie far above', () => {
    const cloud = woodedGully();
    const classes = proposedGround(cloud, SIDE, { perSquareMetre: PER_SQUARE_METRE, steepSlope: 30, manyReturns: 0.7 });
    const [floor, bushes] = [
      { found: 0, all: 0 },
      { found: 0, all: 0 },
    ];
    for (let i = 0; i < cloud.count; i++) {
      const away = fromMiddle(cloud.x[i]! / 1000, cloud.y[i]! / 1000);
      const kind = cloud.classification[i] === 2 ? (away < FLOOR ? floor : undefined) : bushes;
      if (!kind) continue;
      kind.all++;
      if (classes[i] === 2) kind.found++;
    }
    // A third of the floor was found while points below a facet passed by the angle of those above it.
    expect(floor.found).toBeGreaterThan(0.75 * floor.all);
    expect(bushes.found).toBeLessThan(0.0005 * bushes.all);
  });
});
