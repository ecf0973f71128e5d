import { CLASS, type Box, type Building, type Rod, type Scene, type Tree } from '../simulation/scene.js';
import { Draws, grassOf, houseAt, reliefOf, stripsOver, treeAt } from './build.js';

/** A small town on both sides of a canal: two road bridges and a footbridge, wires on poles along the streets, cars, yards. */
export function wiredTown(seed: number): Scene {
  const draws = new Draws(seed);
  const extent = { east: 260, north: 240 };
  const fall = draws.between(-0.01, 0.01);
  const canalAt = draws.between(105, 135);
  const halfCanal = draws.between(7, 10);
  const level = 60 - 3.4;
  const plain = (east: number, north: number): number => 60 + fall * (east - 130) + 0.3 * Math.sin(north / 60 + seed);
  const streets = [45, 45 + draws.between(68, 80), 45 + draws.between(140, 155)];
  const quays = [canalAt - halfCanal - 9, canalAt + halfCanal + 9];
  const isStreet = (east: number, north: number): boolean =>
    streets.some((at) => Math.abs(east - at) < 5) || quays.some((at) => Math.abs(north - at) < 4.5);
  const ground = (east: number, north: number): number => {
    const d = Math.abs(north - canalAt);
    if (d < halfCanal) return level - 1.2 * Math.min(1, (halfCanal - d) / 1.5) + 0.2;
    return plain(east, north) + (isStreet(east, north) ? 0 : 0.13);
  };
  const buildings: Building[] = [];
  const trees: Tree[] = [];
  const boxes: Box[] = [];
  const rods: Rod[] = [];
  for (let east = 12; east < extent.east; east += draws.between(17, 24))
    for (let north = 10; north < extent.north; north += draws.between(18, 25)) {
      const isFree =
        streets.every((at) => Math.abs(east - at) > 13) &&
        quays.every((at) => Math.abs(north - at) > 12) &&
        Math.abs(north - canalAt) > halfCanal + 14;
      if (!isFree) continue;
      const eaves = draws.between(3, 9);
      buildings.push(
        houseAt(ground, {
          east,
          north,
          halfLength: draws.between(4.5, 7.5),
          halfWidth: draws.between(3.5, 5.5),
          turned: draws.random() < 0.5 ? 0 : 90,
          eaves,
          ridge: eaves + (draws.random() < 0.35 ? 0.05 : draws.between(1.5, 3)),
        }),
      );
      for (let k = 0; k < 2; k++)
        if (draws.random() < 0.6)
          trees.push(
            treeAt(
              ground,
              east + draws.between(-9, 9),
              north + draws.between(8, 11),
              draws.between(3, 9),
              draws.between(1.2, 2.8),
              0.45,
            ),
          );
    }
  // Decks of the streets over the canal, level with the quays, and a narrow one for walkers.
  for (const [at, halfWidth] of [
    [streets[0]!, 5.5],
    [streets[2]!, 6],
    [streets[1]! + 30, 1.3],
  ] as const) {
    const top = plain(at, canalAt) + 0.02;
    boxes.push({
      east: at,
      north: canalAt,
      halfLength: halfWidth,
      halfWidth: halfCanal + 0.3,
      turned: 0,
      foot: top - 0.7,
      top,
      classCode: CLASS.deck,
    });
  }
  const wire = (from: readonly [number, number], to: readonly [number, number], height: number, off: number): void => {
    const pieces = 8;
    const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
    const length = Math.hypot(dx, dy);
    const at = (k: number): readonly [number, number, number] => {
      const t = k / pieces;
      const sag = 4 * 0.025 * length * t * (1 - t);
      const z = plain(from[0], from[1]) * (1 - t) + plain(to[0], to[1]) * t + height - sag;
      return [from[0] + dx * t - (dy / length) * off, from[1] + dy * t + (dx / length) * off, z];
    };
    for (let k = 0; k < pieces; k++)
      rods.push({ from: at(k), to: at(k + 1), radius: 0.012, classCode: CLASS.conductor, reflectance: 0.35 });
  };
  for (const street of streets) {
    const poles: [number, number][] = [];
    for (let north = 6; north < extent.north; north += 32)
      if (Math.abs(north - canalAt) > halfCanal + 2) poles.push([street + 5.6, north]);
    for (const [k, pole] of poles.entries()) {
      const foot = ground(...pole);
      rods.push({
        from: [...pole, foot],
        to: [...pole, foot + 8.6],
        radius: 0.13,
        classCode: CLASS.tower,
        reflectance: 0.4,
      });
      if (k > 0)
        for (const [height, off] of [
          [8.4, 0.3],
          [8.4, -0.3],
          [7.6, 0],
        ] as const)
          wire(poles[k - 1]!, pole, height, off);
    }
  }
  for (let k = 0; k < 26; k++) {
    const street = streets[k % 3]!;
    const north = draws.between(8, extent.north - 8);
    if (Math.abs(north - canalAt) < halfCanal + 4) continue;
    const east = street + (k % 2 === 0 ? 3.2 : -3.4);
    const foot = ground(east, north);
    boxes.push({
      east,
      north,
      halfLength: 0.9,
      halfWidth: 2.2,
      turned: 0,
      foot,
      top: foot + draws.between(1.3, 2),
      classCode: CLASS.vehicle,
    });
  }
  return {
    extent,
    ground,
    water: (_, north) => (Math.abs(north - canalAt) < halfCanal ? level : -Infinity),
    grass: grassOf(seed, 0.3, 1.15),
    isHard: isStreet,
    ...reliefOf(ground, extent),
    isSteep: true,
    objects: { buildings, trees, rods, boxes },
    flight: {
      height: 95,
      speed: 8,
      halfAngle: 28,
      lineSpacing: 0.38,
      pointSpacing: 0.33,
      rangeNoise: 0.018,
      beamRadius: 0.05,
      strips: stripsOver(extent, 65),
    },
    falsePoints: { low: 25, high: 20 },
  };
}
