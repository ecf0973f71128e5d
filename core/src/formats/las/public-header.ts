import { readRecord, writeRecord, type RecordOf } from '../byte-cursor.js';
import type { Quantisation } from '../../cloud/index.js';

/** LAS 1.4 R15, table 3, Public Header Block, up to what 1.0 had too; little-endian throughout. */
export const HEADER_FIELDS = [
  { name: 'signature', at: 0, type: 'ascii4' },
  { name: 'fileSourceId', at: 4, type: 'uint16' },
  { name: 'globalEncoding', at: 6, type: 'uint16' },
  { name: 'versionMajor', at: 24, type: 'uint8' },
  { name: 'versionMinor', at: 25, type: 'uint8' },
  { name: 'systemIdentifier', at: 26, type: 'ascii32' },
  { name: 'generatingSoftware', at: 58, type: 'ascii32' },
  { name: 'creationDay', at: 90, type: 'uint16' },
  { name: 'creationYear', at: 92, type: 'uint16' },
  { name: 'headerSize', at: 94, type: 'uint16' },
  { name: 'pointDataOffset', at: 96, type: 'uint32' },
  { name: 'vlrCount', at: 100, type: 'uint32' },
  { name: 'pointFormat', at: 104, type: 'uint8' },
  { name: 'recordLength', at: 105, type: 'uint16' },
  { name: 'legacyPointCount', at: 107, type: 'uint32' },
  { name: 'legacyReturn1', at: 111, type: 'uint32' },
  { name: 'legacyReturn2', at: 115, type: 'uint32' },
  { name: 'legacyReturn3', at: 119, type: 'uint32' },
  { name: 'legacyReturn4', at: 123, type: 'uint32' },
  { name: 'legacyReturn5', at: 127, type: 'uint32' },
  { name: 'scaleX', at: 131, type: 'float64' },
  { name: 'scaleY', at: 139, type: 'float64' },
  { name: 'scaleZ', at: 147, type: 'float64' },
  { name: 'offsetX', at: 155, type: 'float64' },
  { name: 'offsetY', at: 163, type: 'float64' },
  { name: 'offsetZ', at: 171, type: 'float64' },
  { name: 'maxX', at: 179, type: 'float64' },
  { name: 'minX', at: 187, type: 'float64' },
  { name: 'maxY', at: 195, type: 'float64' },
  { name: 'minY', at: 203, type: 'float64' },
  { name: 'maxZ', at: 211, type: 'float64' },
  { name: 'minZ', at: 219, type: 'float64' },
] as const;

/** What 1.4 adds behind 1.3's waveform offset (table 3). */
export const HEADER_FIELDS_14 = [
  { name: 'waveformOffset', at: 227, type: 'uint64' },
  { name: 'evlrOffset', at: 235, type: 'uint64' },
  { name: 'evlrCount', at: 243, type: 'uint32' },
  { name: 'pointCount', at: 247, type: 'uint64' },
] as const;

export const HEADER_SIZE = { 0: 227, 1: 227, 2: 227, 3: 235, 4: 375 } as const;
export const HEADER_SIZE_LARGEST = 375;

/** Fifteen counts by return number, from byte 255 (1.4). */
const RETURN_COUNTS_AT = 255;

export type PublicHeader = RecordOf<typeof HEADER_FIELDS> & RecordOf<typeof HEADER_FIELDS_14>;

export function readPublicHeader(bytes: Uint8Array, title: string): PublicHeader {
  const base = readRecord(bytes, HEADER_FIELDS, title);
  const later =
    base.versionMinor >= 4
      ? readRecord(bytes, HEADER_FIELDS_14, title)
      : { waveformOffset: 0, evlrOffset: 0, evlrCount: 0, pointCount: base.legacyPointCount };
  return { ...base, ...later };
}

export function writePublicHeader(header: PublicHeader, returnCounts: readonly number[]): Uint8Array {
  const bytes = new Uint8Array(header.headerSize);
  writeRecord(bytes, HEADER_FIELDS, header);
  if (header.versionMinor >= 4) {
    writeRecord(bytes, HEADER_FIELDS_14, header);
    const view = new DataView(bytes.buffer);
    for (let r = 0; r < 15; r++) view.setBigUint64(RETURN_COUNTS_AT + r * 8, BigInt(returnCounts[r] ?? 0), true);
  }
  return bytes;
}

export function quantisationOf(header: PublicHeader): Quantisation {
  return {
    scale: [header.scaleX, header.scaleY, header.scaleZ],
    offset: [header.offsetX, header.offsetY, header.offsetZ],
  };
}
