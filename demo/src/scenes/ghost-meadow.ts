import { smoothNoise } from '../simulation/smooth-noise.js';
import type { Scene } from '../simulation/scene.js';
import { Draws, DRY, hills, houseAt, reliefOf, treeAt } from './build.js';

/** A valley meadow before the hay is cut, seen by photographs: grass to the hip, mown lanes, a bank, and wrong matches under the ground. */
export function ghostMeadow(seed: number): Scene {
  const draws = new Draws(seed);
  const extent = { east: 170, north: 150 };
  const lean = draws.between(0.02, 0.09);
  const lane = (along: number): number => Math.abs(((((along + seed * 7) % 38) + 38) % 38) - 19);
  const isLane = (east: number, north: number): boolean => lane(east + 8 * Math.sin(north / 40)) < 2;
  const ground = (east: number, north: number): number => {
    // A bank along the brook, as high as a man.
    const d = north - 105 - 9 * Math.sin(east / 37 + seed);
    const bank = d < -5 ? 0 : d < 5 ? 1.7 * ((d + 5) / 10) : 1.7;
    return 30 + lean * east + bank + 3 * hills(east * 0.7, north * 0.7, seed % 6);
  };
  const grass = (east: number, north: number): number => {
    if (isLane(east, north)) return 0.02;
    const wide = smoothNoise(east / 33 + seed, north / 33 + 2);
    if (wide < 0.3) return 0.03;
    // Standing high with gaps where it was laid by rain.
    if (smoothNoise(east / 3 + seed, north / 3) > 0.78) return 0.03;
    return Math.min(1, (wide - 0.3) * 6) * (0.35 + 0.45 * smoothNoise(east / 0.6, north / 0.6 + seed));
  };
  return {
    extent,
    ground,
    water: DRY,
    grass,
    isHard: isLane,
    ...reliefOf(ground, extent),
    isSteep: true,
    objects: {
      buildings: [
        houseAt(ground, {
          east: draws.between(30, 140),
          north: draws.between(25, 80),
          halfLength: 7,
          halfWidth: 4,
          turned: draws.between(0, 90),
          eaves: 3,
          ridge: 4.6,
        }),
      ],
      trees: Array.from({ length: 40 }, () =>
        treeAt(
          ground,
          draws.between(3, 167),
          draws.between(3, 147),
          draws.between(0.8, 8),
          draws.between(0.7, 3),
          2,
          0.9,
        ),
      ).filter(({ east, north }) => !isLane(east, north)),
      rods: [],
      boxes: [],
    },
    flight: {
      height: 80,
      speed: 8,
      halfAngle: 30,
      lineSpacing: 0.22,
      pointSpacing: 0.22,
      rangeNoise: 0.03,
      beamRadius: 0,
      strips: [],
    },
    falsePoints: { low: 60, high: 12 },
  };
}
