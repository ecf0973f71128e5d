import type { RasterFrame } from '../raster/index.js';

/**
 * The value of a grid at a place: between the centres of four cells, that of a cell at its centre; NaN where one that has a part in
 * it has none.
 * @param values - rows times columns, row 0 the southernmost
 */
export function gridAt(
  values: Float32Array,
  { east, north, cell, columns, rows }: RasterFrame,
  e: number,
  n: number,
): number {
  const x = (e - east) / cell - 0.5;
  const y = (n - north) / cell - 0.5;
  // What is rounding lies on the centre.
  const [column, row] = [Math.floor(x + 1e-6), Math.floor(y + 1e-6)];
  const [tx, ty] = [Math.max(0, x - column), Math.max(0, y - row)];
  const at = (c: number, r: number): number =>
    c < 0 || r < 0 || c >= columns || r >= rows ? NaN : values[r * columns + c]!;
  const across = (r: number): number => (tx < 1e-5 ? at(column, r) : at(column, r) * (1 - tx) + at(column + 1, r) * tx);
  return ty < 1e-5 ? across(row) : across(row) * (1 - ty) + across(row + 1) * ty;
}

/** A grid less another, on the cells of the first; NaN where either has no value. */
export function gridDifference(
  values: Float32Array,
  frame: RasterFrame,
  other: Float32Array,
  otherFrame: RasterFrame,
): Float32Array<ArrayBuffer> {
  const out = new Float32Array(values.length);
  for (let row = 0, k = 0; row < frame.rows; row++)
    for (let column = 0; column < frame.columns; column++, k++) {
      const e = frame.east + (column + 0.5) * frame.cell;
      const n = frame.north + (row + 0.5) * frame.cell;
      out[k] = values[k]! - gridAt(other, otherFrame, e, n);
    }
  return out;
}
