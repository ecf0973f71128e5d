import { toDegrees, type Trajectory } from '@pampero/core/strips';
import type { StripTimes } from './strip-site.js';

/** About how many points were measured within a span, from the counts of each second. */
export function pointsWithin(
  seconds: ReadonlyMap<number, StripTimes>,
  { from, to }: { from: number; to: number },
): number {
  let sum = 0;
  for (const second of seconds.values())
    if (second.to >= from && second.from <= to) {
      const inside = Math.min(second.to, to) - Math.max(second.from, from);
      sum += second.to > second.from ? (second.points * inside) / (second.to - second.from) : second.points;
    }
  return Math.round(sum);
}

/** The way flown in a span: its length, heading in degrees, speed, and height over the ground. */
export function alongTrajectory({ time, east, north, up }: Trajectory, from: number, to: number, ground: number) {
  let [first, last] = [-1, -1];
  for (let i = 0; i < time.length; i++) {
    if (time[i]! < from) continue;
    if (time[i]! > to) break;
    if (first < 0) first = i;
    last = i;
  }
  if (first < 0 || last <= first) return {};
  let [length, height] = [0, 0];
  for (let i = first; i <= last; i++) {
    height += up[i]!;
    if (i > first) length += Math.hypot(east[i]! - east[i - 1]!, north[i]! - north[i - 1]!);
  }
  const heading = toDegrees(Math.atan2(east[last]! - east[first]!, north[last]! - north[first]!));
  return {
    length,
    heading: (heading + 360) % 360,
    speed: length / (time[last]! - time[first]!),
    heightOverGround: height / (last - first + 1) - ground,
  };
}
