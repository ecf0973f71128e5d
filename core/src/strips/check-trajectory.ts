import { medianStep, type Trajectory } from './trajectory.js';

/** What is to be known of a trajectory before it is trusted. */
export interface TrajectoryCheck {
  readonly records: number;
  readonly start: number;
  readonly end: number;
  /** Records a second. */
  readonly rate: number;
  /** Metres or feet flown. */
  readonly length: number;
  readonly medianSpeed: number;
  readonly gaps: readonly { readonly from: number; readonly to: number }[];
  /** Times at which the platform leapt: further than any speed it flew. */
  readonly jumps: readonly number[];
  readonly largestTilt: number;
  readonly lowest: number;
  readonly highest: number;
}

/** Longer than so many usual steps between records is a gap. */
const GAP_STEPS = 5;
/** A speed so many times the fastest usual one is a leap. */
const LEAP = 4;

export function checkTrajectory({ time, east, north, up, roll, pitch }: Trajectory): TrajectoryCheck {
  const count = time.length;
  const step = medianStep(time);
  const speeds = new Float64Array(Math.max(0, count - 1));
  const gaps: { from: number; to: number }[] = [];
  let length = 0;
  for (let i = 0; i + 1 < count; i++) {
    const apart = time[i + 1]! - time[i]!;
    const way = Math.hypot(east[i + 1]! - east[i]!, north[i + 1]! - north[i]!, up[i + 1]! - up[i]!);
    length += way;
    speeds[i] = way / apart;
    if (apart > GAP_STEPS * step) gaps.push({ from: time[i]!, to: time[i + 1]! });
  }
  const sorted = Float64Array.from(speeds).sort();
  const fast = sorted[Math.floor(0.95 * (sorted.length - 1))] ?? 0;
  const jumps: number[] = [];
  for (let i = 0; i < speeds.length; i++) if (speeds[i]! > LEAP * Math.max(fast, 1)) jumps.push(time[i + 1]!);
  let [largestTilt, lowest, highest] = [0, Infinity, -Infinity];
  for (let i = 0; i < count; i++) {
    largestTilt = Math.max(largestTilt, Math.abs(roll[i]!), Math.abs(pitch[i]!));
    lowest = Math.min(lowest, up[i]!);
    highest = Math.max(highest, up[i]!);
  }
  return {
    records: count,
    start: time[0] ?? 0,
    end: time[count - 1] ?? 0,
    rate: step > 0 ? 1 / step : 0,
    length,
    medianSpeed: sorted[sorted.length >> 1] ?? 0,
    gaps,
    jumps,
    largestTilt,
    lowest,
    highest,
  };
}

/** Seconds of a GPS week: a time above it is no time of a week. */
export const WEEK_SECONDS = 604_800;
/** Adjusted standard GPS time is standard time less a thousand million seconds (LAS 1.4 R15, global encoding). */
export const ADJUSTED = 1e9;

/** What times are counted from: seconds of a GPS week, adjusted standard GPS time, or standard GPS time (LAS 1.4 R15, 2.4). */
export type Clock = 'week' | 'adjusted' | 'standard';

/** Which clock a time is of, told by its size. */
export function clockOf(time: number): Clock {
  if (time >= 0 && time <= 2 * WEEK_SECONDS) return 'week';
  return time > 9e8 && time < 3e9 ? 'standard' : 'adjusted';
}

/** Seconds to add to times of the one clock to get those of the other; undefined where the week is needed and not known. */
export function clockShift(from: Clock, to: Clock, week: number | undefined): number | undefined {
  const standard = { week: week === undefined ? undefined : week * WEEK_SECONDS, adjusted: ADJUSTED, standard: 0 };
  if (from === to) return 0;
  const [a, b] = [standard[from], standard[to]];
  return a === undefined || b === undefined ? undefined : a - b;
}
