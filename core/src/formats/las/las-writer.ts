import { emptyBounds, growBounds, integerBounds, type PointBatch, type Quantisation } from '../../cloud/index.js';
import { encodeLazChunk, LASZIP_RECORD, LASZIP_USER, laszipRecord, lazChunkTable } from '../laz/index.js';
import { geoKeysForCrs, type CrsDescription } from '../../geodesy/index.js';
import { checkCancelled } from '../../task/index.js';
import type { ByteSink } from '../byte-source.js';
import { FormatError } from '../format-error.js';
import { GEO_KEY_DIRECTORY_RECORD, PROJECTION_USER, WKT_RECORD } from './crs-records.js';
import { POINT_FORMATS, type PointFormat } from './point-format.js';
import { encodePoints } from './point-record.js';
import { HEADER_SIZE, writePublicHeader, type PublicHeader } from './public-header.js';
import { MOST_VLR_BYTES, variableLengthRecordBytes, type VariableLengthRecord } from './variable-length-record.js';

export interface LasWriterOptions {
  readonly version: '1.2' | '1.4';
  /** 1.4 takes any of 0-10, 1.2 only 0-3. */
  readonly pointFormat: number;
  readonly quantisation: Quantisation;
  /** Writes LAZ: formats 0 to 3 for now. */
  readonly isCompressed?: boolean;
  readonly extraBytesLength?: number;
  readonly crs?: CrsDescription;
  /** Further records of the source to hand on: extra-bytes description, notes. */
  readonly records?: readonly VariableLengthRecord[];
  readonly generatingSoftware?: string;
  /** GPS times are seconds since 6 January 1980 less 10^9 (true), or of the GPS week (false). */
  readonly isStandardGpsTime?: boolean;
  /** Written as creation day and year; a fixed one gives the same bytes each time. */
  readonly created?: Date;
}

/** Points in a file before 1.4 are counted in 32 bits. */
const MOST_LEGACY_POINTS = 0xffff_ffff;
const WKT_GLOBAL_ENCODING_BIT = 16;
const STANDARD_GPS_TIME_BIT = 1;

/**
 * Writes batches as one LAS file. Counts and bounds are gathered on the way and patched into the header last, so that the
 * header never lies. Classes 8 and 12 of the older class byte become key-point and overlap flags in formats 6-10, where
 * those codes are reserved (LAS 1.4 R15, table 17).
 * @returns how many points were written
 * @throws FormatError `value-does-not-fit` when the format cannot hold a class, a return number or the count
 */
