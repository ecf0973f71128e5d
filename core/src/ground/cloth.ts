import { checkCancelled, noProgress, PamperoError, type Progress } from '../task/index.js';
import type { LowestRaster } from './lowest-raster.js';
import { followSteepSlopes } from './steep-slopes.js';

/** How far the cloth may bend: rigidness 3 (flat), 2 (rolling) and 1 (steep) of Zhang et al. 2016. */
export type LandShape = 'flat' | 'rolling' | 'steep';

export interface ClothOptions {
  readonly landShape: LandShape;
  /** Most sweeps on each level of the pyramid; it ends sooner when the cloth has come to rest. */
  readonly iterations: number;
  /** Lets the cloth follow banks it has stretched across. */
  readonly followSteepSlopes: boolean;
  /** The steepest bank that pass follows, degrees. */
  readonly steepestDegrees: number;
  /** Metres in a job unit: the cloth's stiffness is metric. */
  readonly metresPerUnit: number;
}

/** 500 iterations are the paper's (section 3). 40 degrees: an earth bank stands no steeper (common practice, no source). */
export const clothDefaults: ClothOptions = {
  landShape: 'rolling',
  iterations: 500,
  followSteepSlopes: true,
  steepestDegrees: 40,
  metresPerUnit: 1,
};

/**
 * Gravity over tension, per metre: a cloth over a gap w metres wide hangs w² / 8 times this. A 60 m hall in a flat town
 * then draws it in by 2.7 m, less than its eaves; a 100 m wide hill 25 m high is followed on rolling land.
 */
const HANG: Readonly<Record<LandShape, number>> = { flat: 0.006, rolling: 0.02, steep: 0.06 };
const REST_MOVE_METRES = 0.002;
const OVER_RELAXATION = 1.6;
/** Banks are followed on the level with about this cell: lowest points of smaller cells are grass as often as ground. */
const SLOPE_CELL_METRES = 1.2;
/** The pyramid ends when a side has this few cells; there the cloth comes to rest in a few sweeps from anywhere. */
const COARSEST_CELLS = 24;

/**
 * Lays a cloth against the lowest points, pressed up from below (the same as letting it fall on the land turned over), and
 * gives its resting height at each cell's centre, in job units.
 *
 * After Zhang et al. 2016, with one departure: the paper steps the cloth through time and stops after a number of steps;
 * here the state in which gravity, tension and the ground balance is computed directly, by projected over-relaxation
 * (Cryer 1971, "The solution of a quadratic programming problem using systematic overrelaxation", SIAM J. Control 9(3)) on
 * a pyramid from coarse to fine. The answer does not depend on where the cloth started, nor its stiffness on the cell.
 * Empty cells take the height of the nearest filled one.
 * @throws PamperoError `no-ground-candidates` when every cell is empty
 */
export function settleCloth(
  raster: LowestRaster,
  options: ClothOptions,
  progress: Progress = noProgress,
  signal?: { readonly aborted: boolean },
): Float64Array {
  const { metresPerUnit } = options;
  const levels: Sheet[] = [
    {
      columns: raster.columns,
      rows: raster.rows,
      cell: raster.cell * metresPerUnit,
      ceiling: ceilings(raster, metresPerUnit),
    },
  ];
  while (Math.max(levels.at(-1)!.columns, levels.at(-1)!.rows) > COARSEST_CELLS) levels.push(coarser(levels.at(-1)!));

  const slopeLevel = options.followSteepSlopes
    ? Math.max(
        0,
        levels.findLastIndex(({ cell }) => cell <= SLOPE_CELL_METRES),
      )
    : -1;
  let height = Float64Array.from(levels.at(-1)!.ceiling);
  let floor = new Float64Array(height.length).fill(-Infinity);
  for (let l = levels.length - 1; l >= 0; l--) {
    const sheet = levels[l]!;
    if (l < levels.length - 1) {
      height = finer(height, levels[l + 1]!, sheet);
      floor = finer(floor, levels[l + 1]!, sheet);
    }
    relax(height, floor, sheet, options, (share) => progress(4 ** -(l + 1) * (1 + 3 * share)), signal);
    if (l === slopeLevel) {
      const isHeld = touching(height, sheet.ceiling);
      followSteepSlopes(
        height,
        isHeld,
        sheet.ceiling,
        sheet,
        sheet.cell * Math.tan((options.steepestDegrees * Math.PI) / 180),
      );
      for (let i = 0; i < height.length; i++) if (isHeld[i] === 1) floor[i] = height[i]!;
    }
  }
  moveToCentres(height, touching(height, levels[0]!.ceiling), raster, metresPerUnit);
  for (let i = 0; i < height.length; i++) height[i] = height[i]! / metresPerUnit;
  progress(1);
  return height;
}

/** One level of the pyramid, in metres. The cloth cannot rise above `ceiling`. */
interface Sheet {
  readonly columns: number;
  readonly rows: number;
  readonly cell: number;
  readonly ceiling: Float64Array;
}

