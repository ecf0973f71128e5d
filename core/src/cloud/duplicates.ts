/** How many points lie exactly on one that came before: the same x, y and z, as scaled integers. */
export function countDuplicates(x: Int32Array, y: Int32Array, z: Int32Array): number {
  const count = x.length;
  // Open addressing: the table holds a point's number plus one.
  const size = 2 ** Math.ceil(Math.log2(Math.max(2, count * 2)));
  const mask = size - 1;
  const table = new Int32Array(size);
  let duplicates = 0;
  for (let i = 0; i < count; i++) {
    const [px, py, pz] = [x[i]!, y[i]!, z[i]!];
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
