import type { Scene } from '../simulation/scene.js';
import { smoothNoise } from '../simulation/smooth-noise.js';
import { Draws, DRY, hills, houseAt, reliefOf, treeAt } from './build.js';

/** A meadow with tall grass, tracks, bushes and a barn, to be seen from above only. */
export function photoMeadow(seed: number): Scene {
  const draws = new Draws(seed);
  const extent = { east: 160, north: 150 };
  const track = (east: number): number => 70 + 12 * Math.sin(east / 31);
  const ground = (east: number, north: number): number => {
    const d = Math.abs(north - track(east));
    return (
      50 +
      5 * hills(east, north, seed % 6) -
      (d < 3 ? 0.25 * Math.min(1, 3 - d) : 0) +
      (d > 9 && d < 14 ? -0.9 * Math.sin(((d - 9) / 5) * Math.PI) : 0)
    );
  };
  const isTrack = (east: number, north: number): boolean => Math.abs(north - track(east)) < 2.2;
  // Tall grass in wide patches, with bare places in it where sheep lie.
  const grass = (east: number, north: number): number => {
    if (isTrack(east, north)) return 0;
    const wide = smoothNoise(east / 27 + seed, north / 27);
    if (wide < 0.42) return 0.03;
    const bare = smoothNoise(east / 4 + 5, north / 4 + seed);
    if (bare > 0.72) return 0.03;
    return Math.min(1, (wide - 0.42) * 8) * (0.25 + 0.35 * smoothNoise(east / 0.7, north / 0.7));
  };
  const trees = Array.from({ length: 46 }, () =>
    treeAt(
      ground,
      draws.between(3, 157),
      draws.between(3, 147),
      draws.between(1.5, 9),
      draws.between(0.8, 3.2),
      2,
      0.9,
    ),
  ).filter(({ east, north }) => !isTrack(east, north));
  return {
    extent,
    ground,
    water: DRY,
    grass,
    isHard: isTrack,
    ...reliefOf(ground, extent),
    isSteep: true,
    objects: {
      buildings: [
        houseAt(ground, { east: 120, north: 110, halfLength: 9, halfWidth: 5, turned: 20, eaves: 3.6, ridge: 5.4 }),
      ],
      trees,
      rods: [],
      boxes: [],
    },
    flight: {
      height: 80,
      speed: 8,
      halfAngle: 30,
      lineSpacing: 0.2,
      pointSpacing: 0.2,
      rangeNoise: 0.025,
      beamRadius: 0,
      strips: [],
    },
    falsePoints: { low: 12, high: 10 },
  };
}
