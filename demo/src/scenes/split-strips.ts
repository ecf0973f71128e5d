import type { Scene } from '../simulation/scene.js';
import { Draws } from './build.js';
import { sparseCountry } from './sparse-country.js';
import { hills, reliefOf, stripsOver } from './build.js';

/** Rolling country flown low in strips that disagree by about a decimetre in elevation, and a little in plan. */
export function splitStrips(seed: number): Scene {
  const draws = new Draws(seed * 31 + 5);
  const base = sparseCountry(seed + 4000);
  const extent = { east: 240, north: 230 };
  const fall = draws.between(-0.05, 0.05);
  // A field track between two low banks runs over it.
  const ground = (east: number, north: number): number => {
    const d = Math.abs(north - 110 - 20 * Math.sin(east / 70 + seed));
    const natural = 90 + fall * east + 9 * hills(east * 0.6, north * 0.6, seed % 7);
    return natural + (d > 2.5 && d < 5.5 ? 0.9 * Math.sin(((d - 2.5) / 3) * Math.PI) : 0);
  };
  const strips = stripsOver(extent, 48);
  const moved = <T extends { east: number; north: number }>(item: T): T => ({
    ...item,
    east: item.east / 2,
    north: item.north / 2,
  });
  return {
    ...base,
    extent,
    ground,
    isHard: (east, north) => Math.abs(north - 110 - 20 * Math.sin(east / 70 + seed)) < 2,
    ...reliefOf(ground, extent),
    objects: {
      ...base.objects,
      trees: base.objects.trees.map(moved).map((tree) => {
        const foot = ground(tree.east, tree.north);
        return { ...tree, foot, middle: tree.middle - tree.foot + foot };
      }),
      buildings: base.objects.buildings.map(moved).map((house) => {
        const by = ground(house.east, house.north) - house.eaves + (house.isLeanTo ? 3 : 3.6);
        return { ...house, floor: house.floor + by - 1, eaves: house.eaves + by, ridge: house.ridge + by };
      }),
    },
    flight: {
      height: 90,
      speed: 8,
      halfAngle: 32,
      lineSpacing: 0.5,
      pointSpacing: 0.45,
      rangeNoise: 0.018,
      beamRadius: 0.05,
      strips,
      stripErrors: strips.map((_, k) => [
        draws.between(-0.08, 0.08),
        draws.between(-0.08, 0.08),
        (k % 2 === 0 ? 0.05 : -0.05) + draws.between(-0.02, 0.02),
      ]),
    },
    falsePoints: { low: 20, high: 20 },
  };
}
