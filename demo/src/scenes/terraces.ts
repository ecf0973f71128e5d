import type { Scene, Tree } from '../simulation/scene.js';
import { Draws, DRY, grassOf, hills, houseAt, reliefOf, treeAt, usualFlight } from './build.js';

/** Terraces held by walls, a road cutting and its embankment, rows of bushes, a farmhouse. */
export function terraces(seed: number): Scene {
  const draws = new Draws(seed);
  const extent = { east: 280, north: 260 };
  const step = 2.4;
  const width = 13;
  const slopeOf = (north: number): number => (north * step) / width;
  const land = (east: number, north: number): number => {
    const bent = north + 14 * Math.sin(east / 55 + seed);
    if (bent < 90) return slopeOf(90) + 0.02 * (bent - 90);
    const k = Math.floor((bent - 90) / width);
    const into = bent - 90 - k * width;
    // The wall leans a little: 0.5 m in plan for its height.
    const face = Math.min(1, into / 0.5);
    return slopeOf(90) + (k + face) * step + 0.01 * into;
  };
  const ground = (east: number, north: number): number => {
    const natural = 300 + land(east, north) + 1.2 * hills(east, north, 3);
    const road = 300 + slopeOf(90) + 4 - 0.03 * (east - 140);
    const d = Math.abs(north - 60 - 0.1 * east);
    if (d < 4) return road;
    const reach = d - 4;
    return Math.min(road + reach * 1.1, Math.max(road - reach / 1.5, natural));
  };
  const trees: Tree[] = [];
  for (let north = 104; north < extent.north + 10; north += width)
    for (let east = -5; east < extent.east + 5; east += 1.6)
      for (const row of [3.5, 7])
        if (draws.random() < 0.75)
          trees.push(
            treeAt(
              ground,
              east,
              north + row - 14 * Math.sin(east / 55 + seed),
              draws.between(1, 1.8),
              draws.between(0.4, 0.7),
              1.3,
              0.7,
            ),
          );
  for (let k = 0; k < 170; k++)
    trees.push(
      treeAt(
        ground,
        draws.between(0, extent.east),
        draws.between(0, extent.north),
        draws.between(4, 14),
        draws.between(1.5, 4),
        0.4,
      ),
    );
  const buildings = [
    houseAt(ground, { east: 60, north: 30, halfLength: 9, halfWidth: 5, turned: 20, eaves: 4, ridge: 6.2 }),
    houseAt(ground, { east: 95, north: 22, halfLength: 6, halfWidth: 4, turned: 70, eaves: 3, ridge: 4.4 }),
    houseAt(ground, { east: 210, north: 36, halfLength: 14, halfWidth: 7, turned: -8, eaves: 5, ridge: 7 }),
  ];
  return {
    extent,
    ground,
    water: DRY,
    grass: grassOf(seed, 0.5, 1.02),
    isHard: (east, north) => Math.abs(north - 60 - 0.1 * east) < 3.5,
    ...reliefOf(ground, extent),
    isSteep: true,
    objects: { buildings, trees, rods: [], boxes: [] },
    flight: usualFlight(extent),
    falsePoints: { low: 20, high: 20 },
  };
}
