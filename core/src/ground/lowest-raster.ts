import { eachSharedCell, type RasterFrame } from '../raster/index.js';
import { PointFlag, type PointBatch, type Quantisation } from '../cloud/index.js';

/** The lowest point of each cell. Row 0 is the southernmost. */
export interface LowestRaster extends RasterFrame {
  /** Elevation, +∞ where no point fell. */
  readonly lowest: Float64Array;
  /** Where that point lies from the cell's centre; on a slope the lowest point is never in the middle. */
  readonly fromCentreEast: Float32Array;
  readonly fromCentreNorth: Float32Array;
}

export function newLowestRaster(frame: RasterFrame): LowestRaster {
  const cells = frame.columns * frame.rows;
  return {
    ...frame,
    lowest: new Float64Array(cells).fill(Infinity),
    fromCentreEast: new Float32Array(cells),
    fromCentreNorth: new Float32Array(cells),
  };
}

/** Enters the points whose class `takes[class]` is not 0, that are not withheld and not too doubtful. */
export function addLowestPoints(
  raster: LowestRaster,
  batch: Pick<PointBatch, 'count' | 'x' | 'y' | 'z' | 'classification' | 'flags'>,
  { scale, offset }: Quantisation,
  takes: Uint8Array,
  isDoubtful?: Uint8Array,
): void {
  const { columns, rows, cell } = raster;
  const { x, y, z, classification, flags } = batch;
  const [sx, sy, sz] = scale;
  const ox = offset[0] - raster.east;
  const oy = offset[1] - raster.north;
  const oz = offset[2];
  for (let i = 0; i < batch.count; i++) {
    if (takes[classification[i]!] === 0 || (flags[i]! & PointFlag.withheld) !== 0 || isDoubtful?.[i] === 1) continue;
    const east = x[i]! * sx + ox;
    const north = y[i]! * sy + oy;
    const column = Math.min(columns - 1, Math.max(0, Math.floor(east / cell)));
    const row = Math.min(rows - 1, Math.max(0, Math.floor(north / cell)));
    const elevation = z[i]! * sz + oz;
    const at = row * columns + column;
    if (elevation > raster.lowest[at]!) continue;
    enterLower(
      raster,
      at,
      elevation,
      Math.fround(east - (column + 0.5) * cell),
      Math.fround(north - (row + 0.5) * cell),
    );
  }
}

/** Takes the lower of the two points in each cell, into the first raster. `other` may cover a part of the frame, cell on cell. */
export function mergeLowestRaster(into: LowestRaster, other: LowestRaster): void {
  eachSharedCell(into, other, (at, i) => {
    const theirs = other.lowest[i]!;
    if (theirs < Infinity && theirs <= into.lowest[at]!)
      enterLower(into, at, theirs, other.fromCentreEast[i]!, other.fromCentreNorth[i]!);
  });
}

/** Puts a point no higher than the cell's; equal ones are settled by place, so that the order of points and tiles does not matter. */
function enterLower(
  { lowest, fromCentreEast, fromCentreNorth }: LowestRaster,
  at: number,
  elevation: number,
  east: number,
  north: number,
): void {
  const isTie = elevation === lowest[at]!;
  if (isTie && (east > fromCentreEast[at]! || (east === fromCentreEast[at]! && north >= fromCentreNorth[at]!))) return;
  lowest[at] = elevation;
  fromCentreEast[at] = east;
  fromCentreNorth[at] = north;
}

/** Witnesses of a low cell lie at least so far from it, beyond the reach of a cluster of false points, and at most so far. */
const [NEAREST_WITNESS_METRES, FURTHEST_WITNESS_CELLS] = [1.3, 14];
/** Surroundings have at least so many filled cells, and reach so many cells at most. */
const [LEAST_FILLED, WIDEST_CELLS] = [6, 16];
/** Two pairs of witnesses keep a cell, in directions this far apart, as a sine. */
const SINE_APART = 0.4;

