import { seededRandom } from '@pampero/core/task';
import { smoothNoise } from '../simulation/smooth-noise.js';
import { CLASS, type Box, type Building, type Objects, type Rod, type Tree } from '../simulation/scene.js';
import { bankNorthing, distanceToBank, distanceToRoad, groundElevation, LAGOON, waterElevation } from './terrain.js';

/** Everything that stands on the farm; the same seed gives the same farm. */
export function standingObjects(seed: number): Objects {
  const random = seededRandom(seed);
  const between = (low: number, high: number): number => low + (high - low) * random();
  const building = (
    east: number,
    north: number,
    halfLength: number,
    halfWidth: number,
    turned: number,
    eaves: number,
    ridge: number,
    isLeanTo = false,
  ): Building => {
    const floor = groundElevation(east, north);
    return { east, north, halfLength, halfWidth, turned, floor, eaves: floor + eaves, ridge: floor + ridge, isLeanTo };
  };
  const buildings = [
    building(196, 312, 16, 7.5, 12, 4.4, 6.9),
    building(232, 322, 6, 4, 12, 2.7, 3.4, true),
    building(164, 296, 4, 3, 12, 2.4, 2.9, true),
  ];

  const trees: Tree[] = [];
  for (let i = 0; i < 17; i++) {
    const east = 40 + i * 13.5 + between(-1.2, 1.2);
    const north = 382 + between(-1.5, 1.5);
    const height = between(17, 24);
    const foot = groundElevation(east, north);
    trees.push({
      east,
      north,
      foot,
      middle: foot + height * 0.62,
      halfHeight: height * 0.38,
      radius: between(2.6, 3.9),
      density: 0.26,
    });
  }
  while (trees.length < 17 + 46) {
    const angle = between(0, 2 * Math.PI);
    const far = between(0.95, 1.5);
    const east = LAGOON.east + LAGOON.radiusEast * far * Math.cos(angle);
    const north = LAGOON.north + LAGOON.radiusNorth * far * Math.sin(angle);
    const isDry = waterElevation(east, north) < groundElevation(east, north);
    if (!isDry || east > 552 || north < 6 || angle > 4.2 || Math.abs(distanceToBank(east, north) + 18) < 34) continue;
    const height = between(6, 11);
    const foot = groundElevation(east, north);
    trees.push({
      east,
      north,
      foot,
      middle: foot + height * 0.54,
      halfHeight: height * 0.46,
      radius: between(2.4, 4.4),
      density: 0.42,
    });
  }
  for (let i = 0; i < 60; i++) {
    const east = between(5, 555);
    const north = between(5, 415);
    if (
      waterElevation(east, north) > groundElevation(east, north) ||
      distanceToRoad(east, north) < 4 ||
      Math.abs(distanceToBank(east, north)) < 13
    )
      continue;
    const height = between(0.8, 2.4);
    const foot = groundElevation(east, north);
    trees.push({
      east,
      north,
      foot,
      middle: foot + height / 2,
      halfHeight: height / 2,
      radius: between(0.6, 1.5),
      density: 1.1,
    });
  }

  const rods: Rod[] = [];
  const poles = Array.from({ length: 8 }, (_, i) => {
    const east = 12 + i * 76;
    const north = 366 - i * 10.5;
    return { east, north, foot: groundElevation(east, north), top: groundElevation(east, north) + 10.8 };
  });
  for (const pole of poles) {
    rods.push({
      from: [pole.east, pole.north, pole.foot],
      to: [pole.east, pole.north, pole.top],
      radius: 0.16,
      classCode: CLASS.tower,
      reflectance: 0.4,
    });
    rods.push({
      from: [pole.east, pole.north - 1.1, pole.top - 0.2],
      to: [pole.east, pole.north + 1.1, pole.top - 0.2],
      radius: 0.08,
      classCode: CLASS.tower,
      reflectance: 0.4,
    });
  }
  for (let i = 0; i + 1 < poles.length; i++) {
    for (const side of [-1, 0, 1]) {
      const steps = 12;
      const at = (k: number): [number, number, number] => {
        const t = k / steps;
        const a = poles[i]!;
        const b = poles[i + 1]!;
        const sag = 1.5 * 4 * t * (1 - t); // a parabola, as a catenary this flat is
        return [
          a.east + (b.east - a.east) * t,
          a.north + (b.north - a.north) * t + side,
          a.top + (b.top - a.top) * t - sag + (side === 0 ? 0.35 : 0),
        ];
      };
      for (let k = 0; k < steps; k++)
        rods.push({ from: at(k), to: at(k + 1), radius: 0.012, classCode: CLASS.conductor, reflectance: 0.5 });
    }
  }
  const corral = [
    [120, 262],
    [158, 268],
    [153, 296],
    [116, 290],
    [120, 262],
  ] as const;
  for (let s = 0; s + 1 < corral.length; s++) {
    const [ae, an] = corral[s]!;
    const [be, bn] = corral[s + 1]!;
    const panels = Math.ceil(Math.hypot(be - ae, bn - an) / 2.5);
    for (let p = 0; p < panels; p++) {
      const point = (t: number): [number, number] => [ae + (be - ae) * t, an + (bn - an) * t];
      const a = point(p / panels);
      const b = point((p + 1) / panels);
      const za = groundElevation(...a);
      const zb = groundElevation(...b);
      rods.push({ from: [...a, za], to: [...a, za + 1.5], radius: 0.09, classCode: CLASS.fence, reflectance: 0.45 });
      for (const rail of [0.5, 0.95, 1.4])
        rods.push({
          from: [...a, za + rail],
          to: [...b, zb + rail],
          radius: 0.06,
          classCode: CLASS.fence,
          reflectance: 0.45,
        });
    }
  }

  const culvertEast = 352;
  const boxes: Box[] = [-1, 1].map((side) => {
    const north = bankNorthing(culvertEast) + side * 9.6;
    const foot = groundElevation(culvertEast, north);
    return {
      east: culvertEast,
      north,
      halfLength: 1.8,
      halfWidth: 0.2,
      turned: -14,
      foot,
      top: foot + 1.3,
      classCode: CLASS.building,
    };
  });
  boxes.push({
    east: 243,
    north: 303,
    halfLength: 2.6,
    halfWidth: 0.95,
    turned: 70,
    foot: groundElevation(243, 303),
    top: groundElevation(243, 303) + 1.75,
    classCode: CLASS.vehicle,
  });
  for (let i = 0; i < 9; i++) {
    const east = 126 + between(0, 24);
    const north = 268 + between(0, 18);
    boxes.push({
      east,
      north,
      halfLength: 1.1,
      halfWidth: 0.35,
      turned: between(0, 180),
      foot: groundElevation(east, north) + 0.5,
      top: groundElevation(east, north) + 1.45,
      classCode: CLASS.medium,
    });
  }
  return { buildings, trees, rods, boxes };
}

/** Height of grass here, metres: grazed short, with patches of tussock; none on gravel or water. */
export function grassHeight(east: number, north: number): number {
  const patch = smoothNoise(east / 46, north / 46) + 0.5 * smoothNoise(east / 19 + 7, north / 19 + 3);
  if (patch < 1.02) return 0.02;
  const tussock = smoothNoise(east / 1.6, north / 1.6);
  return tussock > 0.45 ? 0.2 + 0.7 * (tussock - 0.45) : 0.02;
}
