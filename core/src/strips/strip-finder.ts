import { wrapAngle } from './attitude.js';
import type { Trajectory } from './trajectory.js';

/** A stretch of flight whose points belong together. */
export interface StripSpan {
  readonly number: number;
  readonly from: number;
  readonly to: number;
}

/** How the points of a cloud are told apart by strip. */
export type StripRule =
  /** By the point source ID: the strip of each id of the list. */
  | { readonly by: 'source'; readonly ids: readonly number[]; readonly strip: readonly number[] }
  /** By time: the strip of a time is the place of the span it lies in, spans in the order of their times. */
  | { readonly by: 'time'; readonly from: Float64Array; readonly to: Float64Array; readonly strip: Uint16Array };

/** Of points that belong to no strip. */
export const NO_STRIP = 0xffff;

/** The strip of each point, as its place in the rule's list. */
export function stripsOfPoints(
  rule: StripRule,
  { pointSourceId, gpsTime }: { readonly pointSourceId: Uint16Array; readonly gpsTime?: Float64Array | undefined },
): Uint16Array {
  const out = new Uint16Array(pointSourceId.length).fill(NO_STRIP);
  if (rule.by === 'source') {
    const table = new Uint16Array(65_536).fill(NO_STRIP);
    rule.ids.forEach((id, k) => (table[id] = rule.strip[k]!));
    for (let i = 0; i < out.length; i++) out[i] = table[pointSourceId[i]!]!;
    return out;
  }
  if (!gpsTime) return out;
  spansAt(rule, gpsTime, (i, span) => (out[i] = rule.strip[span]!));
  return out;
}

/** Tells of each time that lies in one of some spans, ends within, in which. @param from - rising, likewise `to`; spans do not overlap */
export function spansAt(
  { from, to }: { readonly from: ArrayLike<number>; readonly to: ArrayLike<number> },
  times: Float64Array,
  tell: (i: number, span: number) => void,
): void {
  if (from.length === 0) return;
  let last = 0;
  for (let i = 0; i < times.length; i++) {
    const time = times[i]!;
    // Points beside one another are mostly of one strip.
    if (!(time >= from[last]! && time <= to[last]!)) {
      let [low, high] = [0, from.length - 1];
      while (low < high) {
        const middle = (low + high + 1) >> 1;
        if (from[middle]! <= time) low = middle;
        else high = middle - 1;
      }
      last = low;
    }
    if (time >= from[last]! && time <= to[last]!) tell(i, last);
  }
}

export interface StraightRunSettings {
  /** Degrees a second that a straight run turns at most. */
  readonly turnRate: number;
  /** Seconds that a run lasts at least. */
  readonly shortest: number;
  /** Radians that the course may leave that of the run. */
  readonly wander: number;
  /** Climb, height over way, at most. */
  readonly climb: number;
}

export const STRAIGHT_RUNS: StraightRunSettings = { turnRate: 2.5, shortest: 4, wander: 0.2, climb: 0.15 };

/**
 * Straight runs of a flight: turns, ascents and pieces too short are cut off. The course is that over a second, so that the noise of a fast
 * trajectory does not break runs up.
 */
export function straightRuns(trajectory: Trajectory, settings: StraightRunSettings = STRAIGHT_RUNS): StripSpan[] {
  const { time, east, north, up } = trajectory;
  const count = time.length;
  const runs: StripSpan[] = [];
  let begin = -1;
  let [courseSum, courseCount, courseFirst] = [0, 0, 0];
  const close = (end: number): void => {
    if (begin >= 0 && time[end]! - time[begin]! >= settings.shortest)
      runs.push({ number: runs.length + 1, from: time[begin]!, to: time[end]! });
    begin = -1;
  };
  let ahead = 0;
  let behind = 0;
  const gap = Math.max(0.5, ((time[count - 1]! - time[0]!) / count) * 20);
  for (let i = 0; i < count; i++) {
    while (ahead < count - 1 && time[ahead]! < time[i]! + 0.5) ahead++;
    while (time[behind]! < time[i]! - 0.5) behind++;
    const way = Math.hypot(east[ahead]! - east[behind]!, north[ahead]! - north[behind]!);
    const seconds = time[ahead]! - time[behind]!;
    const course = Math.atan2(east[ahead]! - east[behind]!, north[ahead]! - north[behind]!);
    const isGap = i > 0 && time[i]! - time[i - 1]! > gap;
    const moves = way > 0.3 * Math.max(seconds, 1e-3);
    const climbs = Math.abs(up[ahead]! - up[behind]!) > settings.climb * way;
    // Half a second back against half a second ahead: from record to record the noise of a fast trajectory would turn it about.
    const [back, forth] = [
      Math.atan2(east[i]! - east[behind]!, north[i]! - north[behind]!),
      Math.atan2(east[ahead]! - east[i]!, north[ahead]! - north[i]!),
    ];
    const turn = behind === i || ahead === i ? 0 : wrapAngle(forth - back) / (seconds / 2);
    const isStraight = moves && !climbs && Math.abs(turn) <= (settings.turnRate * Math.PI) / 180;
    const mean = courseCount > 0 ? courseFirst + courseSum / courseCount : course;
    if (begin >= 0 && (isGap || !isStraight || Math.abs(wrapAngle(course - mean)) > settings.wander)) {
      close(i - 1);
      [courseSum, courseCount] = [0, 0];
    }
    if (!isStraight) continue;
    if (begin < 0) {
      begin = i;
      [courseSum, courseCount, courseFirst] = [0, 0, course];
    }
    courseSum += wrapAngle(course - courseFirst);
    courseCount++;
  }
  close(count - 1);
  return runs;
}

/** Spans of time with points in them, where nothing was measured for `gap` seconds between. */
export function spansByGaps(occupied: Iterable<readonly [from: number, to: number]>, gap: number): StripSpan[] {
  const pieces = [...occupied].sort((a, b) => a[0] - b[0]);
  const spans: { number: number; from: number; to: number }[] = [];
  for (const [from, to] of pieces) {
    const last = spans.at(-1);
    if (last && from - last.to <= gap) last.to = Math.max(last.to, to);
    else spans.push({ number: spans.length + 1, from, to });
  }
  return spans;
}
