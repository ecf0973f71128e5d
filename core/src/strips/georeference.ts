import { bodyToLocal, rotateBy } from './attitude.js';
import { POSE_LENGTH, type PoseFinder } from './trajectory.js';

/** How a scanner sits on its platform and what it measures by. Lengths in job units, angles in radians. */
export interface Sensor {
  /** From the trajectory's point to the scanner's, body axes: forward, right, down. */
  readonly leverArm: readonly [number, number, number];
  /** How the scanner is turned on its mount, roll, pitch, heading: known from the drawing, large if need be. */
  readonly mounting: readonly [number, number, number];
  /** What is left of that: small, found by calibration. */
  readonly boresight: readonly [number, number, number];
  readonly rangeOffset: number;
  readonly rangeScale: number;
  /** Share by which scan angles are too small. */
  readonly angleScale?: number;
  /** Standard deviation of a range. */
  readonly rangeNoise: number;
  /** Full angle of the beam. */
  readonly beamDivergence: number;
}

export const PLAIN_SENSOR: Sensor = {
  leverArm: [0, 0, 0],
  mounting: [0, 0, 0],
  boresight: [0, 0, 0],
  rangeOffset: 0,
  rangeScale: 0,
  rangeNoise: 0.02,
  beamDivergence: 0.0005,
};

/** What a scanner measured, beam by beam: angles in radians, across positive to the right, along positive forward. */
export interface RawScan {
  readonly count: number;
  readonly time: Float64Array;
  readonly range: Float64Array;
  readonly across: Float64Array;
  readonly along?: Float64Array | undefined;
}

/** What is left out on the way. */
export interface ScanLimits {
  readonly shortest: number;
  readonly longest: number;
  /** Radians off the middle of the field of view. */
  readonly widest: number;
  readonly from: number;
  readonly to: number;
}

export interface GeoreferencedPoints {
  /** Places of the beams that gave a point. */
  readonly beams: Uint32Array;
  readonly east: Float64Array;
  readonly north: Float64Array;
  readonly up: Float64Array;
  /** Standard deviation of the height and of the place in plan, from what the trajectory and the sensor say of themselves. */
  readonly heightAccuracy: Float32Array;
  readonly planAccuracy: Float32Array;
  /** Beams without a trajectory, and those the limits left out. */
  readonly withoutPose: number;
  readonly outside: number;
}

/**
 * Direct georeferencing: X = T + R (B M r d + a), with the position T and attitude R of the trajectory at the time of the beam, mounting M,
 * boresight B, lever arm a, range r and direction d (Skaloud and Lichti 2006, ISPRS Journal 61(1), equation 1). The accuracy of each point
 * is carried through the same equation: position, attitude times range, range noise and the width of the beam.
 */
export function georeference(
  scan: RawScan,
  finder: PoseFinder,
  sensor: Sensor,
  limits: ScanLimits,
): GeoreferencedPoints {
  const { count, time, range, across, along } = scan;
  const { leverArm, rangeOffset, rangeScale, angleScale = 0 } = sensor;
  const mount = mountingMatrix(sensor);
  const beams = new Uint32Array(count);
  const [east, north, up] = [new Float64Array(count), new Float64Array(count), new Float64Array(count)];
  const [heightAccuracy, planAccuracy] = [new Float32Array(count), new Float32Array(count)];
  const { planAccuracy: sp, heightAccuracy: sh, tiltAccuracy: st, headingAccuracy: sk } = finder.trajectory;
  const pose = new Float64Array(POSE_LENGTH);
  let [kept, withoutPose, outside] = [0, 0, 0];
  for (let i = 0; i < count; i++) {
    const r = range[i]!;
    const theta = across[i]! * (1 + angleScale);
    const t = time[i]!;
    if (!(
      r >= limits.shortest &&
      r <= limits.longest &&
      Math.abs(theta) <= limits.widest &&
      t >= limits.from &&
      t <= limits.to
    )) {
      outside++;
      continue;
    }
    if (!finder.at(t, pose)) {
      withoutPose++;
      continue;
    }
    const psi = along ? along[i]! : 0;
    const cosine = Math.cos(psi);
    const [dx, dy, dz] = [Math.sin(psi), cosine * Math.sin(theta), cosine * Math.cos(theta)];
    const length = r * (1 + rangeScale) + rangeOffset;
    const bx = length * (mount[0]! * dx + mount[1]! * dy + mount[2]! * dz) + leverArm[0];
    const by = length * (mount[3]! * dx + mount[4]! * dy + mount[5]! * dz) + leverArm[1];
    const bz = length * (mount[6]! * dx + mount[7]! * dy + mount[8]! * dz) + leverArm[2];
    const e = pose[3]! * bx + pose[4]! * by + pose[5]! * bz;
    const n = pose[6]! * bx + pose[7]! * by + pose[8]! * bz;
    const u = pose[9]! * bx + pose[10]! * by + pose[11]! * bz;
    beams[kept] = i;
    east[kept] = pose[0]! + e;
    north[kept] = pose[1]! + n;
    up[kept] = pose[2]! + u;
    const k = sp || sh || st || sk ? finder.recordBefore(t) : 0;
    const flat = Math.hypot(e, n);
    const tilt = st ? st[k]! : 0;
    // Half of the beam's width is about two standard deviations of where in it the return came from.
    const attitude = Math.hypot(tilt, sensor.beamDivergence / 4);
    const full = Math.hypot(flat, u) || 1;
    heightAccuracy[kept] = Math.hypot(sh ? sh[k]! : 0, attitude * flat, (sensor.rangeNoise * u) / full);
    planAccuracy[kept] = Math.hypot(
      sp ? sp[k]! : 0,
      attitude * Math.abs(u),
      (sk ? sk[k]! : 0) * flat,
      (sensor.rangeNoise * flat) / full,
    );
    kept++;
  }
  return {
    beams: beams.slice(0, kept),
    east: east.slice(0, kept),
    north: north.slice(0, kept),
    up: up.slice(0, kept),
    heightAccuracy: heightAccuracy.slice(0, kept),
    planAccuracy: planAccuracy.slice(0, kept),
    withoutPose,
    outside,
  };
}

/** From the scanner's axes to the body's: mounting first, then boresight; row by row. */
export function mountingMatrix({ mounting, boresight }: Pick<Sensor, 'mounting' | 'boresight'>): Float64Array {
  const local = new Float64Array(9);
  bodyToLocal(...mounting, local);
  // Of east, north, up the body's forward, right, down: as north, east, down.
  const turned = [local.subarray(3, 6), local.subarray(0, 3), local.subarray(6, 9).map((value) => -value)];
  const out = new Float64Array(9);
  const column = new Float64Array(3);
  for (let c = 0; c < 3; c++) {
    rotateBy(...boresight, [turned[0]![c]!, turned[1]![c]!, turned[2]![c]!], column);
    for (let r = 0; r < 3; r++) out[3 * r + c] = column[r]!;
  }
  return out;
}
