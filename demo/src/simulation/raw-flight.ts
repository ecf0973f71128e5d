import { seededRandom } from '@pampero/core/task';
import { bodyToLocal, mountingMatrix, type Sensor, type Trajectory } from '@pampero/core/strips';
import { castBeam, FIRST_PULSE_TIME, normal, QUANTISATION, type Hit } from './lidar-flight.js';
import { SceneIndex } from './scene-index.js';
import type { Scene } from './scene.js';
import { smoothNoise } from './smooth-noise.js';

/** What is wrong with a flight; nothing of it where it is left out. Metres and radians. */
export interface FlightErrors {
  readonly boresight?: readonly [number, number, number];
  readonly leverArm?: readonly [number, number, number];
  readonly rangeOffset?: number;
  readonly rangeNoise?: number;
  /** Height by which the trajectory of each strip is too low. */
  readonly stripHeights?: readonly number[];
  /** Slow drift of the trajectory's height, size. */
  readonly heightDrift?: number;
  /** White noise of the trajectory: plan, height, angles. */
  readonly positionNoise?: number;
  readonly angleNoise?: number;
}

/** What the scanner and the trajectory computer of a made-up flight wrote, and what is true. */
export interface RawFlight {
  readonly trajectory: Trajectory;
  readonly sensor: Sensor;
  readonly count: number;
  readonly time: Float64Array;
  readonly range: Float64Array;
  /** Radians, positive to the right. */
  readonly across: Float64Array;
  readonly intensity: Uint16Array;
  readonly returns: Uint8Array;
  readonly strip: Uint16Array;
  readonly classification: Uint8Array;
  /** First and last pulse of each strip. */
  readonly spans: readonly { readonly from: number; readonly to: number }[];
  /** By how much the trajectory of each strip is too low, its noise and drift together. */
  readonly heightsOff: readonly number[];
}

const TRAJECTORY_RATE = 100;
const TURN_SECONDS = 14;
const MOST_RETURNS = 5;

/** How the platform truly lay and where it truly was: a smooth way that rolls and pitches in the wind. */
class TrueWay {
  constructor(
    private readonly scene: Scene,
    private readonly seed: number,
    /** Start time, start and end of each strip. */
    readonly legs: readonly {
      readonly start: number;
      readonly end: number;
      readonly from: readonly [number, number];
      readonly to: readonly [number, number];
    }[],
  ) {}

  at(time: number): { position: [number, number, number]; angles: [number, number, number] } {
    const { flight, meanGround } = this.scene;
    let k = this.legs.findIndex(({ end }) => time <= end);
    if (k < 0) k = this.legs.length - 1;
    const leg = this.legs[k]!;
    const straight = (at: number, of = leg): [number, number] => {
      const share = (at - of.start) / (of.end - of.start);
      return [of.from[0] + share * (of.to[0] - of.from[0]), of.from[1] + share * (of.to[1] - of.from[1])];
    };
    const course = (of = leg): number => Math.atan2(of.to[0] - of.from[0], of.to[1] - of.from[1]);
    let [east, north] = straight(time);
    let heading = course();
    if (time < leg.start) {
      // A turn from the strip before: an easy blend of both ways.
      const before = this.legs[Math.max(0, k - 1)]!;
      const share = Math.max(0, Math.min(1, (time - before.end) / (leg.start - before.end || 1)));
      const ease = share * share * (3 - 2 * share);
      const [e0, n0] = straight(time, before);
      east = e0 + ease * (east - e0);
      north = n0 + ease * (north - n0);
      const turn = Math.atan2(Math.sin(heading - course(before)), Math.cos(heading - course(before)));
      heading = course(before) + ease * turn;
    }
    const wave = (size: number, n: number): number => smoothNoise(time / size + this.seed + 31 * n, n) - 0.5;
    return {
      position: [east + 2 * wave(19, 1), north + 2 * wave(23, 2), meanGround + flight.height + 3 * wave(31, 3)],
      angles: [
        0.09 * wave(3.1, 4) + 0.03 * wave(0.9, 5),
        0.07 * wave(4.3, 6) + 0.02 * wave(1.1, 7),
        heading + 0.1 * wave(5.7, 8),
      ],
    };
  }
}

/**
 * Flies a scene beam by beam and gives what the instruments would have written: ranges, angles and a trajectory, with the errors asked for.
 * Deterministic: one seed, one flight.
 */
