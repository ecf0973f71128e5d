import { connectedCells } from '../raster/index.js';
import type { SuspectArea, SuspectGrid, SuspectLimits } from './suspect-area.js';
import { placeOf } from './suspect-place.js';

/** A step is so many times as high as what nine tenths of the land falls from cell to cell, but none need be steeper than this. */
const TIMES_USUAL = 3;
const STEEP = 1.5;
/** Where the land beside a step falls by more than a part of it, it is a bank; so many of an area's cells have to be none. */
const ABRUPT = 2;
const ABRUPT_SHARE = 0.35;
const MOST_SAMPLES = 200_000;

/** Where ground falls abruptly from one cell to the next, each as long as it hangs together. */
export function steps(grid: SuspectGrid, { step }: SuspectLimits): SuspectArea[] {
  const { columns, rows, cell, elevation } = grid;
  const least = Math.max(step, Math.min(STEEP * cell, TIMES_USUAL * usualFall(grid)));
  const size = new Float64Array(columns * rows);
  // Half way up: which side of it a point is on says whether it is above or below the step.
  const middle = new Float64Array(columns * rows);
  const isAbrupt = new Uint8Array(columns * rows);
  const fall = (i: number, j: number): number => Math.abs(elevation[i]! - elevation[j]!);
  /** From cell `i` to the next one along a line of cells, `k` of them from its beginning and `left` to its end. */
  const enter = (i: number, along: number, k: number, left: number): void => {
    const drop = fall(i, i + along);
    if (!(drop > least)) return;
    const beside = [k > 0 ? fall(i - along, i) : 0, left > 1 ? fall(i + along, i + 2 * along) : 0];
    const goesOn = drop <= STEEP * cell && beside.some((other) => ABRUPT * other > drop);
    for (const at of [i, i + along]) {
      if (!goesOn) isAbrupt[at] = 1;
      if (drop <= size[at]!) continue;
      size[at] = drop;
      middle[at] = (elevation[i]! + elevation[i + along]!) / 2;
    }
  };
  for (let row = 0, i = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, i++) {
      if (column < columns - 1) enter(i, 1, column, columns - 1 - column);
      if (row < rows - 1) enter(i, columns, row, rows - 1 - row);
    }
  return connectedCells(grid, (i) => size[i]! > 0).flatMap((cells): SuspectArea[] => {
    const abrupt = cells.reduce((sum, i) => sum + isAbrupt[i]!, 0);
    if (abrupt < ABRUPT_SHARE * cells.length) return [];
    const worst = cells.reduce((best, i) => (size[i]! > size[best]! ? i : best));
    // A long even step is a wall or a bank; a short one is more likely a mistake.
    const weight = Math.min(3, size[worst]! / least) / Math.sqrt(1 + cells.length / 12);
    return [{ ...placeOf(grid, cells, middle[worst]!, worst), kind: 'step', size: size[worst]!, weight }];
  });
}

/** What nine tenths of the land falls from cell to cell at most. */
function usualFall({ columns, rows, elevation }: SuspectGrid): number {
  const apart = Math.max(1, Math.floor((columns * rows) / MOST_SAMPLES));
  const falls = new Float64Array(Math.ceil((columns * rows) / apart));
  let count = 0;
  for (let i = 0; i < columns * rows - 1; i += apart) {
    const fall = Math.abs(elevation[i]! - elevation[i + 1]!);
    if (i % columns !== columns - 1 && !Number.isNaN(fall)) falls[count++] = fall;
  }
  return falls.subarray(0, count).sort()[Math.floor(0.9 * count)] ?? 0;
}
