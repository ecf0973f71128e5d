import { ArithmeticEncoder, IntegerEncoder } from './arithmetic-encoder.js';

/** The table of chunk lengths that ends a LAZ file: version, count, then the lengths coded. */
export function lazChunkTable(lengths: readonly number[]): Uint8Array {
  const head = new Uint8Array(8);
  new DataView(head.buffer).setUint32(4, lengths.length, true);
  if (lengths.length === 0) return head;
  const encoder = new ArithmeticEncoder();
  const integers = new IntegerEncoder(encoder, 32, 2);
  let last = 0;
  for (const length of lengths) {
    integers.put(last, length, 1);
    last = length;
  }
  const coded = encoder.finish();
  const table = new Uint8Array(8 + coded.length);
  table.set(head);
  table.set(coded, 8);
  return table;
}

/** Items of the LASzip record: type, bytes, version. */
const ITEMS = { point10: [6, 20, 2], gpsTime11: [7, 8, 2], rgb12: [8, 6, 2] } as const;

/** The LASzip record for pointwise chunks of `chunkSize` points. */
export function laszipRecord(
  chunkSize: number,
  parts: { readonly hasGpsTime: boolean; readonly hasRgb: boolean; readonly extraBytesLength: number },
): Uint8Array {
  const items = [
    ITEMS.point10,
    ...(parts.hasGpsTime ? [ITEMS.gpsTime11] : []),
    ...(parts.hasRgb ? [ITEMS.rgb12] : []),
    ...(parts.extraBytesLength > 0 ? [[0, parts.extraBytesLength, 2]] : []),
  ];
  const bytes = new Uint8Array(34 + 6 * items.length);
  const view = new DataView(bytes.buffer);
  view.setUint16(0, 2, true); // pointwise, chunked
  view.setUint8(4, 2); // LASzip 2.2
  view.setUint8(5, 2);
  view.setUint32(12, chunkSize, true);
  view.setBigInt64(16, -1n, true); // no special records
  view.setBigInt64(24, -1n, true);
  view.setUint16(32, items.length, true);
  items.forEach((item, i) => item.forEach((value, k) => view.setUint16(34 + 6 * i + 2 * k, value, true)));
  return bytes;
}
