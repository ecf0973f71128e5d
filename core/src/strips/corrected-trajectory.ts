import { bodyToLocal, rotateBy } from './attitude.js';
import { smoothAt, stationOf, type Correction } from './correction.js';
import type { Trajectory } from './trajectory.js';

/**
 * The trajectory with what an adjustment found of it: shifts, drifts and tilts of strips, and corrections in time. What belongs to the scanner
 * (boresight, ranges, angles) is not in it, and what moves the lever arm neither: those go into the sensor. Before the first strip, after the
 * last and between two, that of the nearest in time holds. Georeferenced anew by it, points lie where the adjustment puts them, but for the lever
 * arm turned by a tilt: a few tenths of a millimetre.
 */
export function correctedTrajectory(given: Trajectory, correction: Correction): Trajectory {
  const { time, east, north, up } = given;
  const count = time.length;
  const out = {
    ...given,
    east: new Float64Array(east),
    north: new Float64Array(north),
    up: new Float64Array(up),
    roll: new Float64Array(count),
    pitch: new Float64Array(count),
    heading: new Float64Array(count),
  };
  const pose = new Float64Array(9);
  const axis = new Float64Array(3);
  const [weights, smooth] = [new Float64Array(4), new Float64Array(6)];
  for (let i = 0; i < count; i++) {
    const at = time[i]!;
    const strip = nearestStrip(correction, at);
    const part = correction.strips[strip];
    smoothAt(correction, at, weights, smooth);
    const station = part ? Math.max(-1, Math.min(1, stationOf(correction.spans[strip]!, at))) : 0;
    const shift = (axis: 0 | 1 | 2): number =>
      (part ? part.shift[axis] + part.drift[axis] * station : 0) + smooth[axis]!;
    out.east[i] = east[i]! + shift(0);
    out.north[i] = north[i]! + shift(1);
    out.up[i] = up[i]! + shift(2);
    const [wx, wy, wz] = [0, 1, 2].map((k) => (part ? part.tilt[k]! : 0) + smooth[3 + k]!) as [number, number, number];
    bodyToLocal(given.roll[i]!, given.pitch[i]!, given.heading[i]!, pose);
    // R Rot(w): the columns are what the turned axes of the body become. Forward and right tell all three angles.
    const column = (x: number, y: number, z: number): [number, number, number] => {
      rotateBy(wx, wy, wz, [x, y, z], axis);
      return [0, 3, 6].map((row) => pose[row]! * axis[0]! + pose[row + 1]! * axis[1]! + pose[row + 2]! * axis[2]!) as [
        number,
        number,
        number,
      ];
    };
    const [fe, fn, fu] = column(1, 0, 0);
    const [, , ru] = column(0, 1, 0);
    const [, , du] = column(0, 0, 1);
    out.pitch[i] = Math.asin(Math.max(-1, Math.min(1, fu)));
    out.roll[i] = Math.atan2(-ru, -du);
    out.heading[i] = Math.atan2(fe, fn);
  }
  return out;
}

function nearestStrip({ spans }: Correction, time: number): number {
  let [nearest, least] = [-1, Infinity];
  for (let k = 0; k < spans.length; k++) {
    const { from, to } = spans[k]!;
    const away = Math.max(from - time, time - to, 0);
    if (away < least) [nearest, least] = [k, away];
  }
  return nearest;
}