/**
 * Empties cells that lie more than `drop` under the median of their surroundings (5 x 5 cells, more where few are filled)
 * and that nothing else bears out: reflections off water, multipath and wrong matches give points below the ground that a
 * surface would hang on. Under a close canopy the ground itself lies far under most cells; what tells the two apart is that the
 * ground goes on: two cells on opposite sides of one of it have it between them, as high as their mean. False points have none, or
 * in a cluster such within a metre. The median is common practice, no source; the witnesses are our own.
 * @returns how many cells were emptied
 */
export function rejectLowOutliers(raster: LowestRaster, drop: number, metresPerUnit = 1): number {
  const { lowest, columns, rows, cell } = raster;
  const near = new Float64Array((2 * WIDEST_CELLS + 1) ** 2);
  const rejected: number[] = [];
  const ring = witnessOffsets(NEAREST_WITNESS_METRES / metresPerUnit / cell);
  for (let row = 0; row < rows; row++) {
    for (let column = 0; column < columns; column++) {
      const value = lowest[row * columns + column]!;
      if (value === Infinity) continue;
      let count = 0;
      let asLow = 0;
      // Where few cells are filled, as where plants were left out, one has to look further.
      for (let reach = 2; count < LEAST_FILLED && reach <= WIDEST_CELLS; reach *= 2) {
        [count, asLow] = [0, 0];
        for (let r = Math.max(0, row - reach); r <= Math.min(rows - 1, row + reach); r++) {
          for (let c = Math.max(0, column - reach); c <= Math.min(columns - 1, column + reach); c++) {
            const other = lowest[r * columns + c]!;
            if (other === Infinity || (r === row && c === column)) continue;
            near[count++] = other;
            if (other < value + drop) asLow++;
          }
        }
      }
      // Nearly every cell has enough neighbours as low as itself; that settles it without a median.
      if (count < LEAST_FILLED || asLow * 2 >= count) continue;
      const sorted = near.subarray(0, count).sort();
      if (sorted[count >> 1]! - value > drop && !hasWitnesses(raster, column, row, ring, drop))
        rejected.push(row * columns + column);
    }
  }
  for (const at of rejected) lowest[at] = Infinity;
  return rejected.length;
}

/** Half of the places about a cell, the nearest first; the other half lies opposite. */
function witnessOffsets(nearest: number): (readonly [number, number])[] {
  const out: [number, number][] = [];
  const far = Math.max(FURTHEST_WITNESS_CELLS, Math.ceil(nearest) + 2);
  for (let r = 0; r <= far; r++)
    for (let c = -far; c <= far; c++)
      if ((r > 0 || c > 0) && c * c + r * r >= nearest * nearest && c * c + r * r <= far * far) out.push([c, r]);
  return out.sort((a, b) => a[0] ** 2 + a[1] ** 2 - (b[0] ** 2 + b[1] ** 2) || a[1] - b[1] || a[0] - b[0]);
}

function hasWitnesses(
  { lowest, columns, rows }: LowestRaster,
  column: number,
  row: number,
  ring: readonly (readonly [number, number])[],
  drop: number,
): boolean {
  const value = lowest[row * columns + column]!;
  let first: readonly [number, number] | undefined;
  for (const [c, r] of ring) {
    const [back, ahead] = [at(column - c, row - r), at(column + c, row + r)];
    // At the edge of the raster one side alone is drawn out to the cell.
    const middle =
      back === undefined
        ? 2 * (ahead ?? NaN) - (at(column + 2 * c, row + 2 * r) ?? NaN)
        : ahead === undefined
          ? 2 * back - (at(column - 2 * c, row - 2 * r) ?? NaN)
          : (back + ahead) / 2;
    if (!(Math.abs(middle - value) < drop)) continue;
    // One other low cell beyond can make a mean come out right, but only in its own direction.
    if (first && Math.abs(first[0] * r - first[1] * c) > SINE_APART * Math.hypot(...first) * Math.hypot(c, r))
      return true;
    first ??= [c, r];
  }
  return false;

  /** Undefined beyond the raster. */
  function at(c: number, r: number): number | undefined {
    return c < 0 || r < 0 || c >= columns || r >= rows ? undefined : lowest[r * columns + c]!;
  }
}
