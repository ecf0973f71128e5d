import { newPointBatch, slicePoints, type PointBatch } from '@pampero/core/cloud';
import { CLASS, type Scene } from '../simulation/scene.js';
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

/**
 * The cloud that matching of photographs gives: the topmost surface only, coloured, one return a point, its noise smooth over
 * some decimetres as matching windows make it.
 */
export function matchPhotos(scene: Scene, seed: number): PointBatch {
  const draws = new Draws(seed);
  const { extent, flight, objects } = scene;
  const [columns, rows] = [
    Math.floor(extent.east / flight.pointSpacing),
    Math.floor(extent.north / flight.lineSpacing),
  ];
  const cloud = newPointBatch(columns * rows, {
    gpsTime: false,
    rgb: true,
    nearInfrared: false,
    wavePacket: false,
    extraBytesLength: 0,
  });
  const normal = (): number => Math.sqrt(-2 * Math.log(1 - draws.random())) * Math.cos(2 * Math.PI * draws.random());
  let count = 0;
  for (let row = 0; row < rows; row++) {
    // Only trees that this row may meet.
    const middle = (row + 0.5) * flight.lineSpacing;
    const trees = objects.trees.filter(({ north, radius }) => Math.abs(middle - north) <= radius + flight.lineSpacing);
    for (let column = 0; column < columns; column++) {
      const east = (column + draws.random()) * flight.pointSpacing;
      const north = (row + draws.random()) * flight.lineSpacing;
      const bare = scene.ground(east, north);
      const grass = scene.grass(east, north);
      let [top, code]: [number, number] = [bare + grass, grass > 0.1 ? CLASS.low : CLASS.ground];
      for (const tree of trees) {
        const d = Math.hypot(east - tree.east, north - tree.north) / tree.radius;
        if (d >= 1) continue;
        const crown = tree.middle + tree.halfHeight * Math.sqrt(1 - d * d);
        if (crown <= top) continue;
        const above = crown - tree.foot;
        [top, code] = [crown, above > 3 ? CLASS.high : above > 0.6 ? CLASS.medium : CLASS.low];
      }
      for (const house of objects.buildings) {
        const a = (house.turned * Math.PI) / 180;
        const u = (east - house.east) * Math.cos(a) + (north - house.north) * Math.sin(a);
        const v = -(east - house.east) * Math.sin(a) + (north - house.north) * Math.cos(a);
        if (Math.abs(u) > house.halfLength || Math.abs(v) > house.halfWidth) continue;
        const roof = house.ridge - ((house.ridge - house.eaves) * Math.abs(v)) / house.halfWidth;
        if (roof > top) [top, code] = [roof, CLASS.building];
      }
      const rough = code === CLASS.ground ? 1 : 1.6;
      const smooth = 0.02 * (smoothNoise(east / 0.8 + 11, north / 0.8) - 0.5);
      cloud.x[count] = Math.round(east * 1000);
      cloud.y[count] = Math.round(north * 1000);
      cloud.z[count] = Math.round((top + smooth + flight.rangeNoise * rough * 0.6 * normal()) * 1000);
      cloud.returns[count] = 0x11;
      cloud.classification[count] = code;
      const light = 0.85 + 0.3 * draws.random();
      const [r, g, b] =
        code === CLASS.building
          ? [0.55, 0.4, 0.36]
          : code === CLASS.ground
            ? scene.isHard(east, north)
              ? [0.56, 0.53, 0.48]
              : grassColour(east, north)
            : [0.27 + 0.06 * smoothNoise(east / 5, north / 5 + 9), 0.42, 0.16];
      const paint = (value: number): number =>
        Math.min(65_535, Math.round(value * light * (0.94 + 0.12 * draws.random()) * 65_535));
      cloud.red![count] = paint(r!);
      cloud.green![count] = paint(g!);
      cloud.blue![count] = paint(b!);
      count++;
    }
  }
  return slicePoints(cloud, 0, count);
}

/** Short grass: green where the soil is wet, straw where it is dry. */
function grassColour(east: number, north: number): [number, number, number] {
  const wet = smoothNoise(east / 13 + 2, north / 13);
  return [0.44 - 0.12 * wet, 0.41, 0.28 - 0.06 * wet];
}
