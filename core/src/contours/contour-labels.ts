import { pieceAt } from '../measuring/index.js';
import type { ContourSet } from './contour-set.js';

/** An elevation written on a contour. */
export interface ContourLabel {
  readonly line: number;
  readonly easting: number;
  readonly northing: number;
  readonly level: number;
  /** Of the text's direction from east, counter-clockwise, degrees in (−180, 180]. */
  readonly degrees: number;
  /** Stretch of the line that the label takes, from its start, job units. */
  readonly from: number;
  readonly to: number;
}

/** As many decimals as the interval has. */
export function decimalsOf(interval: number): number {
  for (let decimals = 0; decimals < 4; decimals++)
    if (Math.abs(interval - Number(interval.toFixed(decimals))) < 1e-9) return decimals;
  return 4;
}

export interface LabelOptions {
  /** Height of the text, job units. */
  readonly textHeight: number;
  /** Along a line, from one label to the next, job units. */
  readonly spacing: number;
  readonly decimals: number;
  /**
   * From below: never upside down, for people who read a plan from its foot. Uphill: their top points to the higher ground, as
   * contour plans are lettered by tradition (Imhof 1982, Cartographic Relief Presentation, chapter 6).
   */
  readonly reading: 'from-below' | 'uphill';
}

/** A character is so much wider than high, and has this much room either side, by its height. */
const WIDTH = 0.62;
const ROOM = 0.5;
/** How many places are tried about each, to find a straight piece. */
const TRIED = 9;

/**
 * Labels along the index lines, in the middle of straight pieces, a distance apart, none over another. The higher ground lies on the
 * right of each line, so text that runs against it reads uphill.
 */
export function contourLabels(
  set: ContourSet,
  { textHeight, spacing, decimals, reading }: LabelOptions,
): ContourLabel[] {
  const { level, isIndex, starts, easting, northing } = set;
  const out: ContourLabel[] = [];
  const taken = new Map<string, ContourLabel[]>();
  // A label and its neighbour, both of the longest elevation, lie in cells side by side.
  const longest = level.reduce((most, z) => Math.max(most, z.toFixed(decimals).length), 1);
  const cell = (longest * WIDTH + 2 * ROOM) * textHeight;
  for (let l = 0; l < level.length; l++) {
    if (isIndex[l] === 0) continue;
    const [from, to] = [starts[l]!, starts[l + 1]!];
    const along = new Float64Array(to - from);
    for (let v = from + 1; v < to; v++)
      along[v - from] =
        along[v - from - 1]! + Math.hypot(easting[v]! - easting[v - 1]!, northing[v]! - northing[v - 1]!);
    const length = along[to - from - 1]!;
    const half = ((level[l]!.toFixed(decimals).length * WIDTH) / 2 + ROOM) * textHeight;
    if (length < 5 * half) continue;
    const count = Math.max(1, Math.round(length / spacing));
    for (let k = 0; k < count; k++) {
      const ideal = ((k + 0.5) * length) / count;
      let best: ContourLabel | undefined;
      let straightest = 0.93;
      for (let t = 0; t < TRIED; t++) {
        const middle = ideal + (t - (TRIED - 1) / 2) * Math.min(2 * half, length / count / TRIED);
        if (middle - half < 0 || middle + half > length) continue;
        const [a, b] = [placeAt(middle - half), placeAt(middle + half)];
        const straight = Math.hypot(b[0] - a[0], b[1] - a[1]) / (2 * half);
        if (straight <= straightest) continue;
        const [e, n] = placeAt(middle);
        // The line runs with higher ground on its right; text that runs against it has its top there.
        const uphill = (Math.atan2(a[1] - b[1], a[0] - b[0]) * 180) / Math.PI;
        const degrees = reading === 'uphill' ? uphill : upright(uphill);
        const label = {
          line: l,
          easting: e,
          northing: n,
          level: level[l]!,
          degrees,
          from: middle - half,
          to: middle + half,
        };
        if (isFree(label, half)) [best, straightest] = [label, straight];
      }
      if (!best) continue;
      out.push(best);
      const key = `${Math.floor(best.easting / cell)} ${Math.floor(best.northing / cell)}`;
      taken.set(key, [...(taken.get(key) ?? []), best]);
    }

    function placeAt(distance: number): [number, number] {
      const low = pieceAt(along, distance);
      const share = (distance - along[low]!) / Math.max(1e-12, along[low + 1]! - along[low]!);
      const v = from + low;
      return [
        easting[v]! + share * (easting[v + 1]! - easting[v]!),
        northing[v]! + share * (northing[v + 1]! - northing[v]!),
      ];
    }
  }
  return out;

  function isFree({ easting: e, northing: n }: ContourLabel, half: number): boolean {
    const [c, r] = [Math.floor(e / cell), Math.floor(n / cell)];
    for (let dr = -1; dr <= 1; dr++)
      for (let dc = -1; dc <= 1; dc++)
        for (const other of taken.get(`${c + dc} ${r + dr}`) ?? [])
          if (Math.hypot(other.easting - e, other.northing - n) < 2 * half) return false;
    return true;
  }
}

