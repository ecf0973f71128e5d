import { newPointBatch, type PointBatch, type PointColumns, type Quantisation } from '../../cloud/index.js';
import type { CrsDescription } from '../../geodesy/index.js';
import { checkCancelled } from '../../task/index.js';
import type { ByteSource } from '../byte-source.js';
import { FormatError, type FormatWarning } from '../format-error.js';
import { readLazChunks, type LazChunk } from '../laz/index.js';
import { crsOfRecords } from './crs-records.js';
import { POINT_FORMATS, pointColumnsOf, type PointFormat } from './point-format.js';
import { decodePoints } from './point-record.js';
import {
  HEADER_SIZE,
  HEADER_SIZE_LARGEST,
  quantisationOf,
  readPublicHeader,
  type PublicHeader,
} from './public-header.js';
import { readVariableLengthRecords, type VariableLengthRecord } from './variable-length-record.js';

/** An opened LAS file: what it says of itself, what is wrong with that, and its points a batch at a time. */
export interface LasFile {
  readonly header: PublicHeader;
  readonly format: PointFormat;
  readonly columns: PointColumns;
  readonly quantisation: Quantisation;
  /** The chunks of a compressed file (LAZ, COPC); undefined where the points lie open. */
  readonly chunks: readonly LazChunk[] | undefined;
  /** Points that can be read: the header's count, or fewer where the file is cut short. */
  readonly pointCount: number;
  readonly crs: CrsDescription | undefined;
  readonly records: readonly VariableLengthRecord[];
  readonly warnings: readonly FormatWarning[];
  batches(options?: { batchPoints?: number; signal?: { readonly aborted: boolean } }): AsyncGenerator<PointBatch>;
}

const BATCH_POINTS = 65_536;

/**
 * Opens a LAS 1.0-1.4 file of point formats 0-10. After "LAS Specification 1.4 R15", ASPRS 2019.
 * Damage that leaves the points readable becomes a warning; otherwise nothing is returned.
 * @throws FormatError with the file's name, the field and the figures
 */
export async function openLas(source: ByteSource): Promise<LasFile> {
  const warnings: FormatWarning[] = [];
  const header = await readHeader(source);
  const format = pointFormatOf(header, source);
  const headerLeast = HEADER_SIZE[header.versionMinor as keyof typeof HEADER_SIZE];
  if (header.headerSize < headerLeast) {
    warnings.push({
      code: 'header-size-wrong',
      message: `The header says it has ${header.headerSize} bytes; version 1.${header.versionMinor} has ${headerLeast}.`,
    });
  }
  checkPointOffset(header, headerLeast, source);
  checkQuantisation(header, source);
  const isCompressed = (header.pointFormat & 0xc0) !== 0;
  let pointCount = isCompressed ? statedCount(header, source, warnings) : countPoints(header, source, warnings);
  const records = await readVariableLengthRecords(
    source,
    {
      begin: Math.max(header.headerSize, headerLeast),
      end: header.pointDataOffset,
      count: header.vlrCount,
      isExtended: false,
    },
    warnings,
  );
  if (header.evlrCount > 0) {
    const pointsEnd = header.pointDataOffset + (isCompressed ? 0 : pointCount * header.recordLength);
    if (header.evlrOffset < pointsEnd || header.evlrOffset >= source.size) {
      warnings.push({
        code: 'records-overrun',
        message: `The header places ${header.evlrCount} extended records at byte ${header.evlrOffset}, where they cannot be. They were left out.`,
      });
    } else {
      const range = { begin: header.evlrOffset, end: source.size, count: header.evlrCount, isExtended: true };
      records.push(...(await readVariableLengthRecords(source, range, warnings)));
    }
  }
  const crs = crsOfRecords(records, warnings);
  const chunks = isCompressed
    ? await readLazChunks(
        source,
        {
          pointFormat: format.id,
          recordLength: header.recordLength,
          pointDataOffset: header.pointDataOffset,
          pointCount,
          records,
        },
        warnings,
      )
    : undefined;
  if (chunks) pointCount = chunks.reduce((sum, chunk) => sum + chunk.count, 0);
  return {
    header,
    format,
    columns: pointColumnsOf(format, header.recordLength),
    quantisation: quantisationOf(header),
    chunks,
    pointCount,
    crs,
    records,
    warnings,
    batches: (options = {}) =>
      chunks ? refuseCompressed(source) : readBatches(source, header, format, pointCount, options),
  };
}

async function readHeader(source: ByteSource): Promise<PublicHeader> {
  const bytes = await source.read(0, Math.min(source.size, HEADER_SIZE_LARGEST));
  const signature = String.fromCharCode(...bytes.subarray(0, 4));
  if (signature !== 'LASF') {
    throw new FormatError('not-this-format', {
      what: `The file begins with "${signature.replace(/[^ -~]/g, '?')}", a LAS file with "LASF".`,
      where: source.name,
      fix: 'Choose a LAS file, or export the cloud as LAS.',
    });
  }
  if (bytes.length < HEADER_SIZE[0]) {
    throw new FormatError('file-ends-early', {
      what: `The file has ${bytes.length} bytes; a LAS header alone has at least ${HEADER_SIZE[0]}.`,
      where: source.name,
      fix: 'The file is cut short: copy or export it again.',
    });
  }
  const major = bytes[24]!;
  const minor = bytes[25]!;
  if (major !== 1 || minor > 4) {
    throw new FormatError('version-unknown', {
      what: `LAS version ${major}.${minor} is not known; 1.0 to 1.4 can be read.`,
      where: `${source.name}, bytes 24-25`,
      fix: 'Export the cloud as LAS 1.4 or 1.2.',
    });
  }
  return readPublicHeader(bytes, `${source.name}, header`);
}

