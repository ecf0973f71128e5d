import { seededRandom } from '@pampero/core/task';
import { smoothNoise } from '../simulation/smooth-noise.js';
import type { Building, Flight, Tree } from '../simulation/scene.js';

/** Draws for one scene: the same seed gives the same scene. */
export class Draws {
  readonly random: () => number;

  constructor(seed: number) {
    this.random = seededRandom(seed);
  }

  between(low: number, high: number): number {
    return low + (high - low) * this.random();
  }
}

type Ground = (east: number, north: number) => number;

export function treeAt(
  ground: Ground,
  east: number,
  north: number,
  height: number,
  radius: number,
  density: number,
  crownShare = 0.7,
): Tree {
  const foot = ground(east, north);
  const halfHeight = (height * crownShare) / 2;
  return { east, north, foot, middle: foot + height - halfHeight, halfHeight, radius, density };
}

/** A house on the lowest ground under it, so that no wall floats. */
export function houseAt(
  ground: Ground,
  at: {
    readonly east: number;
    readonly north: number;
    readonly halfLength: number;
    readonly halfWidth: number;
    readonly turned?: number;
    readonly eaves: number;
    readonly ridge: number;
  },
): Building {
  const { east, north, halfLength: l, halfWidth: w } = at;
  const floor = Math.min(...[-1, 0, 1].flatMap((u) => [-1, 0, 1].map((v) => ground(east + u * l, north + v * w))));
  const base = ground(east, north);
  return { turned: 0, isLeanTo: false, ...at, floor, eaves: base + at.eaves, ridge: base + at.ridge };
}

/** Parallel strips along the eastings and one across. */
export function stripsOver(extent: { east: number; north: number }, apart: number): Flight['strips'] {
  const count = Math.max(1, Math.round(extent.north / apart));
  const along = Array.from({ length: count }, (_, i) => {
    const north = ((i + 0.5) * extent.north) / count;
    const ends = [
      [-10, north],
      [extent.east + 10, north],
    ] as const;
    return i % 2 === 0 ? { from: ends[0], to: ends[1] } : { from: ends[1], to: ends[0] };
  });
  return [...along, { from: [extent.east / 2, -10], to: [extent.east / 2, extent.north + 10] }];
}

/** A usual flight for land to be modelled, some ten points a square metre. */
export function usualFlight(extent: { east: number; north: number }): Flight {
  return {
    height: 110,
    speed: 8,
    halfAngle: 28,
    lineSpacing: 0.5,
    pointSpacing: 0.42,
    rangeNoise: 0.02,
    beamRadius: 0.05,
    strips: stripsOver(extent, 70),
  };
}

/** Hills of several sizes, about 0. */
export function hills(east: number, north: number, seed: number): number {
  const wave = (size: number): number => smoothNoise(east / size + seed * 13, north / size + seed * 7) - 0.5;
  return wave(90) + 0.4 * wave(34) + 0.12 * wave(11) + 0.03 * wave(3.1);
}

/** Tussocks in patches: most of the land is grazed short. */
export function grassOf(seed: number, tallest: number, patchiness: number): Ground {
  return (east, north) => {
    const patch = smoothNoise(east / 31 + seed, north / 31) + 0.4 * smoothNoise(east / 9 + seed, north / 9 + 3);
    if (patch < patchiness) return 0.02;
    const tussock = smoothNoise(east / 1.3 + seed, north / 1.3);
    return tussock > 0.4 ? 0.15 + tallest * (tussock - 0.4) : 0.02;
  };
}

/** Lowest, mean and highest ground, sampled every few metres. */
export function reliefOf(ground: Ground, extent: { east: number; north: number }) {
  let [lowest, highest, sum, count] = [Infinity, -Infinity, 0, 0];
  for (let e = -40; e <= extent.east + 40; e += 3)
    for (let n = -40; n <= extent.north + 40; n += 3) {
      const z = ground(e, n);
      lowest = Math.min(lowest, z);
      highest = Math.max(highest, z);
      sum += z;
      count++;
    }
  return { lowestGround: lowest - 0.5, highestGround: highest + 0.5, meanGround: sum / count };
}

export const DRY = (): number => -Infinity;
