import { newPointBatch, slicePoints, type PointBatch } from '@pampero/core/cloud';
import { seededRandom } from '@pampero/core/task';
import {
  CLASS,
  grassHeight,
  standingObjects,
  type Box,
  type Building,
  type Objects,
  type Rod,
  type Tree,
} from './objects.js';
import { EXTENT, groundElevation, isGravel, waterElevation } from './terrain.js';

/** The flight: five strips, the last across the others. Metres and seconds; angles in degrees off the vertical. */
const FLIGHT = {
  height: 80,
  speed: 8,
  halfAngle: 38,
  lineSpacing: 0.52,
  pointSpacing: 0.41,
  rangeNoise: 0.018,
  beamRadius: 0.05,
  strips: [
    { from: [-10, 50], to: [570, 50] },
    { from: [570, 155], to: [-10, 155] },
    { from: [-10, 260], to: [570, 260] },
    { from: [570, 365], to: [-10, 365] },
    { from: [330, -5], to: [330, 425] },
  ],
} as const;

/** Points are stored to the millimetre about whole kilometres. */
export const QUANTISATION = {
  scale: [0.001, 0.001, 0.001],
  offset: [5_512_000, 6_150_000, 0],
} as const satisfies { scale: readonly [number, number, number]; offset: readonly [number, number, number] };

/** Seconds of standard GPS time less 10^9 at the first pulse. */
const FIRST_PULSE_TIME = 431_200_000;
const MOST_RETURNS = 5;

/** One return on the way: distance from the scanner and what it came from. */
interface Hit {
  range: number;
  classCode: number;
  reflectance: number;
}

/**
 * Flies the strips over the farm and gives every return with its true class. Deterministic: one seed, one cloud.
 * A beam loses part of its strength in crowns and on wires and goes on; roofs, walls and ground stop it; water mostly
 * swallows it. Some false points are added below the water and in the air, as multipath and birds give.
 */
export function flyLidar(seed: number): PointBatch {
  const random = seededRandom(seed);
  const objects = standingObjects(seed + 1);
  const scene = new SceneIndex(objects);
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

  for (const [index, strip] of FLIGHT.strips.entries()) {
    const [fe, fn] = strip.from;
    const [te, tn] = strip.to;
    const length = Math.hypot(te - fe, tn - fn);
    const alongE = (te - fe) / length;
    const alongN = (tn - fn) / length;
    const half = Math.tan((FLIGHT.halfAngle * Math.PI) / 180);
    const perLine = Math.round((2 * half * FLIGHT.height) / FLIGHT.pointSpacing);
    const lines = Math.floor(length / FLIGHT.lineSpacing);
    time = FIRST_PULSE_TIME + index * 120;
    for (let line = 0; line < lines; line++) {
      const goesRight = line % 2 === 0;
      for (let k = 0; k < perLine; k++) {
        const station = (line + k / perLine) * FLIGHT.lineSpacing;
        time = FIRST_PULSE_TIME + index * 120 + station / FLIGHT.speed;
        const across = (goesRight ? 1 : -1) * ((2 * (k + 0.5)) / perLine - 1) * half + 0.004 * (random() - 0.5);
        const forward = 0.004 * (random() - 0.5);
        const scanner = [
          fe + alongE * station,
          fn + alongN * station,
          30.5 + FLIGHT.height + 0.4 * Math.sin(station / 50),
        ] as const;
        const norm = Math.hypot(across, forward, 1);
        const ray = [
          (alongN * across + alongE * forward) / norm,
          (-alongE * across + alongN * forward) / norm,
          -1 / norm,
        ] as const;
        castBeam(scanner, ray, scene, random, hits);
        const returns = Math.min(hits.length, MOST_RETURNS);
        const angle = (Math.atan(across) * 180) / Math.PI;
        for (let r = 0; r < returns; r++) {
          const hit = hits[r]!;
          const range = hit.range + FLIGHT.rangeNoise * normal(random);
          const east = scanner[0] + ray[0] * range;
          const north = scanner[1] + ray[1] * range;
          if (east < 0 || north < 0 || east > EXTENT.east || north > EXTENT.north) continue;
          const flags = (goesRight ? 64 : 0) | (k === perLine - 1 ? 128 : 0);
          put([east, north, scanner[2] + ray[2] * range], hit, (r + 1) | (returns << 4), angle, index + 1, flags);
        }
      }
    }
  }
  addFalsePoints(random, put);
  return slicePoints(cloud, 0, count);
}