function pointFormatOf(header: PublicHeader, source: ByteSource): PointFormat {
  const where = `${source.name}, bytes 104-106`;
  const id = header.pointFormat & 0x3f;
  const format = POINT_FORMATS[id];
  if (!format) {
    throw new FormatError('point-format-unknown', {
      what: `Point format ${id} is not known; 0 to 10 can be read.`,
      where,
      fix: 'Export the cloud with one of the standard point formats.',
    });
  }
  if (header.recordLength < format.length) {
    throw new FormatError('record-length-wrong', {
      what: `A record has ${header.recordLength} bytes; point format ${id} needs ${format.length}.`,
      where,
      fix: 'The header is damaged: export the file again.',
    });
  }
  return format;
}

function checkPointOffset(header: PublicHeader, headerLeast: number, source: ByteSource): void {
  if (header.pointDataOffset < headerLeast || header.pointDataOffset > source.size) {
    throw new FormatError('point-offset-wrong', {
      what: `The points are said to begin at byte ${header.pointDataOffset}; the header ends at ${headerLeast} and the file at ${source.size}.`,
      where: `${source.name}, bytes 96-99`,
      fix: 'The header is damaged or the file is cut short: copy or export it again.',
    });
  }
}

/** Finer than a nanometre or coarser than a kilometre is no survey; beyond 10^10 no plane coordinate system. */
function checkQuantisation(header: PublicHeader, source: ByteSource): void {
  const { scale, offset } = quantisationOf(header);
  const axis = ['X', 'Y', 'Z'];
  for (let i = 0; i < 3; i++) {
    const s = scale[i]!;
    const o = offset[i]!;
    if (!(s >= 1e-9 && s <= 1e3) || !(Math.abs(o) <= 1e10)) {
      throw new FormatError('scale-absurd', {
        what: `${axis[i]} has scale ${s} and offset ${o}, which give no coordinates.`,
        where: `${source.name}, bytes ${131 + i * 8}-${138 + i * 8} and ${155 + i * 8}-${162 + i * 8}`,
        fix: 'The header is damaged: export the file again.',
      });
    }
  }
}

function statedCount(header: PublicHeader, source: ByteSource, warnings: FormatWarning[]): number {
  let stated = header.pointCount;
  if (header.versionMinor >= 4 && header.legacyPointCount !== 0 && header.legacyPointCount !== stated) {
    if (stated === 0) stated = header.legacyPointCount;
    warnings.push({
      code: 'counts-disagree',
      message: `The header counts ${header.pointCount} points in one place and ${header.legacyPointCount} in the older field.`,
    });
  }
  if (stated === 0) throw noPoints('The header counts no points.', source);
  return stated;
}

function countPoints(header: PublicHeader, source: ByteSource, warnings: FormatWarning[]): number {
  const stated = statedCount(header, source, warnings);
  const extendedEnd =
    header.evlrCount > 0 && header.evlrOffset > header.pointDataOffset ? header.evlrOffset : source.size;
  const room = Math.floor((Math.min(extendedEnd, source.size) - header.pointDataOffset) / header.recordLength);
  if (room === 0) throw noPoints(`The header counts ${stated} points, but the file ends before the first.`, source);
  if (stated > room) {
    warnings.push({
      code: 'file-cut-short',
      message: `The header counts ${stated} points; the file holds ${room}. The ${room} that are there can be used.`,
    });
    return room;
  }
  return stated;
}

function noPoints(what: string, source: ByteSource): FormatError {
  return new FormatError('no-points', { what, where: source.name, fix: 'Nothing to import: choose another file.' });
}

/** Compressed points are decoded chunk by chunk by whoever has the decoder. */
// eslint-disable-next-line require-yield -- it only ever throws
async function* refuseCompressed(source: ByteSource): AsyncGenerator<PointBatch> {
  await Promise.resolve();
  throw new FormatError('compressed-points', {
    what: 'The points are compressed.',
    where: source.name,
    fix: 'Decode its chunks.',
  });
}

async function* readBatches(
  source: ByteSource,
  header: PublicHeader,
  format: PointFormat,
  pointCount: number,
  { batchPoints = BATCH_POINTS, signal }: { batchPoints?: number; signal?: { readonly aborted: boolean } },
): AsyncGenerator<PointBatch> {
  const columns = pointColumnsOf(format, header.recordLength);
  for (let first = 0; first < pointCount; first += batchPoints) {
    checkCancelled(signal);
    const count = Math.min(batchPoints, pointCount - first);
    const begin = header.pointDataOffset + first * header.recordLength;
    const end = begin + count * header.recordLength;
    const bytes = await source.read(begin, end);
    if (bytes.length < end - begin) {
      throw new FormatError('file-ends-early', {
        what: `Points ${first} to ${first + count - 1} need bytes ${begin}-${end - 1}, only ${bytes.length} of them could be read.`,
        where: source.name,
        fix: 'The file changed while it was read: import it again.',
      });
    }
    const batch = newPointBatch(count, columns);
    decodePoints(bytes, format, header.recordLength, batch);
    yield batch;
  }
}
