import { CLASS, type Box, type Scene } from '../simulation/scene.js';
import { smoothNoise } from '../simulation/smooth-noise.js';
import { Draws, DRY, hills, reliefOf, treeAt, usualFlight } from './build.js';

/** A quarry in three benches of eleven metres with faces of 70 degrees, heaps and machines on its floor. */
export function quarry(seed: number): Scene {
  const draws = new Draws(seed);
  const extent = { east: 240, north: 220 };
  const [middleEast, middleNorth] = [draws.between(100, 140), draws.between(95, 125)];
  const heaps = Array.from(
    { length: 7 },
    () => [middleEast + draws.between(-30, 30), middleNorth + draws.between(-26, 26), draws.between(2, 8)] as const,
  );
  const awayOf = (east: number, north: number): number => {
    const [e, n] = [(east - middleEast) / 1.15, north - middleNorth];
    return Math.hypot(e, n) * (1 + 0.12 * Math.sin(3 * Math.atan2(n, e) + seed));
  };
  const ground = (east: number, north: number): number => {
    const away = awayOf(east, north);
    let floor = 200 + 0.02 * east + 2 * hills(east, north, seed % 7);
    for (const edge of [92, 73, 54]) floor -= Math.min(11, Math.max(0, (edge - away) * 2.75));
    const heap = Math.max(0, ...heaps.map(([e, n, height]) => height - 0.7 * Math.hypot(east - e, north - n)));
    return floor + heap + 0.15 * (smoothNoise(east / 0.9 + seed, north / 0.9) - 0.5);
  };
  const trees = Array.from({ length: 80 }, () => [draws.between(0, extent.east), draws.between(0, extent.north)])
    .filter(([east, north]) => awayOf(east!, north!) > 98)
    .map(([east, north]) => treeAt(ground, east!, north!, draws.between(2, 9), draws.between(1, 3), 0.5));
  const boxes = Array.from({ length: 12 }, (): Box => {
    const [east, north] = [middleEast + draws.between(-40, 40), middleNorth + draws.between(-36, 36)];
    const floor = ground(east, north);
    return { east, north, halfLength: 2.6, halfWidth: 1.2, turned: draws.between(0, 180), foot: floor - 0.3, top: floor + 2.4, classCode: CLASS.vehicle }; // prettier-ignore
  });
  return {
    extent,
    ground,
    water: DRY,
    grass: () => 0.02,
    isHard: () => true,
    ...reliefOf(ground, extent),
    isSteep: true,
    objects: { buildings: [], trees, rods: [], boxes },
    flight: usualFlight(extent),
    falsePoints: { low: 20, high: 10 },
  };
}
