import type { RasterFrame } from '../raster/index.js';

export const GRID_METHODS = ['lowest', 'highest', 'mean', 'median', 'count', 'nearest-weighted', 'natural'] as const;
/** What a cell says of the points in it; `nearest-weighted` weighs those about its centre, `natural` is by natural neighbours. */
export type GridMethod = (typeof GRID_METHODS)[number];

const POWER = 2;

/**
 * A grid of what the points in each cell are; NaN where there are none (0 for `count`). Row 0 is the southernmost.
 * `nearest-weighted`: inverse distance to the power of 2 over the points in the cell and the eight about it (Shepard 1968).
 * @param easting - full coordinates; likewise `northing`, `elevation`
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
  for (let i = 0; i < easting.length; i++) {
    const column = Math.floor((easting[i]! - east) / cell);
    const row = Math.floor((northing[i]! - north) / cell);
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
      const heights = Array.from(order.subarray(from, to), (i) => elevation[i]!);
      out[k] = summarise(heights, method);
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

function summarise(heights: number[], method: Exclude<GridMethod, 'count' | 'nearest-weighted' | 'natural'>): number {
  switch (method) {
    case 'lowest':
      return heights.reduce((a, b) => Math.min(a, b));
    case 'highest':
      return heights.reduce((a, b) => Math.max(a, b));
    case 'mean':
      return heights.reduce((a, b) => a + b) / heights.length;
    case 'median': {
      heights.sort((a, b) => a - b);
      const half = heights.length >> 1;
      return heights.length % 2 === 1 ? heights[half]! : (heights[half - 1]! + heights[half]!) / 2;
    }
  }
}
