import { gatherPoints, type PointBatch } from '@pampero/core/cloud';
import { QUANTISATION, type SurveyedScene } from '@pampero/demo';

/** Makes other land or another survey of a scene; its truth goes along. */
export type Variation = (run: SurveyedScene) => SurveyedScene;

const [NOISE_CLASS, BUILDING] = [7, 6];

/** Ways in which land and surveys differ from the scenes that methods were tuned on. */
export const VARIATIONS: Readonly<Record<string, Variation>> = {
  'a sixth of the pulses': (run) => thinned(run, 1 / 6),
  'a fifteenth of the pulses': (run) => thinned(run, 1 / 15),
  'on a slope of 10°': (run) => onSlope(run, 10),
  'on a slope of 20°': (run) => onSlope(run, 20),
  'on a slope of 30°': (run) => onSlope(run, 30),
  'with 5 cm of noise': (run) => lifted(run, (z, i) => z + 0.05 * normal(i)),
  'with one false point in a thousand': (run) => {
    const isFalse = (i: number): boolean => share(i, 99) < 0.001;
    const { scene, name, cloud } = lifted(run, (z, i) => (isFalse(i) ? z - 8 + 60 * share(i, 5) : z));
    const classification = cloud.classification.map((code, i) => (isFalse(i) ? NOISE_CLASS : code));
    return { scene, name, cloud: { ...cloud, classification } };
  },
  'a piece of 80 m': (run) => cutOut(run, 80),
};

/** A number between 0 and 1 that hangs on nothing but a whole number. */
function share(value: number, seed: number): number {
  let x = Math.imul(value ^ (seed * 0x9e3779b1), 0x45d9f3b);
  x = Math.imul(x ^ (x >>> 16), 0x45d9f3b);
  return ((x ^ (x >>> 16)) >>> 0) / 2 ** 32;
}

/** Normal, by Box and Muller. */
function normal(i: number): number {
  return Math.sqrt(-2 * Math.log(Math.max(1e-9, share(i, 1)))) * Math.cos(2 * Math.PI * share(i, 2));
}

function keptOf(cloud: PointBatch, isKept: (i: number) => boolean): PointBatch {
  return gatherPoints(cloud, Uint32Array.from({ length: cloud.count }, (_, i) => i).filter(isKept));
}

/** Pulses left out at random; the returns of one pulse, which have one time, go together. */
function thinned(run: SurveyedScene, kept: number): SurveyedScene {
  const { gpsTime } = run.cloud;
  const isKept = (i: number): boolean => share(gpsTime ? Math.round(gpsTime[i]! * 1e6) | 0 : i, 3) < kept;
  return { ...run, cloud: keptOf(run.cloud, isKept) };
}

function lifted(run: SurveyedScene, elevation: (z: number, i: number) => number): SurveyedScene {
  const { scale, offset } = QUANTISATION;
  const z = run.cloud.z.map((value, i) => Math.round((elevation(value * scale[2] + offset[2], i) - offset[2]) / scale[2])); // prettier-ignore
  return { ...run, cloud: { ...run.cloud, z } };
}

/** Depth of a house on a hillside, metres. */
const HOUSE = 12;

/** All of it on a slope towards the east; roofs stay level, in steps as houses stand on a hillside. */
function onSlope(run: SurveyedScene, degrees: number): SurveyedScene {
  const tangent = Math.tan((degrees * Math.PI) / 180);
  const { x, classification } = run.cloud;
  const varied = lifted(run, (z, i) => {
    const east = x[i]! * QUANTISATION.scale[0];
    return z + tangent * (classification[i] === BUILDING ? HOUSE * (Math.floor(east / HOUSE) + 0.5) : east);
  });
  const { ground, water } = run.scene;
  return {
    ...varied,
    scene: {
      ...run.scene,
      ground: (east, north) => ground(east, north) + tangent * east,
      water: (east, north) => water(east, north) + tangent * east,
    },
  };
}

/** A square out of the middle. */
function cutOut(run: SurveyedScene, side: number): SurveyedScene {
  const { scene, cloud } = run;
  const { scale } = QUANTISATION;
  const [west, south] = [(scene.extent.east - side) / 2, (scene.extent.north - side) / 2];
  const isIn = (i: number): boolean => {
    const [east, north] = [cloud.x[i]! * scale[0] - west, cloud.y[i]! * scale[1] - south];
    return east >= 0 && east < side && north >= 0 && north < side;
  };
  const piece = keptOf(cloud, isIn);
  const [shiftX, shiftY] = [Math.round(west / scale[0]), Math.round(south / scale[1])];
  return {
    ...run,
    scene: {
      ...scene,
      extent: { ...scene.extent, east: side, north: side },
      ground: (east, north) => scene.ground(east + west, north + south),
      water: (east, north) => scene.water(east + west, north + south),
    },
    cloud: { ...piece, x: piece.x.map((value) => value - shiftX), y: piece.y.map((value) => value - shiftY) },
  };
}
