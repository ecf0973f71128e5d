import { rotateBy } from './attitude.js';
import { POSE_LENGTH, type PoseFinder } from './trajectory.js';

type Three = [number, number, number];

/** What one strip is corrected by. */
export interface StripPart {
  /** East, north, up, job units. */
  shift: Three;
  /** Rotation of the body about forward, right, down, radians. */
  tilt: Three;
  /** Shift at the end of the strip over that at its middle; the other way at its start. */
  drift: Three;
}

/** A smooth correction in time: values at equal steps, cubic B-splines between. */
export interface TimeSpline {
  readonly start: number;
  readonly step: number;
  /** Values of each list that is not empty. */
  readonly count: number;
  /** East, north, up in job units, then rotations of the body in radians; a list of none is not corrected. */
  readonly values: readonly [number[], number[], number[], number[], number[], number[]];
}

/** Everything that is done to the points of a flight. Lengths in job units, angles in radians. */
export interface Correction {
  /** Of the scanner from the trajectory's point as the points were made: forward, right, down. */
  readonly leverArm: Three;
  boresight: Three;
  leverArmChange: Three;
  rangeOffset: number;
  rangeScale: number;
  /** Share by which scan angles are too small. */
  angleScale: number;
  /** By the strips' places in their list. */
  readonly strips: StripPart[];
  /** First and last time of each strip, for drifts. */
  readonly spans: readonly { readonly from: number; readonly to: number }[];
  spline: TimeSpline | undefined;
}

export function noCorrection(
  spans: readonly { readonly from: number; readonly to: number }[],
  leverArm: Three = [0, 0, 0],
): Correction {
  return {
    leverArm,
    boresight: [0, 0, 0],
    leverArmChange: [0, 0, 0],
    rangeOffset: 0,
    rangeScale: 0,
    angleScale: 0,
    strips: spans.map(() => ({ shift: [0, 0, 0], tilt: [0, 0, 0], drift: [0, 0, 0] })),
    spans,
    spline: undefined,
  };
}

/** Whether anything of it turns or stretches beams, so that it needs the trajectory. */
export function needsTrajectory(c: Correction): boolean {
  return (
    [...c.boresight, ...c.leverArmChange, c.rangeOffset, c.rangeScale, c.angleScale].some((value) => value !== 0) ||
    c.strips.some(({ tilt }) => tilt.some((value) => value !== 0)) ||
    c.spline !== undefined
  );
}

/** The four weights of a cubic B-spline at a share of its interval (de Boor 1978). */
export function splineWeights(share: number, out: Float64Array): void {
  const s = share;
  const q = 1 - s;
  out[0] = (q * q * q) / 6;
  out[1] = (3 * s * s * s - 6 * s * s + 4) / 6;
  out[2] = (-3 * s * s * s + 3 * s * s + 3 * s + 1) / 6;
  out[3] = (s * s * s) / 6;
}

/** Where a time lies in its strip: -1 at the start, 0 in the middle, 1 at the end. */
export function stationOf({ from, to }: { readonly from: number; readonly to: number }, time: number): number {
  return to > from ? (2 * time - from - to) / (to - from) : 0;
}

/** The beam of a point in the body, and what becomes of it: kept between calls, for the derivatives. */
export class Corrector {
  readonly pose = new Float64Array(POSE_LENGTH);
  /** The corrected beam, body axes, without the lever arm. */
  readonly beam = new Float64Array(3);
  /** Scan angle of the beam before. */
  angle = 0;
  /** East, north, up of the corrected point. */
  readonly point = new Float64Array(3);
  private readonly weights = new Float64Array(4);
  private readonly smooth = new Float64Array(6);

  constructor(
    private readonly correction: Correction,
    private readonly finder: PoseFinder | undefined,
  ) {}

  /** Corrects one point into {@link point}; false where the trajectory is needed and does not cover its time. */
  correct(east: number, north: number, up: number, time: number, strip: number): boolean {
    const { correction: c, finder, pose, beam, point } = this;
    const part = c.strips[strip];
    point[0] = east;
    point[1] = north;
    point[2] = up;
    if (finder) {
      if (!finder.at(time, pose)) return false;
      const dx = east - pose[0]!;
      const dy = north - pose[1]!;
      const dz = up - pose[2]!;
      const [ax, ay, az] = c.leverArm;
      let bx = pose[3]! * dx + pose[6]! * dy + pose[9]! * dz - ax;
      let by = pose[4]! * dx + pose[7]! * dy + pose[10]! * dz - ay;
      let bz = pose[5]! * dx + pose[8]! * dy + pose[11]! * dz - az;
      const range = Math.sqrt(bx * bx + by * by + bz * bz) || 1;
      const stretch = 1 + c.rangeScale + c.rangeOffset / range;
      bx *= stretch;
      by *= stretch;
      bz *= stretch;
      this.angle = Math.atan2(by, bz);
      if (c.angleScale !== 0) {
        const across = Math.sqrt(by * by + bz * bz);
        const angle = this.angle * (1 + c.angleScale);
        by = across * Math.sin(angle);
        bz = across * Math.cos(angle);
      }
      beam[0] = bx;
      beam[1] = by;
      beam[2] = bz;
      smoothAt(c, time, this.weights, this.smooth);
      const s = this.smooth;
      const tilt = part?.tilt;
      rotateBy(
        c.boresight[0] + (tilt ? tilt[0] : 0) + s[3]!,
        c.boresight[1] + (tilt ? tilt[1] : 0) + s[4]!,
        c.boresight[2] + (tilt ? tilt[2] : 0) + s[5]!,
        beam,
        beam,
      );
      const x = beam[0] + ax + c.leverArmChange[0];
      const y = beam[1] + ay + c.leverArmChange[1];
      const z = beam[2] + az + c.leverArmChange[2];
      point[0] = pose[0]! + pose[3]! * x + pose[4]! * y + pose[5]! * z + s[0]!;
      point[1] = pose[1]! + pose[6]! * x + pose[7]! * y + pose[8]! * z + s[1]!;
      point[2] = pose[2]! + pose[9]! * x + pose[10]! * y + pose[11]! * z + s[2]!;
    }
    if (part) {
      const station = stationOf(c.spans[strip]!, time);
      point[0] = point[0]! + part.shift[0] + part.drift[0] * station;
      point[1] = point[1]! + part.shift[1] + part.drift[1] * station;
      point[2] = point[2]! + part.shift[2] + part.drift[2] * station;
    }
    return true;
  }

  /** First of the four spline values that a time hangs on, and their weights; -1 where there is no spline. */
  splineAt(time: number, weights: Float64Array): number {
    return splineAt(this.correction, time, weights);
  }
}

function splineAt({ spline }: Correction, time: number, weights: Float64Array): number {
  if (!spline) return -1;
  const at = (time - spline.start) / spline.step;
  const first = Math.max(0, Math.min(spline.count - 4, Math.floor(at)));
  splineWeights(Math.max(0, Math.min(1, at - first)), weights);
  return first;
}

/** Writes what the correction in time is at a time into `out`, its six values; nothing where there is none. @param weights - room for four */
export function smoothAt(correction: Correction, time: number, weights: Float64Array, out: Float64Array): void {
  const first = splineAt(correction, time, weights);
  if (first < 0) return;
  const { values } = correction.spline!;
  for (let axis = 0; axis < 6; axis++) {
    const list = values[axis]!;
    if (list.length === 0) continue;
    let sum = 0;
    for (let k = 0; k < 4; k++) sum += weights[k]! * list[first + k]!;
    out[axis] = sum;
  }
}