/** The same direction or the opposite one, whichever is not upside down: in (−90, 90]. */
function upright(degrees: number): number {
  return degrees > 90 ? degrees - 180 : degrees <= -90 ? degrees + 180 : degrees;
}

/** Pieces of a line that its labels leave free: from vertex places along it. */
export function withoutLabels(
  { starts, easting, northing }: ContourSet,
  line: number,
  labels: readonly ContourLabel[],
): [number, number][][] {
  const own = labels.filter((label) => label.line === line).sort((a, b) => a.from - b.from);
  const [from, to] = [starts[line]!, starts[line + 1]!];
  const pieces: [number, number][][] = [[[easting[from]!, northing[from]!]]];
  let [along, next, isOff] = [0, 0, false];
  for (let v = from + 1; v < to; v++) {
    const [ae, an] = [easting[v - 1]!, northing[v - 1]!];
    const step = Math.hypot(easting[v]! - ae, northing[v]! - an);
    const at = (distance: number): [number, number] => {
      const share = step > 0 ? (distance - along) / step : 0;
      return [ae + share * (easting[v]! - ae), an + share * (northing[v]! - an)];
    };
    for (;;) {
      const label = own[next];
      const edge = label && (isOff ? label.to : label.from);
      if (edge === undefined || edge > along + step) break;
      if (isOff) {
        pieces.push([at(edge)]);
        next++;
      } else pieces.at(-1)!.push(at(edge));
      isOff = !isOff;
    }
    if (!isOff) pieces.at(-1)!.push([easting[v]!, northing[v]!]);
    along += step;
  }
  return pieces.filter((piece) => piece.length > 1);
}

/** Ticks that point downhill from the lines of depressions, a distance apart along the line: on it, and beside it. */
export function depressionTicks(
  set: ContourSet,
  length: number,
  apart: number,
): [ae: number, an: number, be: number, bn: number, level: number][] {
  const { level, isDepression, starts, easting, northing } = set;
  const out: [number, number, number, number, number][] = [];
  for (let l = 0; l < level.length; l++) {
    if (isDepression[l] === 0) continue;
    let next = apart / 2;
    let along = 0;
    for (let v = starts[l]! + 1; v < starts[l + 1]!; v++) {
      const [ae, an] = [easting[v - 1]!, northing[v - 1]!];
      const [de, dn] = [easting[v]! - ae, northing[v]! - an];
      const step = Math.hypot(de, dn);
      for (; next <= along + step && step > 0; next += apart) {
        const share = (next - along) / step;
        const [e, n] = [ae + share * de, an + share * dn];
        // Lower ground lies on the left.
        out.push([e, n, e - (dn / step) * length, n + (de / step) * length, level[l]!]);
      }
      along += step;
    }
  }
  return out;
}