export async function writeLas(
  sink: ByteSink,
  batches: AsyncIterable<PointBatch> | Iterable<PointBatch>,
  options: LasWriterOptions,
  signal?: { readonly aborted: boolean },
): Promise<number> {
  const format = POINT_FORMATS[options.pointFormat];
  const minor = options.version === '1.4' ? 4 : 2;
  if (!format || (minor === 2 && format.id > 3)) {
    throw new FormatError('point-format-unknown', {
      what: `LAS ${options.version} has no point format ${options.pointFormat}.`,
      mend: minor === 2 ? 'Choose a point format from 0 to 3, or version 1.4.' : 'Choose a point format from 0 to 10.',
    });
  }
  if (options.isCompressed && format.id > 3) {
    throw new FormatError('compressed-points', {
      what: `Points of format ${format.id} cannot be compressed yet.`,
      mend: 'Choose LAZ with point format 0 to 3, or uncompressed LAS.',
    });
  }
  const records = [
    ...(options.isCompressed ? [laszip(format, options)] : []),
    ...crsRecords(options, format.isExtended),
    ...(options.records ?? []).filter(
      (r) => r.userId !== PROJECTION_USER && r.userId !== LASZIP_USER && r.userId !== 'copc',
    ),
  ]
    .filter((r) => r.data.length <= MOST_VLR_BYTES)
    .map(variableLengthRecordBytes);
  const recordLength = format.length + (options.extraBytesLength ?? 0);
  const headerSize = HEADER_SIZE[minor];
  const pointDataOffset = headerSize + records.reduce((sum, r) => sum + r.length, 0);
  const points = options.isCompressed ? new LazPointSink(sink, format, recordLength) : undefined;
  await sink.append(new Uint8Array(headerSize));
  for (const record of records) await sink.append(record);
  await points?.begin();

  const returnCounts = new Array<number>(15).fill(0);
  const bounds = emptyBounds();
  let count = 0;
  for await (const given of batches) {
    checkCancelled(signal);
    const batch = format.isExtended ? withoutLegacyClasses(given) : given;
    if (!format.isExtended) checkFitsLegacy(batch, count);
    const bytes = new Uint8Array(batch.count * recordLength);
    encodePoints(batch, format, recordLength, bytes);
    if (points) await points.append(bytes);
    else await sink.append(bytes);
    growBounds(bounds, integerBounds(batch.x, batch.y, batch.z));
    for (let i = 0; i < batch.count; i++) {
      const returnNumber = batch.returns[i]! & 0x0f;
      if (returnNumber > 0) returnCounts[returnNumber - 1]!++;
    }
    count += batch.count;
  }
  if (minor === 2 && count > MOST_LEGACY_POINTS) {
    throw new FormatError('value-does-not-fit', {
      what: `${count} points do not fit in LAS 1.2.`,
      mend: 'Choose version 1.4.',
    });
  }
  await points?.finish(pointDataOffset);
  const { scale, offset } = options.quantisation;
  const at = (axis: number, integers: number[]): number =>
    count === 0 ? 0 : integers[axis]! * scale[axis]! + offset[axis]!;
  const legacyCount = !format.isExtended && count <= MOST_LEGACY_POINTS ? count : 0;
  const legacyReturn = (r: number): number => (legacyCount > 0 ? returnCounts[r]! : 0);
  const created = options.created ?? new Date();
  const header: PublicHeader = {
    signature: 'LASF',
    fileSourceId: 0,
    globalEncoding:
      (options.isStandardGpsTime ? STANDARD_GPS_TIME_BIT : 0) | (format.isExtended ? WKT_GLOBAL_ENCODING_BIT : 0),
    versionMajor: 1,
    versionMinor: minor,
    systemIdentifier: 'OTHER',
    generatingSoftware: options.generatingSoftware ?? 'Pampero',
    creationDay: 1 + Math.floor((created.getTime() - Date.UTC(created.getUTCFullYear(), 0, 1)) / 86_400_000),
    creationYear: created.getUTCFullYear(),
    headerSize,
    pointDataOffset,
    vlrCount: records.length,
    pointFormat: options.isCompressed ? format.id | COMPRESSED_BIT : format.id,
    recordLength,
    legacyPointCount: legacyCount,
    legacyReturn1: legacyReturn(0),
    legacyReturn2: legacyReturn(1),
    legacyReturn3: legacyReturn(2),
    legacyReturn4: legacyReturn(3),
    legacyReturn5: legacyReturn(4),
    scaleX: scale[0],
    scaleY: scale[1],
    scaleZ: scale[2],
    offsetX: offset[0],
    offsetY: offset[1],
    offsetZ: offset[2],
    maxX: at(0, bounds.max),
    minX: at(0, bounds.min),
    maxY: at(1, bounds.max),
    minY: at(1, bounds.min),
    maxZ: at(2, bounds.max),
    minZ: at(2, bounds.min),
    waveformOffset: 0,
    evlrOffset: 0,
    evlrCount: 0,
    pointCount: count,
  };
  await sink.patch(0, writePublicHeader(header, returnCounts));
  return count;
}

/** Set in the point format of compressed files. */
const COMPRESSED_BIT = 0x80;
/** Points of a chunk, as LASzip has them unless told otherwise. */
const CHUNK_POINTS = 50_000;

function laszip(format: PointFormat, { extraBytesLength = 0 }: LasWriterOptions): VariableLengthRecord {
  const parts = { hasGpsTime: format.gpsTimeAt !== undefined, hasRgb: format.rgbAt !== undefined, extraBytesLength };
  return {
    userId: LASZIP_USER,
    recordId: LASZIP_RECORD,
    description: 'LASzip compression',
    data: laszipRecord(CHUNK_POINTS, parts),
  };
}

/** Gathers records into chunks, compresses them, and ends with the table that says where they are. */
class LazPointSink {
  private readonly chunk: Uint8Array;
  private filled = 0;
  private readonly lengths: number[] = [];

