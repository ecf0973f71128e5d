/** CRC-32C (Castagnoli), reflected polynomial 0x82F63B78: ASTM E2807, page checksums; RFC 3720, appendix B.4. */
const TABLES = makeTables();

/** Four bytes a step ("slicing"): a checksum is on every page of a file. */
function makeTables(): Uint32Array[] {
  const tables = [0, 1, 2, 3].map(() => new Uint32Array(256));
  for (let byte = 0; byte < 256; byte++) {
    let crc = byte;
    for (let bit = 0; bit < 8; bit++) crc = crc & 1 ? (crc >>> 1) ^ 0x82f6_3b78 : crc >>> 1;
    tables[0]![byte] = crc;
  }
  for (let byte = 0; byte < 256; byte++)
    for (let k = 1; k < 4; k++) {
      const before = tables[k - 1]![byte]!;
      tables[k]![byte] = (before >>> 8) ^ tables[0]![before & 255]!;
    }
  return tables;
}

export function crc32c(bytes: Uint8Array): number {
  const [t0, t1, t2, t3] = TABLES as [Uint32Array, Uint32Array, Uint32Array, Uint32Array];
  let crc = 0xffff_ffff;
  let at = 0;
  for (; at + 4 <= bytes.length; at += 4) {
    crc ^= bytes[at]! | (bytes[at + 1]! << 8) | (bytes[at + 2]! << 16) | (bytes[at + 3]! << 24);
    crc = t3[crc & 255]! ^ t2[(crc >>> 8) & 255]! ^ t1[(crc >>> 16) & 255]! ^ t0[crc >>> 24]!;
  }
  for (; at < bytes.length; at++) crc = (crc >>> 8) ^ t0[(crc ^ bytes[at]!) & 255]!;
  return ~crc >>> 0;
}
