import { smoothNoise } from '../simulation/smooth-noise.js';
import type { Scene, Tree } from '../simulation/scene.js';
import { Draws, DRY, hills, houseAt, reliefOf, stripsOver, treeAt } from './build.js';

/** Old terraces gone wild: walls of all heights, close scrub as high as a knee or a man, tall grass, huts with flat roofs. */
export function scrubTerraces(seed: number): Scene {
  const draws = new Draws(seed);
  const extent = { east: 220, north: 200 };
  // Walls follow the hill; each has a height and a width of terrace of its own.
  const walls: { at: number; rise: number }[] = [];
  for (let at = 18; at < extent.north + 40; at += draws.between(8, 20))
    walls.push({ at, rise: draws.between(0.8, 3.2) });
  const bend = draws.between(8, 20);
  const wave = draws.between(40, 80);
  const alongHill = (east: number, north: number): number => north + bend * Math.sin(east / wave + seed);
  const ground = (east: number, north: number): number => {
    const along = alongHill(east, north);
    let z = 400 + 0.06 * along + 1.5 * hills(east, north, seed % 4);
    for (const { at, rise } of walls) {
      if (along < at) break;
      // Fallen down here and there: a slope of rubble in place of the face.
      const isFallen = smoothNoise(east / 14 + at, seed) > 0.72;
      z += rise * Math.min(1, (along - at) / (isFallen ? rise * 1.4 : 0.35));
    }
    return z;
  };
  const isScrub = (east: number, north: number): boolean =>
    smoothNoise(east / 23 + seed, north / 19 + 4) + 0.35 * smoothNoise(east / 6, north / 6 + seed) > 0.78;
  const trees: Tree[] = [];
  for (let east = 0; east < extent.east; east += 0.95)
    for (let north = 0; north < extent.north; north += 0.95) {
      const [e, n] = [east + draws.between(0, 0.8), north + draws.between(0, 0.8)];
      if (!isScrub(e, n)) continue;
      const height = 0.35 + 1.6 * smoothNoise(e / 9 + 1, n / 9 + seed) * draws.between(0.6, 1);
      trees.push(treeAt(ground, e, n, height, draws.between(0.5, 1.1), draws.between(0.8, 2), 0.9));
    }
  for (let k = 0; k < 60; k++)
    trees.push(
      treeAt(
        ground,
        draws.between(0, extent.east),
        draws.between(0, extent.north),
        draws.between(3, 9),
        draws.between(1.2, 3),
        0.5,
      ),
    );
  // Huts stand against the wall behind them: their roofs are about as high as the terrace above.
  const buildings = Array.from({ length: 9 }, (_, k) => {
    const { at, rise } = walls[k % walls.length]!;
    const east = draws.between(15, extent.east - 15);
    const north = at - bend * Math.sin(east / wave + seed) - draws.between(2.2, 5);
    const roof = k % 3 === 0 ? Math.max(1.9, rise) : draws.between(2, 2.7);
    return houseAt(ground, {
      east,
      north,
      halfLength: draws.between(1.8, 3.2),
      halfWidth: draws.between(1.4, 2.1),
      turned: draws.between(-15, 15),
      eaves: roof,
      ridge: roof + 0.08,
    });
  });
  const grass = (east: number, north: number): number => {
    const patch = smoothNoise(east / 17 + seed * 3, north / 17);
    return patch < 0.45 ? 0.04 : 0.12 + 0.5 * (patch - 0.45) * (0.6 + smoothNoise(east / 0.9, north / 0.9 + seed));
  };
  return {
    extent,
    ground,
    water: DRY,
    grass,
    isHard: () => false,
    ...reliefOf(ground, extent),
    isSteep: true,
    objects: { buildings, trees, rods: [], boxes: [] },
    flight: {
      height: 90,
      speed: 8,
      halfAngle: 30,
      lineSpacing: 0.4,
      pointSpacing: 0.36,
      rangeNoise: 0.02,
      beamRadius: 0.04,
      strips: stripsOver(extent, 60),
    },
    falsePoints: { low: 15, high: 15 },
  };
}
