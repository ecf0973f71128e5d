import type { Building, Scene } from '../simulation/scene.js';
import { Draws, DRY, grassOf, hills, reliefOf, usualFlight } from './build.js';

/** Rows of solar panels that follow rolling land, their low edges knee-high over grass. */
export function solarField(seed: number): Scene {
  const draws = new Draws(seed);
  const extent = { east: 220, north: 200 };
  const fall = draws.between(0.03, 0.08);
  const ground = (east: number, north: number): number => 70 + fall * east + 2.5 * hills(east, north, seed % 7);
  const buildings: Building[] = [];
  for (let north = 15; north < 185; north += 6)
    for (const west of [15, 120])
      for (let along = 0; along < 80; along += 8) {
        const east = west + along + 4;
        const floor = ground(east, north);
        buildings.push({ east, north, halfLength: 4, halfWidth: 1.6, turned: 0, floor, eaves: floor + 0.7, ridge: floor + 2.3, isLeanTo: true }); // prettier-ignore
      }
  return {
    extent,
    ground,
    water: DRY,
    grass: grassOf(seed, 0.3, 0.7),
    isHard: () => false,
    ...reliefOf(ground, extent),
    isSteep: false,
    objects: { buildings, trees: [], rods: [], boxes: [] },
    flight: usualFlight(extent),
    falsePoints: { low: 20, high: 10 },
  };
}
