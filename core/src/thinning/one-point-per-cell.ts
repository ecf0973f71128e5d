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

/** Writes each point's cell, numbered in the order they are met, and returns how many cells there are. */
function numberCells(easting: Float64Array, northing: Float64Array, cell: number, cellOf: Uint32Array): number {
  const count = easting.length;
  // Open addressing, at most half full: no extent, however thinly filled, takes more room than its points.
  const size = 2 ** Math.ceil(Math.log2(Math.max(4, count * 2)));
  const slots = new Int32Array(size).fill(-1);
  const columns = new Float64Array(count);
  const rows = new Float64Array(count);
  let cells = 0;
  for (let i = 0; i < count; i++) {
    const column = Math.floor(easting[i]! / cell);
    const row = Math.floor(northing[i]! / cell);
    let slot = (Math.imul(column | 0, 0x9e3779b1) ^ Math.imul(row | 0, 0x85ebca6b)) >>> 0;
    slot = (slot ^ (slot >>> 15)) & (size - 1);
    for (;;) {
      const held = slots[slot]!;
      if (held === -1) {
        columns[cells] = column;
        rows[cells] = row;
        slots[slot] = cells;
        cellOf[i] = cells++;
        break;
      }
      if (columns[held] === column && rows[held] === row) {
        cellOf[i] = held;
        break;
      }
      slot = (slot + 1) & (size - 1);
    }
  }
  return cells;
}