/** Multipath below water and roofs, some in little clusters, and birds and dust above: classes 7 and 18. */
function addFalsePoints(
  random: () => number,
  put: (p: [number, number, number], hit: Hit, r: number, angle: number, strip: number, flags: number) => void,
): void {
  for (let i = 0; i < 46; i++) {
    const east = 5 + 550 * random();
    const north = 5 + 410 * random();
    const z = groundElevation(east, north) - 0.8 - 4 * random();
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
  for (let i = 0; i < 80; i++) {
    const east = 5 + 550 * random();
    const north = 5 + 410 * random();
    put(
      [east, north, groundElevation(east, north) + 26 + 30 * random()],
      { range: 0, classCode: CLASS.highNoise, reflectance: 0.1 },
      0x11,
      0,
      1 + (i % 5),
      0,
    );
  }
}

/** A standard normal deviate (Box and Muller 1958). */
function normal(random: () => number): number {
  return Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
}

/** Fills `hits` with the returns of one beam, nearest first. */
function castBeam(
  from: readonly [number, number, number],
  ray: readonly [number, number, number],
  scene: SceneIndex,
  random: () => number,
  hits: Hit[],
): void {
  hits.length = 0;
  let end = groundRange(from, ray);
  const endEast = from[0] + ray[0] * end;
  const endNorth = from[1] + ray[1] * end;
  const water = waterElevation(endEast, endNorth);
  const ground = groundElevation(endEast, endNorth);
  let last: Hit | undefined;
  if (water > ground) {
    end = (water - from[2]) / ray[2];
    const chance = -ray[2] > 0.994 ? 0.8 : 0.12;
    last =
      random() < chance ? { range: end, classCode: CLASS.water, reflectance: -ray[2] > 0.994 ? 0.5 : 0.04 } : undefined;
  } else {
    const grass = isGravel(endEast, endNorth) ? 0 : grassHeight(endEast, endNorth);
    if (grass > 0.1 && random() < 0.6) {
      const inGrass = grass * (0.35 + 0.65 * random());
      if (inGrass > 0.1) last = { range: end + inGrass / ray[2], classCode: CLASS.low, reflectance: 0.62 };
    }
    last ??= {
      range: end,
      classCode: CLASS.ground,
      reflectance: isGravel(endEast, endNorth) ? 0.34 : 0.52 + 0.1 * Math.sin(endEast / 17) * Math.cos(endNorth / 21),
    };
  }
  const near = scene.along(from, ray, end);
  for (const solid of near.solids) {
    const range = solid.kind === 'building' ? buildingRange(from, ray, solid.item) : boxRange(from, ray, solid.item);
    if (range !== undefined && range < end) {
      end = range;
      last = { range, classCode: solid.kind === 'building' ? CLASS.building : solid.item.classCode, reflectance: 0.72 };
    }
  }
  let strength = 1;
  for (const rod of near.rods) {
    const range = rodRange(from, ray, rod);
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

/** Range to the ground by a few secant steps from its mean level; the land is gentle against a beam this steep. */
function groundRange(from: readonly [number, number, number], ray: readonly [number, number, number]): number {
  let range = (30.5 - from[2]) / ray[2];
  for (let i = 0; i < 8; i++) {
    const miss = from[2] + ray[2] * range - groundElevation(from[0] + ray[0] * range, from[1] + ray[1] * range);
    if (Math.abs(miss) < 1e-4) break;
    range += (miss / -ray[2]) * 0.8;
  }
  return range;
}

/** A point turned into a building's or box's own axes. */
function turnedInto(
  east: number,
  north: number,
  item: { east: number; north: number; turned: number },
): [number, number] {
  const a = (item.turned * Math.PI) / 180;
  const e = east - item.east;
  const n = north - item.north;
  return [e * Math.cos(a) + n * Math.sin(a), -e * Math.sin(a) + n * Math.cos(a)];
}

function buildingRange(
  from: readonly [number, number, number],
  ray: readonly [number, number, number],
  b: Building,
): number | undefined {
  const roof = (u: number, v: number): number =>
    Math.abs(u) > b.halfLength || Math.abs(v) > b.halfWidth
      ? -Infinity
      : b.isLeanTo
        ? b.eaves + ((b.ridge - b.eaves) * (v + b.halfWidth)) / (2 * b.halfWidth)
        : b.ridge - ((b.ridge - b.eaves) * Math.abs(v)) / b.halfWidth;
  return firstBelow(from, ray, b, b.ridge, b.floor, roof);
}

function boxRange(
  from: readonly [number, number, number],
  ray: readonly [number, number, number],
  b: Box,
): number | undefined {
  return firstBelow(from, ray, b, b.top, b.foot, (u, v) =>
    Math.abs(u) > b.halfLength || Math.abs(v) > b.halfWidth ? -Infinity : b.top,
  );
}

/** Walks down from `top` to `foot` in short steps until the beam is below the roof, then halves to a millimetre. */
function firstBelow(
  from: readonly [number, number, number],
  ray: readonly [number, number, number],
  item: { east: number; north: number; turned: number },
  top: number,
  foot: number,
  roof: (u: number, v: number) => number,
): number | undefined {
  const isBelow = (range: number): boolean => {
    const [u, v] = turnedInto(from[0] + ray[0] * range, from[1] + ray[1] * range, item);
    return from[2] + ray[2] * range <= roof(u, v);
  };
  let above = (top + 0.01 - from[2]) / ray[2];
  const last = (foot - from[2]) / ray[2];
  const step = 0.12;
  for (let range = above; range <= last; range += step) {
    if (!isBelow(range)) {
      above = range;
      continue;
    }
    let below = range;
    while (below - above > 0.001) {
      const middle = (above + below) / 2;
      if (isBelow(middle)) below = middle;
      else above = middle;
    }
    return below;
  }
  return undefined;
}

/** Where the beam passes a rod within reach of its footprint. */
function rodRange(
  from: readonly [number, number, number],
  ray: readonly [number, number, number],
  rod: Rod,
): number | undefined {
  const d = [rod.to[0] - rod.from[0], rod.to[1] - rod.from[1], rod.to[2] - rod.from[2]] as const;
  const w = [from[0] - rod.from[0], from[1] - rod.from[1], from[2] - rod.from[2]] as const;
  const b = ray[0] * d[0] + ray[1] * d[1] + ray[2] * d[2];
  const c = d[0] * d[0] + d[1] * d[1] + d[2] * d[2];
  const e = ray[0] * w[0] + ray[1] * w[1] + ray[2] * w[2];
  const f = d[0] * w[0] + d[1] * w[1] + d[2] * w[2];
  const t = Math.min(1, Math.max(0, (f - b * e) / Math.max(1e-12, c - b * b)));
  const range = t * b - e;
  const miss = Math.hypot(
    w[0] + ray[0] * range - d[0] * t,
    w[1] + ray[1] * range - d[1] * t,
    w[2] + ray[2] * range - d[2] * t,
  );
  return miss <= rod.radius + FLIGHT.beamRadius ? range : undefined;
}

/** Ranges at which the beam enters and leaves a crown. */
function crownChord(
  from: readonly [number, number, number],
  ray: readonly [number, number, number],
  tree: Tree,
): [number, number] | undefined {
  const o = [
    (from[0] - tree.east) / tree.radius,
    (from[1] - tree.north) / tree.radius,
    (from[2] - tree.middle) / tree.halfHeight,
  ] as const;
  const r = [ray[0] / tree.radius, ray[1] / tree.radius, ray[2] / tree.halfHeight] as const;
  const a = r[0] * r[0] + r[1] * r[1] + r[2] * r[2];
  const b = o[0] * r[0] + o[1] * r[1] + o[2] * r[2];
  const root = b * b - a * (o[0] * o[0] + o[1] * o[1] + o[2] * o[2] - 1);
  if (root <= 0) return undefined;
  return [(-b - Math.sqrt(root)) / a, (-b + Math.sqrt(root)) / a];
}

type Solid = { kind: 'building'; item: Building } | { kind: 'box'; item: Box };
interface Near {
  readonly solids: Solid[];
  readonly trees: Tree[];
  readonly rods: Rod[];
}
const NOTHING: Near = { solids: [], trees: [], rods: [] };

/** Which objects a beam may meet: a grid over the scene, each object entered where its shadow at the steepest angle can fall. */
class SceneIndex {
  private readonly cell = 4;
  private readonly columns = Math.ceil((EXTENT.east + 80) / this.cell);
  private readonly cells = new Map<number, Near>();

  constructor(objects: Objects) {
    for (const item of objects.buildings)
      this.enter(item.east, item.north, Math.hypot(item.halfLength, item.halfWidth), item.ridge - item.floor, (n) =>
        n.solids.push({ kind: 'building', item }),
      );
    for (const item of objects.boxes)
      this.enter(item.east, item.north, Math.hypot(item.halfLength, item.halfWidth), item.top - item.foot + 0.6, (n) =>
        n.solids.push({ kind: 'box', item }),
      );
    for (const item of objects.trees)
      this.enter(item.east, item.north, item.radius, item.middle + item.halfHeight - item.foot, (n) =>
        n.trees.push(item),
      );
    for (const item of objects.rods) {
      const [a, b] = [item.from, item.to];
      this.enter(
        (a[0] + b[0]) / 2,
        (a[1] + b[1]) / 2,
        Math.hypot(b[0] - a[0], b[1] - a[1]) / 2 + 0.3,
        Math.max(a[2], b[2]) - 29,
        (n) => n.rods.push(item),
      );
    }
  }

  private enter(east: number, north: number, radius: number, height: number, add: (near: Near) => void): void {
    // The beam's end on the ground lies beyond the object by at most its height times the tangent of the widest angle.
    const reach = radius + height * Math.tan(((FLIGHT.halfAngle + 1) * Math.PI) / 180) + this.cell + 3;
    for (let row = this.index(north - reach); row <= this.index(north + reach); row++)
      for (let column = this.index(east - reach); column <= this.index(east + reach); column++) {
        const key = row * this.columns + column;
        let near = this.cells.get(key);
        if (!near) this.cells.set(key, (near = { solids: [], trees: [], rods: [] }));
        add(near);
      }
  }

  private index(metres: number): number {
    return Math.max(0, Math.floor((metres + 40) / this.cell));
  }

  along(from: readonly [number, number, number], ray: readonly [number, number, number], end: number): Near {
    return (
      this.cells.get(this.index(from[1] + ray[1] * end) * this.columns + this.index(from[0] + ray[0] * end)) ?? NOTHING
    );
  }
}
