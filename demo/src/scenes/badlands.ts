import type { Scene } from '../simulation/scene.js';
import { smoothNoise } from '../simulation/smooth-noise.js';
import { Draws, DRY, reliefOf, treeAt, usualFlight } from './build.js';

/** Bare ridges of three sizes with sharp crests and flanks of up to 60 degrees, and a bush here and there. */
export function badlands(seed: number): Scene {
  const draws = new Draws(seed);
  const extent = { east: 200, north: 180 };
  const ridge = (x: number, y: number): number => 1 - Math.abs(2 * smoothNoise(x, y) - 1);
  const ground = (east: number, north: number): number =>
    300 +
    0.1 * north +
    16 * ridge(east / 45 + seed, north / 60) +
    7 * ridge(east / 18 + seed, north / 24 + 4) +
    2.2 * ridge(east / 7, north / 9 + seed);
  const trees = Array.from({ length: 120 }, () =>
    treeAt(
      ground,
      draws.between(0, extent.east),
      draws.between(0, extent.north),
      draws.between(0.6, 3),
      draws.between(0.5, 1.5),
      0.8,
      0.95,
    ),
  );
  return {
    extent,
    ground,
    water: DRY,
    grass: () => 0.02,
    isHard: () => false,
    ...reliefOf(ground, extent),
    isSteep: true,
    objects: { buildings: [], trees, rods: [], boxes: [] },
    flight: usualFlight(extent),
    falsePoints: { low: 20, high: 10 },
  };
}
