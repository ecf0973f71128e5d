import { columnFrom } from '../columns/index.js';
import type { RasterFrame } from '../raster/index.js';
import { noProgress, type Progress } from '../task/index.js';
import { eachLevel, levelNumbers, levelsOf, LineCollector, NO_LEVEL } from './level-lines.js';
import type { ContourOptions, ContourSet } from './contour-set.js';

/**
 * Contours of a grid, through the centres of its cells: linear along the sides of the squares between four centres (marching squares,
 * after Lorensen and Cline 1987, SIGGRAPH Computer Graphics 21(4), 163-169); where a square is a saddle its middle says which pair of
 * corners hangs together. Higher ground lies on the right, nothing is drawn beside a cell without a value.
 * @param values - rows times columns, row 0 the southernmost, NaN where there is none
 * @throws TerrainError `interval-wrong`, `too-many-contours`
 */
export function traceGrid(
  values: Float32Array,
  { east, north, cell, columns, rows }: RasterFrame,
  options: ContourOptions,
  progress: Progress = noProgress,
  signal?: { readonly aborted: boolean },
): ContourSet {
  // A square has the number of its south-western cell; those of the last column and row are none.
  const squares = columns * rows;
  const isWhole = new Uint8Array(squares);
  const numbers = levelNumbers(values, options);
  // The squares that any level crosses at all, which are few: all else goes over them.
  let steep = { at: new Uint32Array(1 << 16), low: new Int32Array(1 << 16), high: new Int32Array(1 << 16) };
  let count = 0;
  for (let row = 0; row + 1 < rows; row++)
    for (let at = row * columns; at < (row + 1) * columns - 1; at++) {
      const a = numbers[at]!;
      const b = numbers[at + 1]!;
      const c = numbers[at + columns]!;
      const d = numbers[at + columns + 1]!;
      if (a === b && a === c && a === d) {
        if (a !== NO_LEVEL) isWhole[at] = 1;
        continue;
      }
      const least = Math.min(a, b, c, d);
      if (least === NO_LEVEL) continue;
      isWhole[at] = 1;
      if (count === steep.at.length) steep = doubled(steep);
      steep.at[count] = at;
      steep.low[count] = least;
      steep.high[count++] = Math.max(a, b, c, d);
    }
  const levels = levelsOf(steep.low.subarray(0, count), steep.high.subarray(0, count), options);
  // Of each square the sides over which a line of this level has come in, a bit each.
  const entered = new Uint8Array(squares);
  const lines = new LineCollector(options);
  const beyond = [-columns, 1, columns, -1] as const;
  eachLevel(levels, options, progress, signal, (level, k, crossed) => {
    for (const closes of [false, true])
      for (let n = 0; n < crossed.length; n++) {
        const square = steep.at[crossed[n]!]!;
        // Sides that rise over the level, counter-clockwise, and were not come in over yet.
        const above = aboveIn(square, level);
        const open = RISING[above]! & ~entered[square]!;
        for (let side = 0; open >> side !== 0; side++) {
          if (((open >> side) & 1) === 0 || (entered[square]! >> side) & 1) continue;
          if (!closes && neighbour(square, side) >= 0) continue;
          lines.begin();
          walk(square, side, level);
          lines.end(level, levels.firstLevel + k, closes);
        }
      }
    for (let n = 0; n < crossed.length; n++) entered[steep.at[crossed[n]!]!] = 0;
  });
  return lines.finish([east, north]).contours;

  /** Which corners of a square lie at the level or above, a bit each: from the south-western one, counter-clockwise. */
  function aboveIn(at: number, level: number): number {
    return (
      (values[at]! >= level ? 1 : 0) |
      (values[at + 1]! >= level ? 2 : 0) |
      (values[at + columns + 1]! >= level ? 4 : 0) |
      (values[at + columns]! >= level ? 8 : 0)
    );
  }

  /** The whole square over a side, −1 where there is none. */
  function neighbour(square: number, side: number): number {
    const other = square + beyond[side as 0 | 1 | 2 | 3];
    return isWhole[other] === 1 ? other : -1;
  }

  function walk(first: number, entry: number, level: number): void {
    let [square, side] = [first, entry];
    add(square, side, level);
    for (;;) {
      entered[square]! |= 1 << side;
      const out = exitOf(square, side, level);
      add(square, out, level);
      const next = neighbour(square, out);
      if (next < 0) return;
      square = next;
      side = (out + 2) & 3;
      if (square === first && side === entry) return;
    }
  }

  /** The side where a line that comes in over a rising one leaves: of a saddle's two falling ones that which its middle says. */
  function exitOf(at: number, side: number, level: number): number {
    const above = aboveIn(at, level);
    if (above === 5 || above === 10) {
      const middle = (values[at]! + values[at + 1]! + values[at + columns]! + values[at + columns + 1]!) / 4;
      // Above in the middle the low corner the line comes past is cut off; below, the high one.
      return (side + (middle >= level ? 3 : 1)) & 3;
    }
    return FALLING[above]!;
  }

  /** Where the level crosses a side, reckoned from its western or southern end, so that both squares agree to the last bit. */
  function add(square: number, side: number, level: number): void {
    const isAcross = side === 0 || side === 2;
    const from = square + (side === 2 ? columns : side === 1 ? 1 : 0);
    const to = from + (isAcross ? 1 : columns);
    const share = (level - values[from]!) / (values[to]! - values[from]!);
    const row = (from / columns) | 0;
    const column = from - row * columns;
    lines.add((column + 0.5 + (isAcross ? share : 0)) * cell, (row + 0.5 + (isAcross ? 0 : share)) * cell, square);
  }
}

/** By which corners lie above: the sides that rise, a bit each, and the one that falls where there is but one. Side k runs from corner k to the next. */
const RISING = columnFrom(Uint8Array, { length: 16 }, (_, above) => sidesWhere(above, 0, 1));
const FALLING = columnFrom(Uint8Array, { length: 16 }, (_, above) => Math.log2(sidesWhere(above, 1, 0) || 1));

function sidesWhere(above: number, from: 0 | 1, to: 0 | 1): number {
  let sides = 0;
  for (let side = 0; side < 4; side++)
    if (((above >> side) & 1) === from && ((above >> ((side + 1) & 3)) & 1) === to) sides |= 1 << side;
  return sides;
}

/** Columns that grow together. */
interface Squares {
  readonly at: Uint32Array<ArrayBuffer>;
  readonly low: Int32Array<ArrayBuffer>;
  readonly high: Int32Array<ArrayBuffer>;
}

function doubled({ at, low, high }: Squares): Squares {
  const size = 2 * at.length;
  const out = { at: new Uint32Array(size), low: new Int32Array(size), high: new Int32Array(size) };
  out.at.set(at);
  out.low.set(low);
  out.high.set(high);
  return out;
}
