import { readRecord, writeRecord } from '../byte-cursor.js';
import type { ByteSource } from '../byte-source.js';
import type { FormatWarning } from '../format-error.js';

/** LAS 1.4 R15, table 4. */
const VLR_FIELDS = [
  { name: 'reserved', at: 0, type: 'uint16' },
  { name: 'userId', at: 2, type: 'ascii16' },
  { name: 'recordId', at: 18, type: 'uint16' },
  { name: 'length', at: 20, type: 'uint16' },
  { name: 'description', at: 22, type: 'ascii32' },
] as const;
export const VLR_HEADER_LENGTH = 54;

/** LAS 1.4 R15, table 26. */
const EVLR_FIELDS = [
  { name: 'reserved', at: 0, type: 'uint16' },
  { name: 'userId', at: 2, type: 'ascii16' },
  { name: 'recordId', at: 18, type: 'uint16' },
  { name: 'length', at: 20, type: 'uint64' },
  { name: 'description', at: 28, type: 'ascii32' },
] as const;
export const EVLR_HEADER_LENGTH = 60;

/** A record whose body is kept: CRS, extra bytes and whatever else the file brings along. */
export interface VariableLengthRecord {
  readonly userId: string;
  readonly recordId: number;
  readonly description: string;
  readonly data: Uint8Array;
}

/** More than any CRS, table of extra bytes or note needs; waveform packets and pyramids are larger and stay in the file. */
const MOST_KEPT_BYTES = 4 * 1024 * 1024;

/**
 * Walks `count` records from `begin`, never past `end`. A count or length that overruns the file ends the walk with a
 * warning: the points do not depend on these records.
 */
export async function readVariableLengthRecords(
  source: ByteSource,
  range: { begin: number; end: number; count: number; isExtended: boolean },
  warnings: FormatWarning[],
): Promise<VariableLengthRecord[]> {
  const { begin, end, count, isExtended } = range;
  const headerLength = isExtended ? EVLR_HEADER_LENGTH : VLR_HEADER_LENGTH;
  const kind = isExtended ? 'EVLR' : 'VLR';
  const records: VariableLengthRecord[] = [];
  let at = begin;
  let kept = 0;
  for (let i = 0; i < count; i++) {
    const title = `${source.name}, ${kind} ${i + 1} of ${count} at byte ${at}`;
    if (at + headerLength > end) {
      warnings.push({
        code: 'records-overrun',
        message: `${title}: it does not fit before byte ${end}. It and those after it were left out.`,
      });
      break;
    }
    const headerBytes = await source.read(at, at + headerLength);
    const header = isExtended
      ? readRecord(headerBytes, EVLR_FIELDS, title)
      : readRecord(headerBytes, VLR_FIELDS, title);
    const bodyAt = at + headerLength;
    if (bodyAt + header.length > end) {
      warnings.push({
        code: 'records-overrun',
        message: `${title}: its ${header.length} bytes run past byte ${end}. It and those after it were left out.`,
      });
      break;
    }
    if (kept + header.length <= MOST_KEPT_BYTES) {
      const data = (await source.read(bodyAt, bodyAt + header.length)).slice();
      records.push({ userId: header.userId, recordId: header.recordId, description: header.description, data });
      kept += header.length;
    } else {
      warnings.push({
        code: 'record-too-large',
        message: `${title}: ${header.userId}/${header.recordId} has ${header.length} bytes and was left in the file.`,
      });
    }
    at = bodyAt + header.length;
  }
  return records;
}

export function variableLengthRecordBytes(record: VariableLengthRecord): Uint8Array {
  const bytes = new Uint8Array(VLR_HEADER_LENGTH + record.data.length);
  writeRecord(bytes, VLR_FIELDS, { ...record, reserved: 0, length: record.data.length });
  bytes.set(record.data, VLR_HEADER_LENGTH);
  return bytes;
}

export function extendedRecordBytes(record: VariableLengthRecord): Uint8Array {
  const bytes = new Uint8Array(EVLR_HEADER_LENGTH + record.data.length);
  writeRecord(bytes, EVLR_FIELDS, { ...record, reserved: 0, length: record.data.length });
  bytes.set(record.data, EVLR_HEADER_LENGTH);
  return bytes;
}

/** The longest body a plain VLR can hold: its length is 16 bits. */
export const MOST_VLR_BYTES = 65_535;
