import { CLASS, type Box, type Building, type Scene, type Tree } from '../simulation/scene.js';
import { Draws, DRY, grassOf, houseAt, reliefOf, stripsOver, treeAt } from './build.js';

const BLOCK = 74;
const HALF_STREET = 5;
const KERB = 0.14;

/** A town: streets with kerbs, rows of houses about courtyards, two large halls, street trees, cars, a retaining wall. */
export function town(seed: number): Scene {
  const draws = new Draws(seed);
  const extent = { east: 300, north: 300 };
  const fall = 0.006 + 0.01 * draws.random();
  const wallNorth = 186;
  const fromStreet = (along: number): number => Math.abs((((along % BLOCK) + BLOCK) % BLOCK) - BLOCK / 2);
  const isStreet = (east: number, north: number): boolean =>
    Math.min(fromStreet(east), fromStreet(north)) < HALF_STREET;
  const ground = (east: number, north: number): number => {
    const plain = 80 + fall * east - 0.004 * north + 0.5 * Math.sin(east / 90) * Math.cos(north / 70);
    // A wall 2.2 m high holds the blocks on the north side up; the streets ramp over it.
    const rise = isStreet(east, north)
      ? Math.min(1, Math.max(0, (north - wallNorth + 14) / 28))
      : north > wallNorth
        ? 1
        : 0;
    return plain + 2.2 * rise + (isStreet(east, north) ? 0 : KERB);
  };
  const buildings: Building[] = [];
  const trees: Tree[] = [];
  const boxes: Box[] = [];
  for (let i = -1; i < 5; i++)
    for (let j = -1; j < 5; j++) {
      const [east, north] = [i * BLOCK, j * BLOCK];
      if (Math.abs(north - wallNorth) < 24) {
        for (let k = 0; k < 14; k++)
          trees.push(
            treeAt(
              ground,
              east + draws.between(-28, 28),
              north + draws.between(-28, 28),
              draws.between(4, 13),
              draws.between(1.5, 4),
              0.4,
            ),
          );
        continue;
      }
      if ((i === 1 && j === 1) || (i === 3 && j === 3)) {
        buildings.push(houseAt(ground, { east, north, halfLength: 29, halfWidth: 28, eaves: 7.5, ridge: 8.6 }));
        continue;
      }
      const depth = draws.between(5, 6.5);
      const out = 30 - depth;
      const height = draws.between(5, 12);
      // Four wings about a yard, one of them open to it by a passage.
      for (const side of [-1, 1]) {
        buildings.push(
          houseAt(ground, {
            east,
            north: north + side * out,
            halfLength: 30,
            halfWidth: depth,
            eaves: height,
            ridge: height + (draws.random() < 0.5 ? 0.05 : 2.6),
          }),
        );
        buildings.push(
          houseAt(ground, {
            east: east + side * out,
            north,
            halfLength: depth,
            halfWidth: out - depth - (side > 0 ? 3 : 0),
            turned: 0,
            eaves: height,
            ridge: height + 0.4,
          }),
        );
      }
      if (draws.random() < 0.7)
        buildings.push(
          houseAt(ground, {
            east: east + draws.between(-5, 5),
            north: north + draws.between(-6, 6),
            halfLength: 2.4,
            halfWidth: 1.9,
            eaves: 2.4,
            ridge: 3.1,
          }),
        );
      for (let k = 0; k < 4; k++)
        trees.push(
          treeAt(
            ground,
            east + draws.between(-14, 14),
            north + draws.between(-14, 14),
            draws.between(3.5, 10),
            draws.between(1.2, 3.2),
            0.45,
          ),
        );
      for (let k = 0; k < 5; k++) {
        const [e, n] = [east + draws.between(-28, 28), north + BLOCK / 2 - HALF_STREET + 1.3];
        boxes.push(carAt(e, n));
      }
      for (let k = -1; k <= 1; k++)
        trees.push(treeAt(ground, east + 20 * k, north + 32, draws.between(5, 9), draws.between(1.4, 2.6), 0.5, 0.6));
    }
  function carAt(east: number, north: number): Box {
    const foot = ground(east, north);
    return {
      east,
      north,
      halfLength: 2.2,
      halfWidth: 0.9,
      turned: 0,
      foot,
      top: foot + draws.between(1.3, 1.9),
      classCode: CLASS.vehicle,
    };
  }
  return {
    extent,
    ground,
    water: DRY,
    grass: grassOf(seed, 0.3, 1.15),
    isHard: isStreet,
    ...reliefOf(ground, extent),
    isSteep: true,
    objects: { buildings, trees, rods: [], boxes },
    flight: {
      height: 110,
      speed: 8,
      halfAngle: 28,
      lineSpacing: 0.5,
      pointSpacing: 0.42,
      rangeNoise: 0.018,
      beamRadius: 0.05,
      strips: stripsOver(extent, 80),
    },
    falsePoints: { low: 30, high: 20 },
  };
}
