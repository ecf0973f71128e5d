import { columnFrom } from '../columns/index.js';
import type { RasterFrame } from '../raster/index.js';

/**
 * Natural neighbour interpolation on cells (discrete Sibson: Park, Linsen, Kreylos, Owens and Hamann 2006, IEEE Transactions on
 * Visualization and Computer Graphics 12(2), 243-253): each cell gives the value of its nearest point to all cells nearer to it than
 * that point is, and each takes the mean of what it was given. Smooth, exact at the points, never beyond their range.
 * @param reach - how far from the nearest point a cell may lie to have a value, cells
 * @returns NaN where no point is near
 */
export function naturalNeighbours(
  easting: Float64Array,
  northing: Float64Array,
  elevation: Float64Array,
  { east, north, cell, columns, rows }: RasterFrame,
  reach: number,
): Float32Array<ArrayBuffer> {
  const cells = columns * rows;
  const nearest = new Int32Array(cells).fill(-1);
  const off = new Float64Array(cells).fill(Infinity);
  const x = columnFrom(Float64Array, easting, (e) => (e - east) / cell - 0.5);
  const y = columnFrom(Float64Array, northing, (n) => (n - north) / cell - 0.5);
  const offer = (column: number, row: number, i: number): void => {
    const distance = (x[i]! - column) ** 2 + (y[i]! - row) ** 2;
    const at = row * columns + column;
    if (distance < off[at]! || (distance === off[at]! && i < nearest[at]!)) {
      off[at] = distance;
      nearest[at] = i;
    }
  };
  for (let i = 0; i < x.length; i++) {
    const [column, row] = [Math.round(x[i]!), Math.round(y[i]!)];
    if (column >= 0 && row >= 0 && column < columns && row < rows) offer(column, row, i);
  }
  // The nearest point of each cell from that of its neighbours, there and back (Danielsson 1980), twice for what a pass misses.
  const pass = (c0: number, c1: number, dc: number, r0: number, r1: number, dr: number): void => {
    for (let row = r0; row !== r1; row += dr)
      for (let column = c0; column !== c1; column += dc)
        for (const [ac, ar] of [
          [column - dc, row],
          [column, row - dr],
          [column - dc, row - dr],
          [column + dc, row - dr],
        ] as const) {
          if (ac < 0 || ar < 0 || ac >= columns || ar >= rows) continue;
          const i = nearest[ar * columns + ac]!;
          if (i >= 0) offer(column, row, i);
        }
  };
  for (let k = 0; k < 2; k++) {
    pass(0, columns, 1, 0, rows, 1);
    pass(columns - 1, -1, -1, rows - 1, -1, -1);
    pass(columns - 1, -1, -1, 0, rows, 1);
    pass(0, columns, 1, rows - 1, -1, -1);
  }
  const sum = new Float64Array(cells);
  const weight = new Float64Array(cells);
  const limit = reach * reach;
  for (let row = 0, at = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, at++) {
      const distance = off[at]!;
      if (!(distance <= limit)) continue;
      const radius = Math.sqrt(distance);
      const z = elevation[nearest[at]!]!;
      for (let r = Math.max(0, Math.ceil(row - radius)); r <= Math.min(rows - 1, Math.floor(row + radius)); r++) {
        const half = Math.sqrt(Math.max(0, distance - (r - row) ** 2));
        const last = Math.min(columns - 1, Math.floor(column + half));
        for (let c = Math.max(0, Math.ceil(column - half)); c <= last; c++) {
          sum[r * columns + c]! += z;
          weight[r * columns + c]!++;
        }
      }
    }
  return columnFrom(Float32Array, sum, (total, at) =>
    off[at]! <= limit && weight[at]! > 0 ? total / weight[at]! : NaN,
  );
}
