import { noProgress, type Progress } from '../task/index.js';
import type { GridFrame } from '../terrain/index.js';
import { eachLevel, levelNumbers, levelsOf, LineCollector, NO_LEVEL } from './level-lines.js';
import type { ContourOptions, ContourSet } from './trace-contours.js';

/**
 * Contours of a grid, through the centres of its cells: linear along the sides of the squares between four centres (marching squares,
 * after Lorensen and Cline 1987, SIGGRAPH Computer Graphics 21(4), 163-169); where a square is a saddle its middle says which pair of
 * corners hangs together. Higher ground lies on the right, nothing is drawn beside a cell without a value.
 * @param values - rows times columns, row 0 the southernmost, NaN where there is none
 * @throws TerrainError `interval-wrong`, `too-many-contours`
 */
export function traceGrid(
  values: Float32Array,
  { east, north, cell, columns, rows }: GridFrame,
  options: ContourOptions,
  progress: Progress = noProgress,
  signal?: { readonly aborted: boolean },
): ContourSet {
  // A square has the number of its south-western cell; those of the last column and row are none.
  const squares = columns * rows;
  const isWhole = new Uint8Array(squares);
  const steps = [0, 1, columns + 1, columns] as const;
  const numbers = levelNumbers(values, options);
  const [low, high] = [new Int32Array(squares), new Int32Array(squares)];
  for (let row = 0; row + 1 < rows; row++)
    for (let at = row * columns; at < (row + 1) * columns - 1; at++) {
      const a = numbers[at]!;
      const b = numbers[at + 1]!;
      const c = numbers[at + columns]!;
      const d = numbers[at + columns + 1]!;
      const least = Math.min(a, b, c, d);
      if (least === NO_LEVEL) continue;
      isWhole[at] = 1;
      low[at] = least;
      high[at] = Math.max(a, b, c, d);
    }
  const levels = levelsOf(low, high, options);
  // Each of the four sides of a square is an entry once a level at most.
  const seenAt = new Int32Array(4 * squares).fill(-1);
  const lines = new LineCollector(options);
  const beyond = [-columns, 1, columns, -1] as const;
  eachLevel(levels, options, progress, signal, (level, k, crossed) => {
    for (const closes of [false, true])
      for (const square of crossed) {
        for (let side = 0; side < 4; side++) {
          if (!isRising(square, side, level) || seenAt[4 * square + side] === k) continue;
          if (!closes && neighbour(square, side) >= 0) continue;
          lines.begin();
          walk(square, side, level, k);
          lines.end(level, levels.firstLevel + k, closes);
        }
      }
  });
  return lines.finish([east, north]).contours;

  function isAbove(at: number, corner: number, level: number): boolean {
    return values[at + steps[(corner & 3) as 0 | 1 | 2 | 3]]! >= level;
  }

  /** Side k runs from corner k to the next. */
  function isRising(at: number, side: number, level: number): boolean {
    return !isAbove(at, side, level) && isAbove(at, side + 1, level);
  }

  /** The whole square over a side, −1 where there is none. */
  function neighbour(square: number, side: number): number {
    const other = square + beyond[side as 0 | 1 | 2 | 3];
    return isWhole[other] === 1 ? other : -1;
  }

  function walk(first: number, entry: number, level: number, k: number): void {
    let [square, side] = [first, entry];
    add(square, side, level);
    for (;;) {
      seenAt[4 * square + side] = k;
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
    const falls = (s: number): boolean => isAbove(at, s, level) && !isAbove(at, s + 1, level);
    const [next, across2, previous] = [(side + 1) & 3, (side + 2) & 3, (side + 3) & 3];
    if (falls(next) && falls(previous)) {
      const middle = (values[at]! + values[at + 1]! + values[at + columns]! + values[at + columns + 1]!) / 4;
      // Above in the middle the low corner the line comes past is cut off; below, the high one.
      return middle >= level ? previous : next;
    }
    return falls(next) ? next : falls(across2) ? across2 : previous;
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
