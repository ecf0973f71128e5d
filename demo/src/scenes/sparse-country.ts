import type { Scene, Tree } from '../simulation/scene.js';
import { Draws, DRY, grassOf, hills, houseAt, reliefOf, stripsOver, treeAt } from './build.js';

/** Rolling country at two points a square metre from high up: copses, hedges, farms, a sunken lane. */
export function sparseCountry(seed: number): Scene {
  const draws = new Draws(seed);
  const extent = { east: 460, north: 440 };
  const lane = (north: number): number => 230 + 40 * Math.sin(north / 90);
  const ground = (east: number, north: number): number => {
    const natural = 120 + 22 * hills(east * 0.5, north * 0.5, seed % 7);
    const d = Math.abs(east - lane(north));
    return d < 6 ? natural - 1.8 * Math.min(1, (6 - d) / 2.5) : natural;
  };
  const trees: Tree[] = [];
  const copses = Array.from({ length: 7 }, () => [
    draws.between(30, 430),
    draws.between(30, 410),
    draws.between(25, 55),
  ]);
  for (const [east, north, radius] of copses as [number, number, number][])
    for (let k = 0; k < radius * radius * 0.09; k++) {
      const [a, r] = [draws.between(0, 2 * Math.PI), radius * Math.sqrt(draws.random())];
      trees.push(
        treeAt(
          ground,
          east + r * Math.cos(a),
          north + r * Math.sin(a),
          draws.between(8, 20),
          draws.between(2, 4.2),
          draws.between(0.2, 0.4),
          0.6,
        ),
      );
    }
  for (let i = 0; i < 4; i++) {
    const [east, north, turned] = [draws.between(20, 400), draws.between(20, 400), draws.between(0, Math.PI)];
    for (let s = 0; s < 90; s += 1.6)
      trees.push(
        treeAt(
          ground,
          east + s * Math.cos(turned),
          north + s * Math.sin(turned),
          draws.between(1.5, 3.4),
          draws.between(0.8, 1.5),
          1,
          0.95,
        ),
      );
  }
  const buildings = [0, 1, 2].flatMap((k) => {
    const [east, north] = [70 + k * 150, 90 + ((k * 173) % 260)];
    return [
      houseAt(ground, { east, north, halfLength: 15, halfWidth: 8, turned: 12 * k, eaves: 4.5, ridge: 7 }),
      houseAt(ground, {
        east: east + 34,
        north: north - 12,
        halfLength: 7,
        halfWidth: 4.5,
        turned: 40,
        eaves: 3,
        ridge: 5,
      }),
    ];
  });
  return {
    extent,
    ground,
    water: DRY,
    grass: grassOf(seed, 0.4, 1.05),
    isHard: (east, north) => Math.abs(east - lane(north)) < 2,
    ...reliefOf(ground, extent),
    isSteep: true,
    objects: { buildings, trees, rods: [], boxes: [] },
    flight: {
      height: 500,
      speed: 40,
      halfAngle: 14,
      lineSpacing: 0.95,
      pointSpacing: 0.85,
      rangeNoise: 0.03,
      beamRadius: 0.12,
      strips: stripsOver(extent, 230),
    },
    falsePoints: { low: 25, high: 25 },
  };
}
