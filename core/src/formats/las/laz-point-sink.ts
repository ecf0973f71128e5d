import {
  encodeLayeredLazChunk,
  encodeLazChunk,
  LASZIP_RECORD,
  LASZIP_USER,
  laszipRecord,
  lazChunkTable,
  scannerChannel,
  VARIABLE_CHUNKS,
} from '../laz/index.js';
import type { ByteSink } from '../byte-source.js';
import { FormatError } from '../format-error.js';
import type { PointFormat } from './point-format.js';
import type { VariableLengthRecord } from './variable-length-record.js';

/** Points of a chunk, as LASzip has them unless told otherwise. */
const CHUNK_POINTS = 50_000;

/** How records of a format are compressed. */
export interface LazEncoding {
  readonly recordLength: number;
  /** Layers beside the point itself, or bytes beyond the standard's: then a chunk holds one scanner channel only. */
  readonly isOfOneChannel: boolean;
  /** The LASzip record of the file. */
  readonly record: VariableLengthRecord;
  encode(records: Uint8Array): Uint8Array;
}

/**
 * @throws FormatError for formats with waveforms, which have no compression here
 */
export function lazEncoding(format: PointFormat, extraBytesLength: number, isVariable = false): LazEncoding {
  const { gpsTimeAt, rgbAt, nearInfraredAt, isExtended, length } = format;
  if (format.wavePacketAt !== undefined) {
    throw new FormatError('compressed-points', {
      what: `Points of format ${format.id} carry waveforms and cannot be compressed.`,
      fix: 'Choose LAZ with point format 0 to 3 or 6 to 8, or uncompressed LAS.',
    });
  }
  const recordLength = length + extraBytesLength;
  const extra = extraBytesLength > 0 && { extraBytesAt: length };
  const isOfOneChannel = isExtended && (rgbAt !== undefined || extraBytesLength > 0);
  const record: VariableLengthRecord = {
    userId: LASZIP_USER,
    recordId: LASZIP_RECORD,
    description: 'LASzip compression',
    data: laszipRecord(isVariable || isOfOneChannel ? VARIABLE_CHUNKS : CHUNK_POINTS, {
      isLayered: isExtended,
      hasGpsTime: gpsTimeAt !== undefined,
      hasRgb: rgbAt !== undefined,
      hasNearInfrared: nearInfraredAt !== undefined,
      extraBytesLength,
    }),
  };
  const rgb = rgbAt !== undefined && { rgbAt };
  return {
    recordLength,
    isOfOneChannel,
    record,
    encode: (records) =>
      isExtended
        ? encodeLayeredLazChunk(records, recordLength, {
            ...rgb,
            hasNearInfrared: nearInfraredAt !== undefined,
            ...extra,
          })
        : encodeLazChunk(records, recordLength, { ...(gpsTimeAt !== undefined && { gpsTimeAt }), ...rgb, ...extra }),
  };
}

/** Chunks one after the other, and in the end the table that says where they are. */
export class LazChunkSink {
  private readonly lengths: number[] = [];
  private readonly counts: number[] = [];
  /** Where the next chunk will lie. */
  at: number;

  constructor(
    private readonly sink: ByteSink,
    private readonly encoding: LazEncoding,
    private readonly pointDataOffset: number,
    private readonly isVariable: boolean,
  ) {
    this.at = pointDataOffset + 8;
  }

  /** Leaves room for the place of the chunk table. */
  begin(): Promise<void> {
    return this.sink.append(new Uint8Array(8));
  }

  /** Compresses these records into a chunk of their own; returns its length. */
  async append(records: Uint8Array): Promise<number> {
    const coded = this.encoding.encode(records);
    this.lengths.push(coded.length);
    this.counts.push(records.length / this.encoding.recordLength);
    this.at += coded.length;
    await this.sink.append(coded);
    return coded.length;
  }

  /** Writes the table; returns where the file goes on. */
  async finish(): Promise<number> {
    const place = new Uint8Array(8);
    new DataView(place.buffer).setBigInt64(0, BigInt(this.at), true);
    const table = lazChunkTable(this.lengths, this.isVariable ? this.counts : undefined);
    await this.sink.append(table);
    await this.sink.patch(this.pointDataOffset, place);
    return this.at + table.length;
  }
}

/**
 * Gathers records into chunks of the usual size. Where a chunk may hold one scanner channel only, each channel fills chunks
 * of its own.
 */
export class LazPointSink {
  private readonly gathered: { readonly bytes: Uint8Array; filled: number }[] = [];
  private readonly chunks: LazChunkSink;

  constructor(
    sink: ByteSink,
    private readonly encoding: LazEncoding,
    pointDataOffset: number,
  ) {
    this.chunks = new LazChunkSink(sink, encoding, pointDataOffset, encoding.isOfOneChannel);
  }

  begin(): Promise<void> {
    return this.chunks.begin();
  }

  async append(records: Uint8Array): Promise<void> {
    const { recordLength, isOfOneChannel } = this.encoding;
    for (let from = 0; from < records.length;) {
      const channel = isOfOneChannel ? scannerChannel(records, from) : 0;
      const chunk = (this.gathered[channel] ??= { bytes: new Uint8Array(CHUNK_POINTS * recordLength), filled: 0 });
      let end = Math.min(records.length, from + chunk.bytes.length - chunk.filled);
      if (isOfOneChannel)
        for (let at = from + recordLength; at < end; at += recordLength)
          if (scannerChannel(records, at) !== channel) end = at;
      chunk.bytes.set(records.subarray(from, end), chunk.filled);
      chunk.filled += end - from;
      from = end;
      if (chunk.filled === chunk.bytes.length) await this.flush(chunk);
    }
  }

  async finish(): Promise<number> {
    for (const chunk of this.gathered) if (chunk && chunk.filled > 0) await this.flush(chunk);
    return this.chunks.finish();
  }

  private async flush(chunk: { readonly bytes: Uint8Array; filled: number }): Promise<void> {
    await this.chunks.append(chunk.bytes.subarray(0, chunk.filled));
    chunk.filled = 0;
  }
}
