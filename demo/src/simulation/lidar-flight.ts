import { newPointBatch, slicePoints, type PointBatch } from '@pampero/core/cloud';
import { seededRandom } from '@pampero/core/task';
import { boxRange, buildingRange, crownChord, rodRange } from './ray-ranges.js';
import { SceneIndex } from './scene-index.js';
import { CLASS, type Scene } from './scene.js';

/** Points are stored to the millimetre about whole kilometres. */
export const QUANTISATION = {
  scale: [0.001, 0.001, 0.001],
  offset: [5_512_000, 6_150_000, 0],
} as const satisfies { scale: readonly [number, number, number]; offset: readonly [number, number, number] };

/** Seconds of standard GPS time less 10^9 at the first pulse. */
export const FIRST_PULSE_TIME = 431_200_000;
const MOST_RETURNS = 5;

/** One return on the way: distance from the scanner and what it came from. */
export interface Hit {
  range: number;
  classCode: number;
  reflectance: number;
}

/**
 * Flies the strips over the farm and gives every return with its true class. Deterministic: one seed, one cloud.
 * A beam loses part of its strength in crowns and on wires and goes on; roofs, walls and ground stop it; water mostly
 * swallows it. Some false points are added below the water and in the air, as multipath and birds give.
 */
export function flyLidar(scene: Scene, seed: number): PointBatch {
  const random = seededRandom(seed);
  const { flight } = scene;
  const index = new SceneIndex(scene, flight.halfAngle);
  const capacity = 2_400_000;
  const cloud = newPointBatch(capacity, {
    gpsTime: true,
    rgb: false,
    nearInfrared: false,
    wavePacket: false,
    extraBytesLength: 0,
  });
  const gpsTime = cloud.gpsTime!;
  let count = 0;
  let time = FIRST_PULSE_TIME;
  const hits: Hit[] = [];

  const put = (
    position: readonly [number, number, number],
    hit: { classCode: number; reflectance: number },
    returnByte: number,
    angle: number,
    strip: number,
    flags: number,
  ): void => {
    if (count === capacity) throw new Error(`The flight gave more than ${capacity} returns.`);
    cloud.x[count] = Math.round(position[0] * 1000);
    cloud.y[count] = Math.round(position[1] * 1000);
    cloud.z[count] = Math.round(position[2] * 1000);
    cloud.intensity[count] = Math.max(1, Math.round(hit.reflectance * (0.92 + 0.16 * random()) * 52_000));
    cloud.returns[count] = returnByte;
    cloud.flags[count] = flags;
    cloud.classification[count] = hit.classCode;
    cloud.scanAngle[count] = Math.round(angle / 0.006);
    cloud.pointSourceId[count] = strip;
    gpsTime[count] = time;
    count++;
  };

  for (const [number, strip] of flight.strips.entries()) {
    const [fe, fn] = strip.from;
    const [te, tn] = strip.to;
    const length = Math.hypot(te - fe, tn - fn);
    const alongE = (te - fe) / length;
    const alongN = (tn - fn) / length;
    const half = Math.tan((flight.halfAngle * Math.PI) / 180);
    const perLine = Math.round((2 * half * flight.height) / flight.pointSpacing);
    const lines = Math.floor(length / flight.lineSpacing);
    const [offEast, offNorth, offUp] = flight.stripErrors?.[number] ?? [0, 0, 0];
    time = FIRST_PULSE_TIME + number * 120;
    for (let line = 0; line < lines; line++) {
      const goesRight = line % 2 === 0;
      for (let k = 0; k < perLine; k++) {
        const station = (line + k / perLine) * flight.lineSpacing;
        time = FIRST_PULSE_TIME + number * 120 + station / flight.speed;
        const across = (goesRight ? 1 : -1) * ((2 * (k + 0.5)) / perLine - 1) * half + 0.004 * (random() - 0.5);
        const forward = 0.004 * (random() - 0.5);
        const scanner = [
          fe + alongE * station,
          fn + alongN * station,
          scene.meanGround + flight.height + 0.4 * Math.sin(station / 50),
        ] as const;
        const norm = Math.hypot(across, forward, 1);
        const ray = [
          (alongN * across + alongE * forward) / norm,
          (-alongE * across + alongN * forward) / norm,
          -1 / norm,
        ] as const;
        castBeam(scanner, ray, scene, index, random, hits);
        const returns = Math.min(hits.length, MOST_RETURNS);
        const angle = (Math.atan(across) * 180) / Math.PI;
        for (let r = 0; r < returns; r++) {
          const hit = hits[r]!;
          const range = hit.range + flight.rangeNoise * normal(random);
          const east = scanner[0] + ray[0] * range + offEast;
          const north = scanner[1] + ray[1] * range + offNorth;
          if (east < 0 || north < 0 || east > scene.extent.east || north > scene.extent.north) continue;
          const flags = (goesRight ? 64 : 0) | (k === perLine - 1 ? 128 : 0);
          put(
            [east, north, scanner[2] + ray[2] * range + offUp],
            hit,
            (r + 1) | (returns << 4),
            angle,
            number + 1,
            flags,
          );
        }
      }
    }
  }
  addFalsePoints(scene, random, put);
  return slicePoints(cloud, 0, count);
}

