import { bodyToLocal, rotateBy } from './attitude.js';
import { splineWeights, stationOf, type Correction } from './correction.js';
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
  for (let i = 0; i < count; i++) {
    const at = time[i]!;
    const strip = nearestStrip(correction, at);
    const part = correction.strips[strip];
    const smooth = smoothAt(correction, at);
    if (part) {
      const station = Math.max(-1, Math.min(1, stationOf(correction.spans[strip]!, at)));
      out.east[i] = east[i]! + part.shift[0] + part.drift[0] * station + smooth[0]!;
      out.north[i] = north[i]! + part.shift[1] + part.drift[1] * station + smooth[1]!;
      out.up[i] = up[i]! + part.shift[2] + part.drift[2] * station + smooth[2]!;
    } else {
      out.east[i] = east[i]! + smooth[0]!;
      out.north[i] = north[i]! + smooth[1]!;
      out.up[i] = up[i]! + smooth[2]!;
    }
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

function smoothAt({ spline }: Correction, time: number): number[] {
  const out = [0, 0, 0, 0, 0, 0];
  if (!spline) return out;
  const weights = new Float64Array(4);
  const at = (time - spline.start) / spline.step;
  const first = Math.max(0, Math.min(spline.count - 4, Math.floor(at)));
  splineWeights(Math.max(0, Math.min(1, at - first)), weights);
  spline.values.forEach((list, axis) => {
    if (list.length > 0) for (let k = 0; k < 4; k++) out[axis] = out[axis]! + weights[k]! * list[first + k]!;
  });
  return out;
}
