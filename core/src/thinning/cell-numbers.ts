/** Writes the square cell of each point, numbered in the order they are met, and returns how many cells there are. Cells lie on whole multiples of `cell`. */
export function numberCells(easting: Float64Array, northing: Float64Array, cell: number, cellOf: Uint32Array): number {
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
