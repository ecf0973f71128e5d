import { eachSharedCell, type RasterFrame } from '../raster/index.js';
import { PointFlag, type PointBatch, type Quantisation } from '../cloud/index.js';

/** Ground points gathered by cell: their number, and the sum of their elevations as whole steps of the cloud’s scale. */
export interface GroundSums extends RasterFrame {
  readonly count: Uint32Array;
  readonly sum: Float64Array;
}

export function newGroundSums(frame: RasterFrame): GroundSums {
  const cells = frame.columns * frame.rows;
  return { ...frame, count: new Uint32Array(cells), sum: new Float64Array(cells) };
}

/** Enters the points of the ground classes. */
export function addGround(
  sums: GroundSums,
  batch: Pick<PointBatch, 'count' | 'x' | 'y' | 'z' | 'classification' | 'flags'>,
  { scale, offset }: Quantisation,
  isGround: Uint8Array,
): void {
  const { columns, rows, cell, count, sum } = sums;
  const ox = offset[0] - sums.east;
  const oy = offset[1] - sums.north;
  for (let i = 0; i < batch.count; i++) {
    if (isGround[batch.classification[i]!] === 0 || (batch.flags[i]! & PointFlag.withheld) !== 0) continue;
    const column = Math.floor((batch.x[i]! * scale[0] + ox) / cell);
    const row = Math.floor((batch.y[i]! * scale[1] + oy) / cell);
    const at = Math.min(rows - 1, Math.max(0, row)) * columns + Math.min(columns - 1, Math.max(0, column));
    count[at]!++;
    // Whole numbers below 2^53: the same whatever the order.
    sum[at]! += batch.z[i]!;
  }
}

/** Adds sums that cover a part of the frame, cell on cell. */
export function mergeGround(into: GroundSums, other: GroundSums): void {
  eachSharedCell(into, other, (at, i) => {
    into.count[at]! += other.count[i]!;
    into.sum[at]! += other.sum[i]!;
  });
}

/** Elevations of the ground at cell centres; every cell has one. */
export interface GroundModel extends RasterFrame {
  readonly elevation: Float64Array;
}

/**
 * Mean ground elevation of each cell, holes filled from coarser and coarser means and smoothed on the way back ("push-pull",
 * Gortler et al. 1996, The Lumigraph, section 3.3). Undefined where there is no ground at all.
 */
export function groundModel(sums: GroundSums, { scale, offset }: Quantisation): GroundModel | undefined {
  const { count, sum, columns, rows } = sums;
  const value = new Float64Array(count.length);
  const weight = new Float64Array(count.length);
  let isEmpty = true;
  for (let i = 0; i < count.length; i++)
    if (count[i]! > 0) {
      value[i] = (sum[i]! / count[i]!) * scale[2] + offset[2];
      weight[i] = 1;
      isEmpty = false;
    }
  if (isEmpty) return undefined;
  fill(value, weight, columns, rows);
  const { east, north, cell } = sums;
  return { east, north, cell, columns, rows, elevation: value };
}

function fill(value: Float64Array, weight: Float64Array, columns: number, rows: number): void {
  if (!weight.includes(0)) return;
  const [halfColumns, halfRows] = [Math.ceil(columns / 2), Math.ceil(rows / 2)];
  const coarse = new Float64Array(halfColumns * halfRows);
  const coarseWeight = new Float64Array(halfColumns * halfRows);
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++) {
      const at = row * columns + column;
      if (weight[at] === 0) continue;
      const to = (row >> 1) * halfColumns + (column >> 1);
      coarse[to]! += value[at]!;
      coarseWeight[to]!++;
    }
  for (let i = 0; i < coarse.length; i++) if (coarseWeight[i]! > 0) coarse[i]! /= coarseWeight[i]!;
  for (let i = 0; i < coarse.length; i++) if (coarseWeight[i]! > 0) coarseWeight[i] = 1;
  fill(coarse, coarseWeight, halfColumns, halfRows);
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++) {
      const at = row * columns + column;
      if (weight[at] === 0) value[at] = bilinear(coarse, halfColumns, halfRows, column / 2 - 0.25, row / 2 - 0.25);
    }
}

/** Between the centres of four cells; beyond the outermost, theirs. */
function bilinear(values: Float64Array, columns: number, rows: number, column: number, row: number): number {
  const x = Math.max(0, Math.min(columns - 1, column));
  const y = Math.max(0, Math.min(rows - 1, row));
  const [c, r] = [Math.min(columns - 2, Math.floor(x)), Math.min(rows - 2, Math.floor(y))];
  const [c0, r0] = [Math.max(0, c), Math.max(0, r)];
  const [c1, r1] = [Math.min(columns - 1, c0 + 1), Math.min(rows - 1, r0 + 1)];
  const [tx, ty] = [x - c0, y - r0];
  const low = values[r0 * columns + c0]! * (1 - tx) + values[r0 * columns + c1]! * tx;
  const high = values[r1 * columns + c0]! * (1 - tx) + values[r1 * columns + c1]! * tx;
  return low * (1 - ty) + high * ty;
}

/** Elevation of the ground at a place. */
export function groundAt({ elevation, columns, rows, cell, east, north }: GroundModel, e: number, n: number): number {
  return bilinear(elevation, columns, rows, (e - east) / cell - 0.5, (n - north) / cell - 0.5);
}
