import { columnFrom } from '../columns/index.js';
import type { ComplexSquare } from './spectrum.js';

/**
 * The edges of a raster as complex numbers: their strength, compressed, and twice their direction, so that dark beside light is the same
 * edge as light beside dark (after Fitch et al. 2002, orientation correlation, BMVC). A raster of heights and a picture have
 * their edges in common, not their values. Nothing where a neighbour has no value.
 */
export function edgeField(values: Float32Array, columns: number, rows: number): ComplexSquare {
  const out = new Float64Array(2 * columns * rows);
  const strengths: number[] = [];
  for (let row = 1; row + 1 < rows; row++)
    for (let column = 1; column + 1 < columns; column++) {
      const at = row * columns + column;
      const gx = (values[at + 1]! - values[at - 1]!) / 2;
      const gy = (values[at + columns]! - values[at - columns]!) / 2;
      const square = gx * gx + gy * gy;
      if (!(square > 0)) continue;
      out[2 * at] = gx * gx - gy * gy;
      out[2 * at + 1] = 2 * gx * gy;
      if ((at & 7) === 0) strengths.push(square);
    }
  // Strong edges count for what they are; beyond a usual one only as its root, so that one roof does not outvote a field.
  strengths.sort((a, b) => a - b);
  const usual = strengths[Math.floor(strengths.length * 0.8)] ?? 1;
  for (let at = 0; at < out.length; at += 2) {
    const size = Math.sqrt(out[at]! ** 2 + out[at + 1]! ** 2);
    if (size === 0) continue;
    const scale = 1 / (size + usual);
    out[at]! *= scale;
    out[at + 1]! *= scale;
  }
  return out;
}

/** Smooths by a Gauss bell of so many cells over the cells that have a value; those without stay without. */
export function smoothed(values: Float32Array, columns: number, rows: number, sigma: number): Float32Array {
  const reach = Math.ceil(2.5 * sigma);
  const bell = columnFrom(Float64Array, { length: 2 * reach + 1 }, (_, k) =>
    Math.exp(-((k - reach) ** 2) / (2 * sigma * sigma)),
  );
  const pass = (from: Float32Array, step: number, along: number): Float32Array => {
    const out = new Float32Array(from.length);
    for (let at = 0; at < from.length; at++) {
      const place = step === 1 ? at % columns : Math.floor(at / columns);
      if (Number.isNaN(values[at]!)) {
        out[at] = NaN;
        continue;
      }
      let [sum, weight] = [0, 0];
      for (let k = Math.max(-reach, -place); k <= Math.min(reach, along - 1 - place); k++) {
        const value = from[at + k * step]!;
        if (Number.isNaN(value)) continue;
        sum += bell[k + reach]! * value;
        weight += bell[k + reach]!;
      }
      out[at] = sum / weight;
    }
    return out;
  };
  return pass(pass(values, 1, columns), columns, rows);
}

/** A place so much darker than the land around it may lie in the shade. */
const DARK = 0.72;
/** Cells to either side that count as around. */
const AROUND = 32;
/** Cells about a shade that are half of it. */
const RIM = 1;

/**
 * A picture without what may lie in the shade: shadows have the sharpest edges there are, and none of them is where something stands.
 * What is dark for another reason goes with them.
 */
export function withoutShade(lightness: Float32Array, columns: number, rows: number): Float32Array {
  // Sums over rectangles from one corner: the mean about a place takes four of them.
  const wide = columns + 1;
  const [sum, known] = [new Float64Array(wide * (rows + 1)), new Float64Array(wide * (rows + 1))];
  for (let row = 0; row < rows; row++)
    for (let column = 0, line = 0, count = 0; column < columns; column++) {
      const value = lightness[row * columns + column]!;
      if (!Number.isNaN(value)) {
        line += value;
        count++;
      }
      const at = (row + 1) * wide + column + 1;
      sum[at] = sum[at - wide]! + line;
      known[at] = known[at - wide]! + count;
    }
  const out = lightness.slice();
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++) {
      const [c0, c1] = [Math.max(0, column - AROUND), Math.min(columns, column + AROUND + 1)];
      const [r0, r1] = [Math.max(0, row - AROUND), Math.min(rows, row + AROUND + 1)];
      const of = (sums: Float64Array): number =>
        sums[r1 * wide + c1]! - sums[r0 * wide + c1]! - sums[r1 * wide + c0]! + sums[r0 * wide + c0]!;
      if (!(lightness[row * columns + column]! < (DARK * of(sum)) / of(known))) continue;
      for (let r = Math.max(0, row - RIM); r <= Math.min(rows - 1, row + RIM); r++)
        out.fill(NaN, r * columns + Math.max(0, column - RIM), r * columns + Math.min(columns, column + RIM + 1));
    }
  return out;
}