/** Multipath below water and roofs, some in little clusters, and birds and dust above: classes 7 and 18. */
function addFalsePoints(
  { extent, ground, falsePoints }: Scene,
  random: () => number,
  put: (p: [number, number, number], hit: Hit, r: number, angle: number, strip: number, flags: number) => void,
): void {
  for (let i = 0; i < falsePoints.low; i++) {
    const east = 5 + (extent.east - 10) * random();
    const north = 5 + (extent.north - 10) * random();
    const z = ground(east, north) - 0.8 - 4 * random();
    const cluster = i % 6 === 0 ? 4 : 1;
    for (let k = 0; k < cluster; k++)
      put(
        [east + 0.4 * k * random(), north + 0.4 * random(), z - 0.1 * random()],
        { range: 0, classCode: CLASS.lowPoint, reflectance: 0.05 },
        0x11,
        0,
        1 + (i % 5),
        0,
      );
  }
  for (let i = 0; i < falsePoints.high; i++) {
    const east = 5 + (extent.east - 10) * random();
    const north = 5 + (extent.north - 10) * random();
    put(
      [east, north, ground(east, north) + 26 + 30 * random()],
      { range: 0, classCode: CLASS.highNoise, reflectance: 0.1 },
      0x11,
      0,
      1 + (i % 5),
      0,
    );
  }
}

/** A standard normal deviate (Box and Muller 1958). */
export function normal(random: () => number): number {
  return Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
}

/** Fills `hits` with the returns of one beam, nearest first. */
export function castBeam(
  from: readonly [number, number, number],
  ray: readonly [number, number, number],
  scene: Scene,
  index: SceneIndex,
  random: () => number,
  hits: Hit[],
): void {
  hits.length = 0;
  let end = groundRange(scene, from, ray);
  const endEast = from[0] + ray[0] * end;
  const endNorth = from[1] + ray[1] * end;
  const water = scene.water(endEast, endNorth);
  const ground = scene.ground(endEast, endNorth);
  let last: Hit | undefined;
  if (water > ground) {
    end = (water - from[2]) / ray[2];
    const chance = -ray[2] > 0.994 ? 0.8 : 0.12;
    last =
      random() < chance ? { range: end, classCode: CLASS.water, reflectance: -ray[2] > 0.994 ? 0.5 : 0.04 } : undefined;
  } else {
    const grass = scene.isHard(endEast, endNorth) ? 0 : scene.grass(endEast, endNorth);
    if (grass > 0.1 && random() < 0.6) {
      const inGrass = grass * (0.35 + 0.65 * random());
      if (inGrass > 0.1) last = { range: end + inGrass / ray[2], classCode: CLASS.low, reflectance: 0.62 };
    }
    last ??= {
      range: end,
      classCode: CLASS.ground,
      reflectance: scene.isHard(endEast, endNorth)
        ? 0.34
        : 0.52 + 0.1 * Math.sin(endEast / 17) * Math.cos(endNorth / 21),
    };
  }
  const near = index.along(from, ray, end);
  for (const solid of near.solids) {
    const range = solid.kind === 'building' ? buildingRange(from, ray, solid.item) : boxRange(from, ray, solid.item);
    if (range !== undefined && range < end) {
      end = range;
      last = { range, classCode: solid.kind === 'building' ? CLASS.building : solid.item.classCode, reflectance: 0.72 };
    }
  }
  let strength = 1;
  for (const rod of near.rods) {
    const range = rodRange(from, ray, rod, scene.flight.beamRadius);
    if (range === undefined || range >= end) continue;
    hits.push({ range, classCode: rod.classCode, reflectance: rod.reflectance * 0.5 });
    strength *= rod.radius > 0.1 ? 0 : rod.radius > 0.03 ? 0.3 : 0.85;
    if (strength === 0) end = Math.min(end, range);
  }
  for (const tree of near.trees) {
    const chord = crownChord(from, ray, tree);
    if (!chord) continue;
    for (let at = chord[0]; ;) {
      at += -Math.log(1 - random()) / (tree.density * 2);
      if (at >= Math.min(chord[1], end)) break;
      const above = from[2] + ray[2] * at - tree.foot;
      hits.push({
        range: at,
        classCode: above > 3 ? CLASS.high : above > 0.6 ? CLASS.medium : CLASS.low,
        reflectance: 0.58 * strength,
      });
      strength *= 0.62;
      if (random() > strength * 1.35 + 0.08) {
        strength = 0;
        end = Math.min(end, at);
        break;
      }
    }
  }
  if (last && last.range <= end && random() < strength * 1.6)
    hits.push({ ...last, reflectance: last.reflectance * Math.max(0.2, strength) });
  hits.sort((a, b) => a.range - b.range);
  // Two returns nearer than the pulse is long come back as one.
  for (let i = hits.length - 1; i > 0; i--)
    if (hits[i]!.range - hits[i - 1]!.range < 0.35) hits.splice(hits[i]!.classCode === CLASS.ground ? i - 1 : i, 1);
}

/** Range to the bare ground. */
function groundRange(
  { ground, meanGround, isSteep, highestGround }: Scene,
  from: readonly [number, number, number],
  ray: readonly [number, number, number],
): number {
  const clearance = (range: number): number =>
    from[2] + ray[2] * range - ground(from[0] + ray[0] * range, from[1] + ray[1] * range);
  if (!isSteep) {
    // A few secant steps from its mean level: the land is gentle against a beam this steep.
    let range = (meanGround - from[2]) / ray[2];
    for (let i = 0; i < 8; i++) {
      const miss = clearance(range);
      if (Math.abs(miss) < 1e-4) break;
      range += (miss / -ray[2]) * 0.8;
    }
    return range;
  }
  // Down from above the highest ground in steps that shorten as the ground comes near, then halved to a millimetre.
  let above = (highestGround - from[2]) / ray[2];
  for (let range = above; ;) {
    const free = clearance(range);
    if (free <= 0) {
      let below = range;
      while (below - above > 0.001) {
        const middle = (above + below) / 2;
        if (clearance(middle) <= 0) below = middle;
        else above = middle;
      }
      return below;
    }
    above = range;
    range += Math.max(0.12, free * 0.3);
  }
}