export function flyRaw(scene: Scene, seed: number, errors: FlightErrors = {}): RawFlight {
  const random = seededRandom(seed);
  const { flight } = scene;
  const index = new SceneIndex(scene, flight.halfAngle + 8);
  const sensor: Sensor = {
    leverArm: errors.leverArm ?? [0.1, -0.05, 0.2],
    mounting: [0, 0, 0],
    boresight: errors.boresight ?? [0, 0, 0],
    rangeOffset: errors.rangeOffset ?? 0,
    rangeScale: 0,
    rangeNoise: errors.rangeNoise ?? flight.rangeNoise,
    beamDivergence: 0.0005,
  };
  let start = FIRST_PULSE_TIME + 10;
  const legs = flight.strips.map(({ from, to }, k) => {
    const leg = { start, end: start + Math.hypot(to[0] - from[0], to[1] - from[1]) / flight.speed, from, to };
    // No faster through a turn than along a strip.
    const next = flight.strips[k + 1];
    const way = next ? Math.hypot(next.from[0] - to[0], next.from[1] - to[1]) : 0;
    start = leg.end + Math.max(TURN_SECONDS, (1.6 * way) / flight.speed);
    return leg;
  });
  const way = new TrueWay(scene, seed % 97, legs);
  const mount = mountingMatrix(sensor);
  const rows: number[] = [];
  const pose = new Float64Array(9);
  const hits: Hit[] = [];
  const half = Math.tan((flight.halfAngle * Math.PI) / 180);
  for (const [s, leg] of legs.entries()) {
    const perLine = Math.round((2 * half * flight.height) / flight.pointSpacing);
    const lines = Math.floor(((leg.end - leg.start) * flight.speed) / flight.lineSpacing);
    for (let line = 0; line < lines; line++)
      for (let k = 0; k < perLine; k++) {
        const time = leg.start + ((line + k / perLine) * flight.lineSpacing) / flight.speed;
        const tangent = ((line % 2 === 0 ? 1 : -1) * ((2 * (k + 0.5)) / perLine - 1) + 0.004 * (random() - 0.5)) * half;
        const across = Math.atan(tangent);
        const { position, angles } = way.at(time);
        bodyToLocal(...angles, pose);
        const lever = turn(pose, sensor.leverArm);
        const from = [position[0] + lever[0], position[1] + lever[1], position[2] + lever[2]] as const;
        const body = turn(mount, [0, Math.sin(across), Math.cos(across)]);
        const ray = turn(pose, body);
        if (ray[2] > -0.3) continue;
        castBeam(from, ray, scene, index, random, hits);
        const returns = Math.min(hits.length, MOST_RETURNS);
        for (let r = 0; r < returns; r++) {
          const hit = hits[r]!;
          const [e, n] = [from[0] + ray[0] * hit.range, from[1] + ray[1] * hit.range];
          if (e < 0 || n < 0 || e > scene.extent.east || n > scene.extent.north) continue;
          const range = hit.range + sensor.rangeNoise * normal(random) - sensor.rangeOffset;
          const light = Math.max(1, Math.round(hit.reflectance * (0.92 + 0.16 * random()) * 52_000));
          rows.push(time, range, across, light, (r + 1) | (returns << 4), s, hit.classCode);
        }
      }
  }
  const count = rows.length / 7;
  const column = <T extends Float64Array | Uint16Array | Uint8Array>(out: T, k: number): T => {
    for (let i = 0; i < count; i++) out[i] = rows[7 * i + k]!;
    return out;
  };
  const trajectory = measured(way, legs, errors, seededRandom(seed + 1), seed);
  return {
    trajectory,
    heightsOff: legs.map(({ start: from, end }) => meanHeightOff(way, trajectory, from, end)),
    sensor,
    count,
    time: column(new Float64Array(count), 0),
    range: column(new Float64Array(count), 1),
    across: column(new Float64Array(count), 2),
    intensity: column(new Uint16Array(count), 3),
    returns: column(new Uint8Array(count), 4),
    strip: column(new Uint16Array(count), 5),
    classification: column(new Uint8Array(count), 6),
    spans: legs.map(({ start: from, end: to }) => ({ from, to })),
  };
}

function turn(m: Float64Array, [x, y, z]: readonly [number, number, number]): [number, number, number] {
  return [m[0]! * x + m[1]! * y + m[2]! * z, m[3]! * x + m[4]! * y + m[5]! * z, m[6]! * x + m[7]! * y + m[8]! * z];
}

function meanHeightOff(way: TrueWay, { time, up }: Trajectory, from: number, to: number): number {
  let [sum, count] = [0, 0];
  for (let i = 0; i < time.length; i++) {
    if (time[i]! < from || time[i]! > to) continue;
    sum += way.at(time[i]!).position[2] - up[i]!;
    count++;
  }
  return sum / Math.max(1, count);
}

/** What the trajectory computer made of the way: a hundred records a second, in the coordinates of the job. */
function measured(
  way: TrueWay,
  legs: TrueWay['legs'],
  errors: FlightErrors,
  random: () => number,
  seed: number,
): Trajectory {
  const [first, last] = [legs[0]!.start - 5, legs.at(-1)!.end + 5];
  const count = Math.floor((last - first) * TRAJECTORY_RATE) + 1;
  const columns = Array.from({ length: 7 }, () => new Float64Array(count));
  const accuracy = [0.01, 0.015, 0.00004, 0.0001].map((value) => new Float64Array(count).fill(value));
  const noise = (size = 0): number => (size === 0 ? 0 : size * normal(random));
  for (let i = 0; i < count; i++) {
    const time = first + i / TRAJECTORY_RATE;
    const { position, angles } = way.at(time);
    const leg = legs.findIndex(({ end }) => time <= end + TURN_SECONDS / 2);
    const bias = errors.stripHeights?.[leg < 0 ? legs.length - 1 : leg] ?? 0;
    const drift = (errors.heightDrift ?? 0) * 2 * (smoothNoise(time / 40 + seed, 77) - 0.5);
    const values = [
      time,
      position[0] + QUANTISATION.offset[0] + noise(errors.positionNoise),
      position[1] + QUANTISATION.offset[1] + noise(errors.positionNoise),
      position[2] - bias - drift + noise(errors.positionNoise),
      angles[0] + noise(errors.angleNoise),
      angles[1] + noise(errors.angleNoise),
      angles[2] + noise(errors.angleNoise),
    ];
    values.forEach((value, k) => (columns[k]![i] = value));
  }
  const [time, east, north, up, roll, pitch, heading] = columns as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  const [planAccuracy, heightAccuracy, tiltAccuracy, headingAccuracy] = accuracy as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  return { time, east, north, up, roll, pitch, heading, planAccuracy, heightAccuracy, tiltAccuracy, headingAccuracy };
}
