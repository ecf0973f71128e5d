import type { RasterFrame } from '../raster/index.js';

export const GRID_METHODS = ['lowest', 'highest', 'mean', 'median', 'count', 'nearest-weighted', 'natural'] as const;
/** What a cell says of the points in it; `nearest-weighted` weighs those about its centre, `natural` is by natural neighbours. */
export type GridMethod = (typeof GRID_METHODS)[number];

const POWER = 2;

/**
 * A grid of what the points in each cell are; NaN where there are none (0 for `count`). Row 0 is the southernmost.
 * `nearest-weighted`: inverse distance to the power of 2 over the points in the cell and the eight about it (Shepard 1968).
 * @param easting - full coordinates; likewise `northing`, `elevation`
 * @param frame - on whole multiples of its cell
 */
export function gridFromPoints(
  easting: Float64Array,
  northing: Float64Array,
  elevation: Float64Array,
  frame: RasterFrame,
  method: Exclude<GridMethod, 'natural'>,
): Float32Array<ArrayBuffer> {
  const { east, north, cell, columns, rows } = frame;
  const cells = columns * rows;
  const cellOf = new Int32Array(easting.length);
  const start = new Uint32Array(cells + 1);
  // Cells are counted from the origin, so that a place on an edge falls into the same cell whatever the frame.
  const [firstColumn, firstRow] = [Math.round(east / cell), Math.round(north / cell)];
  for (let i = 0; i < easting.length; i++) {
    const column = Math.floor(easting[i]! / cell) - firstColumn;
    const row = Math.floor(northing[i]! / cell) - firstRow;
    const isIn = column >= 0 && row >= 0 && column < columns && row < rows;
    cellOf[i] = isIn ? row * columns + column : -1;
    if (isIn) start[cellOf[i]! + 1]!++;
  }
  for (let k = 0; k < cells; k++) start[k + 1]! += start[k]!;
  const out = new Float32Array(cells).fill(NaN);
  if (method === 'count') {
    for (let k = 0; k < cells; k++) out[k] = start[k + 1]! - start[k]!;
    return out;
  }
  const next = start.slice();
  const order = new Uint32Array(start[cells]!);
  for (let i = 0; i < easting.length; i++) if (cellOf[i]! >= 0) order[next[cellOf[i]!]!++] = i;
  for (let row = 0, k = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, k++) {
      const [from, to] = [start[k]!, start[k + 1]!];
      if (method === 'nearest-weighted') {
        out[k] = weighted(row, column);
        continue;
      }
      if (from === to) continue;
      out[k] = summarise(elevation, order.subarray(from, to), method);
    }
  return out;

  function weighted(row: number, column: number): number {
    const [x, y] = [east + (column + 0.5) * cell, north + (row + 0.5) * cell];
    let [sum, weight] = [0, 0];
    for (let r = Math.max(0, row - 1); r <= Math.min(rows - 1, row + 1); r++)
      for (let c = Math.max(0, column - 1); c <= Math.min(columns - 1, column + 1); c++) {
        const at = r * columns + c;
        for (let k = start[at]!; k < start[at + 1]!; k++) {
          const i = order[k]!;
          const distance = Math.hypot(easting[i]! - x, northing[i]! - y);
          if (distance < 1e-9) return elevation[i]!;
          const w = distance ** -POWER;
          sum += w * elevation[i]!;
          weight += w;
        }
      }
    return weight > 0 ? sum / weight : NaN;
  }
}

/** Methods by which a cell hangs on its own points alone. */
export const CELL_METHODS = ['lowest', 'highest', 'mean', 'median', 'count'] as const satisfies readonly GridMethod[];
export type CellMethod = (typeof CELL_METHODS)[number];

/** A figure of the elevations that are named by their indices. */
function summarise(elevation: Float64Array, own: Uint32Array, method: Exclude<CellMethod, 'count'>): number {
  if (method === 'median') {
    const heights = Float64Array.from(own, (i) => elevation[i]!).sort();
    const half = heights.length >> 1;
    return heights.length % 2 === 1 ? heights[half]! : (heights[half - 1]! + heights[half]!) / 2;
  }
  let [least, most, sum] = [Infinity, -Infinity, 0];
  for (let k = 0; k < own.length; k++) {
    const z = elevation[own[k]!]!;
    if (z < least) least = z;
    if (z > most) most = z;
    sum += z;
  }
  return method === 'mean' ? sum / own.length : method === 'lowest' ? least : most;
}
