import { newPointBatch, slicePoints, type PointBatch } from '@pampero/core/cloud';
import { CLASS, type Scene } from '../simulation/scene.js';
import { smoothNoise } from '../simulation/smooth-noise.js';
import { Draws } from './build.js';

/** Wrong matches come in clusters of at most so many points. */
const GHOSTS_TOGETHER = 12;

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
  const cloud = newPointBatch(columns * rows + GHOSTS_TOGETHER * (scene.falsePoints.low + scene.falsePoints.high), {
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
  // Wrong matches: little clusters under the ground and over it, as bright as what they were mistaken for.
  const ghosts = (many: number, code: number, height: () => number): void => {
    for (let k = 0; k < many; k++) {
      const [east, north] = [draws.between(2, extent.east - 2), draws.between(2, extent.north - 2)];
      const z = scene.ground(east, north) + height();
      for (let each = Math.floor(draws.between(1, GHOSTS_TOGETHER + 1)); each > 0; each--) {
        cloud.x[count] = Math.round((east + draws.between(-0.4, 0.4)) * 1000);
        cloud.y[count] = Math.round((north + draws.between(-0.4, 0.4)) * 1000);
        cloud.z[count] = Math.round((z + draws.between(-0.15, 0.15)) * 1000);
        cloud.returns[count] = 0x11;
        cloud.classification[count] = code;
        const light = 65_535 * draws.between(0.3, 0.6);
        for (const column of [cloud.red!, cloud.green!, cloud.blue!]) column[count] = light * draws.between(0.9, 1.1);
        count++;
      }
    }
  };
  ghosts(scene.falsePoints.low, CLASS.lowPoint, () => -draws.between(0.4, 4));
  ghosts(scene.falsePoints.high, CLASS.highNoise, () => draws.between(8, 30));
  return slicePoints(cloud, 0, count);
}

/** Short grass: green where the soil is wet, straw where it is dry. */
function grassColour(east: number, north: number): [number, number, number] {
  const wet = smoothNoise(east / 13 + 2, north / 13);
  return [0.44 - 0.12 * wet, 0.41, 0.28 - 0.06 * wet];
}
