import type { PointBatch } from '@pampero/core/cloud';
import { flyLidar } from '../simulation/lidar-flight.js';
import type { Scene } from '../simulation/scene.js';
import { grassHeight, standingObjects } from './objects.js';
import { EXTENT, groundElevation, isGravel, waterElevation } from './terrain.js';

/** The demo farm: five strips, the last across the others. */
export function farm(seed: number): Scene {
  return {
    extent: EXTENT,
    ground: groundElevation,
    water: waterElevation,
    grass: grassHeight,
    isHard: isGravel,
    meanGround: 30.5,
    lowestGround: 29,
    highestGround: 36,
    isSteep: false,
    objects: standingObjects(seed),
    flight: {
      height: 80,
      speed: 8,
      halfAngle: 38,
      lineSpacing: 0.52,
      pointSpacing: 0.41,
      rangeNoise: 0.018,
      beamRadius: 0.05,
      strips: [
        { from: [-10, 50], to: [570, 50] },
        { from: [570, 155], to: [-10, 155] },
        { from: [-10, 260], to: [570, 260] },
        { from: [570, 365], to: [-10, 365] },
        { from: [330, -5], to: [330, 425] },
      ],
    },
    falsePoints: { low: 46, high: 80 },
  };
}

/** The demo's cloud with its true classes. */
export function flyFarm(seed: number): PointBatch {
  return flyLidar(farm(seed + 1), seed);
}
