import { ascending, columnFrom } from '../columns/index.js';
import { PamperoError } from '../task/index.js';
import { bodyToLocal, wrapAngle } from './attitude.js';

/** Where the platform was and how it lay, record by record: times strictly upwards, positions in job units, angles in radians. */
export interface Trajectory {
  readonly time: Float64Array;
  readonly east: Float64Array;
  readonly north: Float64Array;
  readonly up: Float64Array;
  /** See `attitude.ts` for the signs. */
  readonly roll: Float64Array;
  readonly pitch: Float64Array;
  /** Clockwise from grid north. */
  readonly heading: Float64Array;
  /** Standard deviations where the source gives them: plan and height in job units, roll and pitch together and heading in radians. */
  readonly planAccuracy?: Float64Array;
  readonly heightAccuracy?: Float64Array;
  readonly tiltAccuracy?: Float64Array;
  readonly headingAccuracy?: Float64Array;
}

export const TRAJECTORY_COLUMNS = ['time', 'east', 'north', 'up', 'roll', 'pitch', 'heading'] as const;
export const ACCURACY_COLUMNS = ['planAccuracy', 'heightAccuracy', 'tiltAccuracy', 'headingAccuracy'] as const;

/** Between records further apart than so many times the usual step the platform's way is not known. */
const GAP_STEPS = 20;
const LEAST_GAP = 0.5;

/** A place on the trajectory: position, then the rotation from the body to east, north, up, row by row. */
export const POSE_LENGTH = 12;

/**
 * Finds where the platform was at a time: positions and angles linear between records. Times are found through a table, so that a
 * question costs the same whatever the length of the flight.
 */
export class PoseFinder {
  /** First record of each slice of time. */
  private readonly first: Int32Array;
  private readonly slice: number;
  readonly start: number;
  readonly end: number;
  /** Seconds between records beyond which nothing is said. */
  readonly longestStep: number;

  constructor(readonly trajectory: Trajectory) {
    const { time } = trajectory;
    const count = time.length;
    if (count < 2)
      throw new PamperoError('trajectory-short', {
        what: `The trajectory has ${count} record${count === 1 ? '' : 's'}; two are the least.`,
        fix: 'Give the trajectory of the whole flight.',
      });
    this.start = time[0]!;
    this.end = time[count - 1]!;
    this.longestStep = Math.max(LEAST_GAP, GAP_STEPS * medianStep(time));
    this.slice = (this.end - this.start) / count;
    this.first = new Int32Array(count + 1);
    for (let k = 0, i = 0; k <= count; k++) {
      while (i < count - 2 && time[i + 1]! <= this.start + k * this.slice) i++;
      this.first[k] = i;
    }
  }

  /** The record that a time follows, or -1 outside of the flight and in its gaps. */
  recordBefore(time: number): number {
    const times = this.trajectory.time;
    if (!(time >= this.start && time <= this.end)) return -1;
    let i = this.first[Math.min(this.first.length - 1, Math.floor((time - this.start) / this.slice))]!;
    while (times[i]! > time) i--;
    while (i < times.length - 2 && times[i + 1]! <= time) i++;
    return times[i + 1]! - times[i]! > this.longestStep ? -1 : i;
  }

  /** Writes the pose at a time into `out`; false where it is not known. */
  at(time: number, out: Float64Array): boolean {
    const i = this.recordBefore(time);
    if (i < 0) return false;
    const { time: times, east, north, up, roll, pitch, heading } = this.trajectory;
    const share = (time - times[i]!) / (times[i + 1]! - times[i]!);
    out[0] = east[i]! + share * (east[i + 1]! - east[i]!);
    out[1] = north[i]! + share * (north[i + 1]! - north[i]!);
    out[2] = up[i]! + share * (up[i + 1]! - up[i]!);
    bodyToLocal(
      roll[i]! + share * wrapAngle(roll[i + 1]! - roll[i]!),
      pitch[i]! + share * wrapAngle(pitch[i + 1]! - pitch[i]!),
      heading[i]! + share * wrapAngle(heading[i + 1]! - heading[i]!),
      out,
      3,
    );
    return true;
  }
}

/** The usual step between records. */
export function medianStep(time: Float64Array): number {
  if (time.length < 2) return 0;
  // A sample tells the usual step of a long flight as well.
  const stride = Math.max(1, Math.floor(time.length / 20_000));
  const steps = new Float64Array(Math.floor((time.length - 2) / stride) + 1);
  for (let k = 0; k < steps.length; k++) steps[k] = time[k * stride + 1]! - time[k * stride]!;
  return steps.sort()[steps.length >> 1]!;
}

/**
 * Puts records in the order of their times. Records of the same time that say the same are one.
 * @throws PamperoError `trajectory-times` where two records of one time say different things, or a time is no number
 */
export function orderedTrajectory(given: Trajectory): Trajectory {
  const { time } = given;
  const columns = [...TRAJECTORY_COLUMNS, ...ACCURACY_COLUMNS].filter((name) => given[name] !== undefined);
  for (let i = 0; i < time.length; i++)
    for (const name of columns)
      if (!Number.isFinite(given[name]![i]!))
        throw new PamperoError('trajectory-number', {
          what: `The ${name} of record ${i + 1} is no number.`,
          fix: 'Check which column is which, and remove lines that are no records.',
        });
  const order = ascending(time.length).sort((a, b) => time[a]! - time[b]! || a - b);
  const kept: number[] = [];
  for (const i of order) {
    const last = kept.at(-1);
    if (last !== undefined && time[last] === time[i]) {
      const apart = Math.hypot(
        given.east[i]! - given.east[last]!,
        given.north[i]! - given.north[last]!,
        given.up[i]! - given.up[last]!,
      );
      if (apart > 1e-3)
        throw new PamperoError('trajectory-times', {
          what: `Records ${Math.min(i, last) + 1} and ${Math.max(i, last) + 1} have the same time, ${time[i]!.toFixed(3)} s, and lie ${apart.toFixed(3)} apart.`,
          fix: 'Write the trajectory with more decimals of time, or leave one of two joined files out.',
        });
      continue;
    }
    kept.push(i);
  }
  const rows = Uint32Array.from(kept);
  return Object.fromEntries(
    columns.map((name) => [name, columnFrom(Float64Array, rows, (row) => given[name]![row]!)]),
  ) as unknown as Trajectory;
}