  constructor(
    private readonly sink: ByteSink,
    private readonly format: PointFormat,
    private readonly recordLength: number,
  ) {
    this.chunk = new Uint8Array(CHUNK_POINTS * recordLength);
  }

  /** Leaves room for the place of the chunk table. */
  begin(): Promise<void> {
    return this.sink.append(new Uint8Array(8));
  }

  async append(records: Uint8Array): Promise<void> {
    for (let from = 0; from < records.length;) {
      const part = records.subarray(from, from + this.chunk.length - this.filled);
      this.chunk.set(part, this.filled);
      this.filled += part.length;
      from += part.length;
      if (this.filled === this.chunk.length) await this.writeChunk();
    }
  }

  async finish(pointDataOffset: number): Promise<void> {
    if (this.filled > 0) await this.writeChunk();
    const place = new Uint8Array(8);
    const tableAt = pointDataOffset + 8 + this.lengths.reduce((sum, length) => sum + length, 0);
    new DataView(place.buffer).setBigInt64(0, BigInt(tableAt), true);
    await this.sink.append(lazChunkTable(this.lengths));
    await this.sink.patch(pointDataOffset, place);
  }

  private async writeChunk(): Promise<void> {
    const { gpsTimeAt, rgbAt, length } = this.format;
    const coded = encodeLazChunk(this.chunk.subarray(0, this.filled), this.recordLength, {
      ...(gpsTimeAt !== undefined && { gpsTimeAt }),
      ...(rgbAt !== undefined && { rgbAt }),
      ...(this.recordLength > length && { extraBytesAt: length }),
    });
    this.lengths.push(coded.length);
    this.filled = 0;
    await this.sink.append(coded);
  }
}

function crsRecords({ crs }: LasWriterOptions, isExtended: boolean): VariableLengthRecord[] {
  if (!crs) return [];
  if (isExtended && crs.wkt) {
    // The record is null-terminated ASCII; a letter outside it, as in a place's name, becomes "?".
    const data = Uint8Array.from(`${crs.wkt}\0`, (c) => (c.charCodeAt(0) < 128 ? c.charCodeAt(0) : 63));
    return [{ userId: PROJECTION_USER, recordId: WKT_RECORD, description: 'OGC well-known text', data }];
  }
  if (!isExtended && crs.epsg !== undefined && crs.epsg < 32_767) {
    const horizontalUnit = crs.horizontalUnit ?? 'metre';
    const words = geoKeysForCrs({ epsg: crs.epsg, horizontalUnit, verticalUnit: crs.verticalUnit ?? horizontalUnit });
    const data = new Uint8Array(words.length * 2);
    words.forEach((word, i) => data.set([word & 0xff, word >> 8], i * 2));
    return [
      { userId: PROJECTION_USER, recordId: GEO_KEY_DIRECTORY_RECORD, description: 'GeoTIFF GeoKeyDirectory', data },
    ];
  }
  return [];
}

function withoutLegacyClasses(batch: PointBatch): PointBatch {
  let { classification, flags } = batch;
  for (let i = 0; i < batch.count; i++) {
    const code = batch.classification[i]!;
    if (code !== 8 && code !== 12) continue;
    if (classification === batch.classification) {
      classification = batch.classification.slice();
      flags = batch.flags.slice();
    }
    classification[i] = code === 8 ? 2 : 1;
    flags[i] = flags[i]! | (code === 8 ? 2 : 8);
  }
  return { ...batch, classification, flags };
}

function checkFitsLegacy(batch: PointBatch, first: number): void {
  for (let i = 0; i < batch.count; i++) {
    const code = batch.classification[i]!;
    const returnNumber = batch.returns[i]! & 0x0f;
    if (code > 31 || returnNumber > 7) {
      throw new FormatError('value-does-not-fit', {
        what:
          code > 31
            ? `Class ${code} does not fit: point formats 0-5 hold classes 0 to 31.`
            : `Return ${returnNumber} does not fit: point formats 0-5 hold returns up to 7.`,
        where: `point ${first + i}`,
        mend: 'Choose LAS 1.4 with point format 6, 7 or 8.',
      });
    }
  }
}