/** The lowest points in metres, empty cells filled from the nearest filled one. */
function ceilings(raster: LowestRaster, metresPerUnit: number): Float64Array {
  const { lowest, columns, rows } = raster;
  const filled = Float64Array.from(lowest);
  const queue = new Int32Array(lowest.length);
  let tail = 0;
  for (let i = 0; i < lowest.length; i++) if (lowest[i] !== Infinity) queue[tail++] = i;
  if (tail === 0) {
    throw new PamperoError('no-ground-candidates', {
      what: 'There are no points left to find ground in.',
      fix: 'Check that the cloud has points outside the noise classes that are not withheld.',
    });
  }
  // Breadth first from all filled cells at once: nearest in steps, ties to the cell that comes first.
  for (let head = 0; head < tail; head++) {
    const i = queue[head]!;
    const column = i % columns;
    if (column > 0) tail = spread(i, i - 1, tail);
    if (column < columns - 1) tail = spread(i, i + 1, tail);
    if (i >= columns) tail = spread(i, i - columns, tail);
    if (i < columns * (rows - 1)) tail = spread(i, i + columns, tail);
  }
  if (metresPerUnit !== 1) for (let i = 0; i < filled.length; i++) filled[i] = filled[i]! * metresPerUnit;
  return filled;

  function spread(from: number, to: number, end: number): number {
    if (filled[to] !== Infinity) return end;
    filled[to] = filled[from]!;
    queue[end] = to;
    return end + 1;
  }
}

/** Half as many cells each way, each the lowest of its four, so that the coarse cloth lies under the fine one. */
function coarser({ columns, rows, cell, ceiling }: Sheet): Sheet {
  const half = { columns: (columns + 1) >> 1, rows: (rows + 1) >> 1 };
  const out = new Float64Array(half.columns * half.rows).fill(Infinity);
  for (let row = 0, i = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, i++) {
      const at = (row >> 1) * half.columns + (column >> 1);
      if (ceiling[i]! < out[at]!) out[at] = ceiling[i]!;
    }
  return { ...half, cell: cell * 2, ceiling: out };
}

function finer(height: Float64Array, from: Sheet, to: Sheet): Float64Array<ArrayBuffer> {
  const out = new Float64Array(to.columns * to.rows);
  for (let row = 0, i = 0; row < to.rows; row++)
    for (let column = 0; column < to.columns; column++, i++)
      out[i] = Math.min(to.ceiling[i]!, height[(row >> 1) * from.columns + (column >> 1)]!);
  return out;
}

function touching(height: Float64Array, ceiling: Float64Array): Uint8Array {
  const isHeld = new Uint8Array(height.length);
  for (let i = 0; i < height.length; i++) isHeld[i] = height[i] === ceiling[i] ? 1 : 0;
  return isHeld;
}

/** Sweeps in two colours, so that no particle sees a neighbour half-way, until none moves more than the rest threshold.
 * `floor` is what the steep-slope pass of a coarser level has reached: the cloth does not fall back behind it. */
function relax(
  height: Float64Array,
  floor: Float64Array,
  sheet: Sheet,
  options: ClothOptions,
  progress: Progress,
  signal: { readonly aborted: boolean } | undefined,
): void {
  const { columns, rows, cell, ceiling } = sheet;
  const press = (HANG[options.landShape] * cell * cell) / 4;
  for (let sweep = 0; sweep < options.iterations; sweep++) {
    checkCancelled(signal);
    let furthest = 0;
    for (let colour = 0; colour < 2; colour++) {
      for (let row = 0; row < rows; row++) {
        const south = row > 0 ? -columns : 0;
        const north = row < rows - 1 ? columns : 0;
        for (let column = (row + colour) & 1, i = row * columns + column; column < columns; column += 2, i += 2) {
          const west = column > 0 ? -1 : 0;
          const east = column < columns - 1 ? 1 : 0;
          const own = height[i]!;
          const balance = (height[i + south]! + height[i + north]! + height[i + west]! + height[i + east]!) / 4 + press;
          let next = own + OVER_RELAXATION * (balance - own);
          if (next > ceiling[i]!) next = ceiling[i]!;
          else if (next < floor[i]!) next = floor[i]!;
          const move = Math.abs(next - own);
          if (move > furthest) furthest = move;
          height[i] = next;
        }
      }
    }
    if (furthest < REST_MOVE_METRES) return;
    if ((sweep & 15) === 0) progress(sweep / options.iterations);
  }
}

/** A held cell has the height of its lowest point, off centre and low on a slope: brings it to the centre along the slope. */
function moveToCentres(height: Float64Array, isHeld: Uint8Array, raster: LowestRaster, metresPerUnit: number): void {
  const { columns, rows, cell, lowest, fromCentreEast, fromCentreNorth } = raster;
  const span = cell * metresPerUnit;
  const held = Float64Array.from(height);
  const slope = (i: number, back: number, ahead: number): number => {
    const reach = (back ? 1 : 0) + (ahead ? 1 : 0);
    return reach === 0 ? 0 : (held[i + ahead]! - held[i - back]!) / (reach * span);
  };
  for (let row = 0, i = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, i++) {
      if (isHeld[i] === 0 || lowest[i] === Infinity) continue;
      const east = slope(i, column > 0 ? 1 : 0, column < columns - 1 ? 1 : 0);
      const north = slope(i, row > 0 ? columns : 0, row < rows - 1 ? columns : 0);
      height[i] = held[i]! - (east * fromCentreEast[i]! + north * fromCentreNorth[i]!) * metresPerUnit;
    }
}
