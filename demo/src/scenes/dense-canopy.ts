import type { Scene, Tree } from '../simulation/scene.js';
import { smoothNoise } from '../simulation/smooth-noise.js';
import { Draws, DRY, hills, reliefOf, stripsOver, treeAt } from './build.js';

/** A closed wood on broken land in leaf: about a tenth of the pulses reach the ground, gullies and a bench cut into the slope. */
export function denseCanopy(seed: number): Scene {
  const draws = new Draws(seed);
  const extent = { east: 200, north: 190 };
  const gullies = Array.from({ length: 3 }, () => [draws.between(20, 180), draws.between(4, 9), draws.between(1.5, 5)]);
  const fall = draws.between(0.15, 0.45);
  const ground = (east: number, north: number): number => {
    let z = 150 + fall * north + 6 * hills(east, north, seed % 5);
    for (const [at, width, depth] of gullies as [number, number, number][])
      z -= depth * Math.exp(-(((east - at - 10 * Math.sin(north / 35 + at)) / width) ** 2));
    const d = Math.abs(north - 95 - 12 * Math.sin(east / 50 + seed));
    return d < 3 ? z + 0.4 * Math.min(1, 3 - d) : z;
  };
  const trees: Tree[] = [];
  for (let east = -8; east < extent.east + 8; east += 4)
    for (let north = -8; north < extent.north + 8; north += 4) {
      const [e, n] = [east + draws.between(0, 3.5), north + draws.between(0, 3.5)];
      // A clearing here and there, and nothing else open.
      if (smoothNoise(e / 26 + seed, n / 26) > 0.86) continue;
      trees.push(treeAt(ground, e, n, draws.between(13, 27), draws.between(2.6, 4.2), draws.between(0.13, 0.24), 0.6));
      if (draws.random() < 0.35)
        trees.push(treeAt(ground, e + 1.5, n - 1, draws.between(0.8, 4), draws.between(0.7, 1.8), 0.9, 0.95));
    }
  return {
    extent,
    ground,
    water: DRY,
    grass: () => 0.02,
    isHard: () => false,
    ...reliefOf(ground, extent),
    isSteep: true,
    objects: { buildings: [], trees, rods: [], boxes: [] },
    flight: {
      height: 100,
      speed: 8,
      halfAngle: 26,
      lineSpacing: 0.4,
      pointSpacing: 0.34,
      rangeNoise: 0.02,
      beamRadius: 0.05,
      strips: stripsOver(extent, 55),
    },
    falsePoints: { low: 25, high: 15 },
  };
}
