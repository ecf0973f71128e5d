import { numberCells } from './cell-numbers.js';

/** Distances that differ by less are equal, job units: sums depend on their order in the last digits. */
const TIE = 1e-9;

/**
 * Of each square cell keeps the point whose elevation is nearest the cell's mean: a real point, with most of the ranging
 * scatter averaged out. Mean height per cell on smooth ground is common practice, no source. Cells lie on whole multiples
 * of `cell`; of points equally near the lower is kept, so that the order of the points does not matter.
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
    const held = best[c]!;
    if (held === -1 || off < miss[c]! - TIE || (off < miss[c]! + TIE && comesFirst(i, held))) {
      best[c] = i;
      miss[c] = off;
    }
  }
  return Uint32Array.from(best).sort();

  /** Two points lie equally far from their mean; which is kept is settled by where they are. */
  function comesFirst(i: number, held: number): boolean {
    if (elevation[i]! !== elevation[held]!) return elevation[i]! < elevation[held]!;
    if (easting[i]! !== easting[held]!) return easting[i]! < easting[held]!;
    return northing[i]! < northing[held]!;
  }
}
