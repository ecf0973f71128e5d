import type { Scene, Tree } from '../simulation/scene.js';
import { Draws, DRY, grassOf, hills, reliefOf, stripsOver, treeAt } from './build.js';

/** Woods on a steep hill: slopes to 40 degrees, a ravine, a close canopy with undergrowth, a track cut into the side. */
export function woodedHill(seed: number): Scene {
  const draws = new Draws(seed);
  const extent = { east: 260, north: 240 };
  const track = (east: number): number => 120 + 30 * Math.sin(east / 60 + seed);
  const hillside = (east: number, north: number): number => {
    const ridge = 58 * Math.exp(-(((north - 130) / 78) ** 2)) + 0.05 * east;
    const ravine = -9 * Math.exp(-(((east - 150 - 12 * Math.sin(north / 30)) / 11) ** 2));
    return 200 + ridge + ravine + 7 * hills(east, north, seed % 5);
  };
  const ground = (east: number, north: number): number => {
    const d = Math.abs(north - track(east));
    const bed = hillside(east, track(east));
    const own = hillside(east, north);
    // The track's bed is level across and its banks stand at 1 : 1.
    if (d < 2) return bed;
    const reach = d - 2;
    return Math.min(bed + reach, Math.max(bed - reach * 0.8, own));
  };
  const trees: Tree[] = [];
  for (let east = -10; east < extent.east + 10; east += 5)
    for (let north = -10; north < extent.north + 10; north += 5) {
      const [e, n] = [east + draws.between(0, 4.5), north + draws.between(0, 4.5)];
      if (Math.abs(n - track(e)) < 4 || draws.random() < 0.18) continue;
      trees.push(treeAt(ground, e, n, draws.between(9, 24), draws.between(1.9, 3.6), draws.between(0.22, 0.42), 0.55));
      if (draws.random() < 0.45)
        trees.push(treeAt(ground, e + 2.4, n + 1.2, draws.between(0.7, 2.6), draws.between(0.6, 1.5), 0.9, 0.95));
    }
  return {
    extent,
    ground,
    water: DRY,
    grass: grassOf(seed, 0.5, 1.05),
    isHard: (east, north) => Math.abs(north - track(east)) < 1.8,
    ...reliefOf(ground, extent),
    isSteep: true,
    objects: { buildings: [], trees, rods: [], boxes: [] },
    flight: {
      height: 120,
      speed: 8,
      halfAngle: 26,
      lineSpacing: 0.5,
      pointSpacing: 0.4,
      rangeNoise: 0.02,
      beamRadius: 0.06,
      strips: stripsOver(extent, 70),
    },
    falsePoints: { low: 20, high: 30 },
  };
}
