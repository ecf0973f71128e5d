/** Points gone through with one table: small enough for the processor's own memory, where a table of all would be fetched anew each time. */
const TABLE_POINTS = 16_384;

/**
 * How many points lie exactly on one that came before: the same x, y and z, as scaled integers.
 * @param starts - where groups begin of which no two hold points that coincide, and the end; all points are one where it is left out
 */
export function countDuplicates(
  x: Int32Array,
  y: Int32Array,
  z: Int32Array,
  starts: readonly number[] = [0, x.length],
): number {
  let table = new Int32Array(2 * TABLE_POINTS);
  let duplicates = 0;
  let from = 0;
  for (let k = 1; k < starts.length; k++) {
    const end = starts[k]!;
    const next = starts[k + 1];
    if (next !== undefined && next - from <= TABLE_POINTS) continue;
    const size = 2 ** Math.ceil(Math.log2(Math.max(2, 2 * (end - from))));
    if (size > table.length) table = new Int32Array(size);
    duplicates += countIn(x, y, z, from, end, table.subarray(0, size).fill(0));
    from = end;
  }
  return duplicates;
}

/** Open addressing: the table holds a point's number plus one. */
function countIn(x: Int32Array, y: Int32Array, z: Int32Array, from: number, end: number, table: Int32Array): number {
  const mask = table.length - 1;
  let duplicates = 0;
  for (let i = from; i < end; i++) {
    const px = x[i]!;
    const py = y[i]!;
    const pz = z[i]!;
    const hash = Math.imul(px, 0x9e37_79b1) ^ Math.imul(py, 0x85eb_ca6b) ^ Math.imul(pz, 0xc2b2_ae35);
    let at = (hash ^ (hash >>> 15)) & mask;
    for (;;) {
      const other = table[at]! - 1;
      if (other < 0) {
        table[at] = i + 1;
        break;
      }
      if (x[other] === px && y[other] === py && z[other] === pz) {
        duplicates++;
        break;
      }
      at = (at + 1) & mask;
    }
  }
  return duplicates;
}
