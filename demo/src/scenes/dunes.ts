import type { Scene } from '../simulation/scene.js';
import { smoothNoise } from '../simulation/smooth-noise.js';
import { Draws, DRY, grassOf, hills, reliefOf, treeAt, usualFlight } from './build.js';

/** Dunes with long backs, short steep faces and sharp crests, tall grass and low thickets on them. */
export function dunes(seed: number): Scene {
  const draws = new Draws(seed);
  const extent = { east: 220, north: 200 };
  const dune = (t: number): number => {
    const into = t - Math.floor(t);
    return into < 0.7 ? into / 0.7 : (1 - into) / 0.3;
  };
  const ground = (east: number, north: number): number =>
    12 +
    5 *
      dune((east + 10 * Math.sin(north / 28 + seed) + 6 * smoothNoise(east / 40, north / 40 + seed)) / 26) *
      (0.5 + smoothNoise(east / 50 + seed, north / 50)) +
    1.5 * hills(east, north, seed % 7);
  const trees = Array.from({ length: 900 }, () => [draws.between(0, extent.east), draws.between(0, extent.north)])
    .filter(([east, north]) => smoothNoise(east! / 30 + seed, north! / 30) > 0.5)
    .map(([east, north]) => treeAt(ground, east!, north!, draws.between(0.5, 2), draws.between(0.5, 1.5), 1.2, 0.95));
  return {
    extent,
    ground,
    water: DRY,
    grass: grassOf(seed, 0.8, 0.8),
    isHard: () => false,
    ...reliefOf(ground, extent),
    isSteep: true,
    objects: { buildings: [], trees, rods: [], boxes: [] },
    flight: usualFlight(extent),
    falsePoints: { low: 20, high: 10 },
  };
}
