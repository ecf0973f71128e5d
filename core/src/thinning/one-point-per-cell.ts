import { numberCells } from './cell-numbers.js';

/**
 * Of each square cell keeps the point whose elevation is nearest the cell's mean: a real point, with most of the ranging
 * scatter averaged out. Mean height per cell on smooth ground is common practice, no source. Cells lie on whole multiples
 * of `cell`; ties go to the point that comes first.
 * @param easting - n coordinates, job units; likewise `northing`, `elevation`
 * @returns indices of the kept points, ascending; a new array
 */
export function onePointPerCell(
  easting: Float64Array,
  northing: Float64Array,
  elevation: Float64Array,
  cell: number,
): Uint32Array {
  const count = easting.length;
  const cellOf = new Uint32Array(count);
  const cells = numberCells(easting, northing, cell, cellOf);
  const sums = new Float64Array(cells);
  const counts = new Uint32Array(cells);
  // Sums about one elevation near all of them: heights of 3000 m would eat the last digits.
  const datum = count > 0 ? elevation[0]! : 0;
  for (let i = 0; i < count; i++) {
    sums[cellOf[i]!]! += elevation[i]! - datum;
    counts[cellOf[i]!]!++;
  }
  const best = new Int32Array(cells).fill(-1);
  const miss = new Float64Array(cells);
  for (let i = 0; i < count; i++) {
    const c = cellOf[i]!;
    const off = Math.abs(elevation[i]! - datum - sums[c]! / counts[c]!);
    if (best[c] === -1 || off < miss[c]!) {
      best[c] = i;
      miss[c] = off;
    }
  }
  return Uint32Array.from(best).sort();
}
