import { ArithmeticEncoder, IntegerEncoder } from './arithmetic-encoder.js';

/** In place of a chunk size: chunks differ, and the table says how many points each has. */
export const VARIABLE_CHUNKS = 0xffff_ffff;

/**
 * The table of chunk lengths that ends a LAZ file: version, count, then the lengths coded, each after its count of points
 * where chunks differ in that.
 */
export function lazChunkTable(lengths: readonly number[], counts?: readonly number[]): Uint8Array {
  const head = new Uint8Array(8);
  new DataView(head.buffer).setUint32(4, lengths.length, true);
  if (lengths.length === 0) return head;
  const encoder = new ArithmeticEncoder();
  const integers = new IntegerEncoder(encoder, 32, 2);
  lengths.forEach((length, i) => {
    if (counts) integers.put(counts[i - 1] ?? 0, counts[i]!, 0);
    integers.put(lengths[i - 1] ?? 0, length, 1);
  });
  const coded = encoder.finish();
  const table = new Uint8Array(8 + coded.length);
  table.set(head);
  table.set(coded, 8);
  return table;
}

/** What a record has beside its point. */
export interface LaszipParts {
  /** Formats 6 to 8. */
  readonly isLayered: boolean;
  /** Of formats 0 to 3; in 6 to 8 the time is part of the point. */
  readonly hasGpsTime: boolean;
  readonly hasRgb: boolean;
  readonly hasNearInfrared: boolean;
  readonly extraBytesLength: number;
}

/** Items of a record: type, bytes, version. */
function itemsOf({ isLayered, hasGpsTime, hasRgb, hasNearInfrared, extraBytesLength }: LaszipParts): number[][] {
  const extra = extraBytesLength > 0;
  return isLayered
    ? [
        [10, 30, 3],
        ...(hasNearInfrared ? [[12, 8, 3]] : hasRgb ? [[11, 6, 3]] : []),
        ...(extra ? [[14, extraBytesLength, 3]] : []),
      ]
    : [
        [6, 20, 2],
        ...(hasGpsTime ? [[7, 8, 2]] : []),
        ...(hasRgb ? [[8, 6, 2]] : []),
        ...(extra ? [[0, extraBytesLength, 2]] : []),
      ];
}

/** The LASzip record for chunks of `chunkSize` points, or of differing size ({@link VARIABLE_CHUNKS}). */
export function laszipRecord(chunkSize: number, parts: LaszipParts): Uint8Array {
  const items = itemsOf(parts);
  const bytes = new Uint8Array(34 + 6 * items.length);
  const view = new DataView(bytes.buffer);
  view.setUint16(0, parts.isLayered ? 3 : 2, true); // chunked: in layers or pointwise
  view.setUint8(4, parts.isLayered ? 3 : 2); // LASzip 3.4 or 2.2
  view.setUint8(5, parts.isLayered ? 4 : 2);
  view.setUint32(12, chunkSize, true);
  view.setBigInt64(16, -1n, true); // no special records
  view.setBigInt64(24, -1n, true);
  view.setUint16(32, items.length, true);
  items.forEach((item, i) => item.forEach((value, k) => view.setUint16(34 + 6 * i + 2 * k, value, true)));
  return bytes;
}
