import { readRecord } from '../byte-cursor.js';
import type { ByteSource } from '../byte-source.js';
import { FormatError, type FormatWarning } from '../format-error.js';
import type { VariableLengthRecord } from '../las/variable-length-record.js';
import { ArithmeticDecoder, IntegerDecoder } from './arithmetic-decoder.js';
import { VARIABLE_CHUNKS } from './laz-chunk-table.js';

/** A run of compressed points that can be decoded on its own. */
export interface LazChunk {
  readonly at: number;
  readonly length: number;
  readonly count: number;
}

export const LASZIP_USER = 'laszip encoded';
export const LASZIP_RECORD = 22_204;
const CHUNKED_POINTWISE = 2;
const CHUNKED_LAYERED = 3;
/** Formats that the WebAssembly decoder knows. */
const READABLE_FORMATS: readonly number[] = [0, 1, 2, 3, 6, 7, 8];

/**
 * Points that a byte can stand for at most: points that never change compress to one byte for 650 with our own encoder,
 * and no content does better. What is beyond is not believed.
 */
const MOST_POINTS_A_BYTE = 2000;
/** Bytes of a chunk's points once decoded; writers put 50 000 points into a chunk, some megabytes. */
const LARGEST_CHUNK = 256 * 1024 * 1024;

/** The LASzip record: Isenburg, "LASzip file format", version 3.4. */
const LASZIP_FIELDS = [
  { name: 'compressor', at: 0, type: 'uint16' },
  { name: 'versionMajor', at: 4, type: 'uint8' },
  { name: 'chunkSize', at: 12, type: 'uint32' },
  { name: 'itemCount', at: 32, type: 'uint16' },
] as const;
/** An item of a record: type, bytes and version, two bytes each. */
const ITEMS_AT = 34;
const ITEM_BYTES = 6;

/**
 * Finds the chunks of a LAZ file by its chunk table.
 * @throws FormatError when the compression is unknown or the table cannot be read
 */
export async function readLazChunks(
  source: ByteSource,
  facts: {
    readonly pointFormat: number;
    readonly recordLength: number;
    readonly pointDataOffset: number;
    readonly pointCount: number;
    readonly records: readonly VariableLengthRecord[];
  },
  warnings: FormatWarning[],
): Promise<LazChunk[]> {
  const { pointFormat, recordLength, pointDataOffset, pointCount, records } = facts;
  const record = records.find((r) => r.userId === LASZIP_USER && r.recordId === LASZIP_RECORD);
  if (!record)
    throw damaged(
      source,
      'The points are compressed, but the record that says how (laszip encoded, 22204) is missing.',
    );
  const laszip = readRecord(record.data, LASZIP_FIELDS, `${source.name}, LASzip record`);
  if (![CHUNKED_POINTWISE, CHUNKED_LAYERED].includes(laszip.compressor) || !READABLE_FORMATS.includes(pointFormat)) {
    throw new FormatError('compressed-points', {
      what: `Compressor ${laszip.compressor} of point format ${pointFormat} is not known; formats 0 to 3 and 6 to 8 in chunks can be read.`,
      where: source.name,
      fix: 'Write the file as LAS, or compress it with a current program.',
    });
  }
  checkItems(record.data, laszip.itemCount, recordLength, source);
  const tableAt = await readTableOffset(source, pointDataOffset);
  const head = await source.read(tableAt, tableAt + 8);
  if (head.length < 8)
    throw damaged(source, `The chunk table is said to lie at byte ${tableAt}, the file ends at ${source.size}.`);
  const view = new DataView(head.buffer, head.byteOffset, 8);
  const chunkCount = view.getUint32(4, true);
  // No chunk is smaller than its first point, uncompressed; a table that promises more chunks lies.
  if (view.getUint32(0, true) !== 0 || chunkCount > (tableAt - pointDataOffset) / 12) {
    throw damaged(
      source,
      `The chunk table at byte ${tableAt} counts ${chunkCount} chunks in ${tableAt - pointDataOffset} bytes.`,
    );
  }
  const chunks: LazChunk[] = [];
  if (chunkCount > 0) {
    const coded = await source.read(tableAt + 8, Math.min(source.size, tableAt + 8 + 16 + chunkCount * 12));
    const integers = new IntegerDecoder(new ArithmeticDecoder(coded, `${source.name}, chunk table`), 2);
    let at = pointDataOffset + 8;
    let counted = 0;
    let lastCount = 0;
    let length = 0;
    for (let i = 0; i < chunkCount; i++) {
      if (laszip.chunkSize === VARIABLE_CHUNKS) lastCount = integers.next(lastCount, 0);
      else lastCount = Math.min(laszip.chunkSize, pointCount - counted);
      length = integers.next(length, 1);
      if (length === 0 || at + length > tableAt) {
        throw damaged(
          source,
          `Chunk ${i + 1} of ${chunkCount} is said to end at byte ${at + length}, the chunk table begins at ${tableAt}.`,
        );
      }
      if (lastCount > length * MOST_POINTS_A_BYTE || lastCount * recordLength > LARGEST_CHUNK) {
        throw damaged(
          source,
          `Chunk ${i + 1} of ${chunkCount} is said to hold ${lastCount} points in ${length} bytes, which cannot be.`,
        );
      }
      if (lastCount > 0) chunks.push({ at, length, count: lastCount });
      at += length;
      counted += lastCount;
    }
  }
  const total = chunks.reduce((sum, chunk) => sum + chunk.count, 0);
  if (total !== pointCount) {
    warnings.push({
      code: 'counts-disagree',
      message: `The header counts ${pointCount} points, the chunk table ${total}. Those of the chunk table are used.`,
    });
  }
  return chunks;
}

/** The parts of a record, by the compression's own account, have to make up the record the header speaks of. */
function checkItems(record: Uint8Array, count: number, recordLength: number, source: ByteSource): void {
  const view = new DataView(record.buffer, record.byteOffset, record.byteLength);
  let bytes = 0;
  for (let i = 0; i < count; i++) {
    const at = ITEMS_AT + i * ITEM_BYTES;
    if (at + ITEM_BYTES > record.length)
      throw damaged(source, `The record laszip encoded counts ${count} items, and ends after ${i} of them.`);
    bytes += view.getUint16(at + 2, true);
  }
  if (bytes !== recordLength)
    throw damaged(source, `The compressed items make up ${bytes} bytes a point, the header says ${recordLength}.`);
}

/** The table's place is written before the points, or, by writers that could not go back, at the file's end. */
async function readTableOffset(source: ByteSource, pointDataOffset: number): Promise<number> {
  const at = async (position: number): Promise<number> => {
    const bytes = await source.read(position, position + 8);
    return bytes.length < 8 ? -1 : Number(new DataView(bytes.buffer, bytes.byteOffset, 8).getBigInt64(0, true));
  };
  let tableAt = await at(pointDataOffset);
  if (tableAt === -1) tableAt = await at(source.size - 8);
  if (tableAt < pointDataOffset + 8 || tableAt + 8 > source.size) {
    throw damaged(
      source,
      `The chunk table is said to lie at byte ${tableAt}; the points begin at ${pointDataOffset} and the file ends at ${source.size}.`,
    );
  }
  return tableAt;
}

function damaged(source: ByteSource, what: string): FormatError {
  return new FormatError('chunk-table-wrong', {
    what,
    where: source.name,
    fix: 'The file is damaged or cut short: copy or compress it again.',
  });
}
