import { columnFrom } from '../columns/index.js';
import { eachNeighbour, type RasterFrame } from '../raster/index.js';
import type { GroundSums } from './ground-heights.js';

export interface WaterOptions {
  /** How many job units a metre has. */
  readonly metre: number;
  /** Smallest piece of water, square units. */
  readonly leastArea: number;
  /** How far returns off the water lie from its level, job units. */
  readonly tolerance: number;
}

/** Where water stands and at which level; NaN where there is none. */
export interface WaterLevels extends RasterFrame {
  readonly level: Float64Array;
}

/** A cell is poor in returns below this share of the usual number. */
const POOR = 0.3;
/** And so much of a body of water is poor: a hole on level land would grow over the land. */
const LOST = 0.35;
/** Water falls along its course by no more than this; steeper and it is a rapid or a bank. */
const STEEPEST = 0.001;
/** So much of what lies about water is higher than it, by this much, metres. */
const BANKS = 0.7;
const BANK_HEIGHT = 0.1;

/**
 * Standing and slow water: places where most beams are lost, since a smooth surface mirrors them away, grown along one level to the
 * banks. A piece counts where what lies about it is higher: dark roofs and shadows lose beams too, but do not lie in hollows.
 * Loss of returns and flatness as signs of water: Höfle et al. 2009, IEEE Transactions on Geoscience and Remote Sensing 47(10),
 * 3323-3333 ("Water surface mapping from airborne laser scanning using signal intensity and elevation data"). Water that sends back
 * every beam, under the scanner or in clouds from photographs, is not found: an outline drawn about it is surer.
 * @param all - points of all classes
 * @param ground - ground points, water taken for ground among them, on the same cells
 * @param elevationOf - scale and offset of the sums’ elevations
 */
export function waterLevels(
  all: GroundSums,
  ground: GroundSums,
  elevationOf: { readonly scale: number; readonly offset: number },
  { metre, leastArea, tolerance }: WaterOptions,
): WaterLevels {
  const { columns, rows, cell, east, north } = all;
  const cells = columns * rows;
  const level = new Float64Array(cells).fill(NaN);
  const height = columnFrom(Float64Array, ground.count, (n, at) =>
    n > 0 ? (ground.sum[at]! / n) * elevationOf.scale + elevationOf.offset : NaN,
  );
  const usual = usualCount(all.count);
  const isInside = insideOf(all.count, columns, rows);
  const isPoor = columnFrom(Uint8Array, all.count, (n, at) => (isInside[at] === 1 && n < POOR * usual ? 1 : 0));
  const seen = new Uint8Array(cells);
  const around = (at: number, visit: (k: number) => void): void => eachNeighbour(all, at, visit);
  for (let start = 0; start < cells; start++) {
    if (isPoor[start] === 0 || seen[start] === 1 || !Number.isNaN(level[start]!)) continue;
    const poor = [start];
    seen[start] = 1;
    for (const at of poor)
      around(at, (k) => {
        if (isPoor[k] === 0 || seen[k] === 1) return;
        seen[k] = 1;
        poor.push(k);
      });
    if (poor.length * cell * cell < leastArea / 2) continue;
    // From the lowest of what came back: the level of the water there.
    const known = poor.filter((at) => !Number.isNaN(height[at]!)).sort((a, b) => height[a]! - height[b]!);
    if (known.length < 3) continue;
    const from = known[Math.floor(known.length / 4)]!;
    const body = grow(from, height[from]!);
    const lost = body.reduce((sum, at) => sum + isPoor[at]!, 0);
    if (body.length * cell * cell < leastArea || lost < LOST * body.length || !hasBanks(body))
      for (const at of body) level[at] = NaN;
  }
  return { east, north, cell, columns, rows, level };

  /** Cells that lie at the level of those beside them, or have lost their returns; the level moves no faster than water falls. */
  function grow(from: number, first: number): number[] {
    const body = [from];
    level[from] = first;
    for (const at of body) {
      const here = level[at]!;
      around(at, (k) => {
        if (!Number.isNaN(level[k]!) || isInside[k] === 0) return;
        const own = height[k]!;
        if (Number.isNaN(own) ? isPoor[k] === 0 : Math.abs(own - here) > tolerance) return;
        const fall = STEEPEST * cell;
        level[k] = Number.isNaN(own) ? here : Math.min(here + fall, Math.max(here - fall, own));
        body.push(k);
      });
    }
    return body;
  }

  function hasBanks(body: readonly number[]): boolean {
    const rim = new Map<number, number>();
    for (const at of body)
      around(at, (k) =>
        around(k, (far) => {
          if (Number.isNaN(level[far]!) && !Number.isNaN(height[far]!)) rim.set(far, level[at]!);
        }),
      );
    let higher = 0;
    for (const [at, water] of rim) if (height[at]! > water + BANK_HEIGHT * metre) higher++;
    return rim.size > 0 && higher >= BANKS * rim.size;
  }
}

/** The middle of the numbers of points in cells that have any. */
function usualCount(count: Uint32Array): number {
  const filled = count.filter((n) => n > 0).sort();
  return filled.length === 0 ? 0 : filled[filled.length >> 1]!;
}

/** Cells between the first and the last filled one of their row and of their column: the land flown over, holes included. */
function insideOf(count: Uint32Array, columns: number, rows: number): Uint8Array {
  const across = new Uint8Array(count.length);
  for (let row = 0; row < rows; row++) {
    let [first, last] = [-1, -1];
    for (let c = 0; c < columns; c++)
      if (count[row * columns + c]! > 0) {
        if (first < 0) first = c;
        last = c;
      }
    if (first >= 0) across.fill(1, row * columns + first, row * columns + last + 1);
  }
  const out = new Uint8Array(count.length);
  for (let c = 0; c < columns; c++) {
    let [first, last] = [-1, -1];
    for (let row = 0; row < rows; row++)
      if (count[row * columns + c]! > 0) {
        if (first < 0) first = row;
        last = row;
      }
    for (let row = Math.max(0, first); row <= last; row++) out[row * columns + c] = across[row * columns + c]!;
  }
  return out;
}

/** The level of the water at a place, NaN where there is none. */
export function waterAt({ level, columns, rows, cell, east, north }: WaterLevels, e: number, n: number): number {
  const [column, row] = [Math.floor((e - east) / cell), Math.floor((n - north) / cell)];
  return column < 0 || row < 0 || column >= columns || row >= rows ? NaN : level[row * columns + column]!;
}
