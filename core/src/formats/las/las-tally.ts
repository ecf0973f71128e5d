import { emptyBounds, growBounds, integerBounds, type PointBatch } from '../../cloud/index.js';
import { FormatError } from '../format-error.js';
import type { LasWriterOptions } from './las-writer-options.js';
import type { PointFormat } from './point-format.js';
import { encodePoints } from './point-record.js';
import { HEADER_SIZE, writePublicHeader } from './public-header.js';

/** Points in a file before 1.4 are counted in 32 bits. */
const MOST_LEGACY_POINTS = 0xffff_ffff;
const WKT_GLOBAL_ENCODING_BIT = 16;
const STANDARD_GPS_TIME_BIT = 1;
/** Set in the point format of compressed files. */
const COMPRESSED_BIT = 0x80;

/** Encodes batches and gathers on the way what the header states, so that it never lies. */
export class LasTally {
  private readonly returnCounts = new Array<number>(15).fill(0);
  private readonly bounds = emptyBounds();
  readonly recordLength: number;
  count = 0;

  constructor(
    private readonly options: LasWriterOptions,
    private readonly format: PointFormat,
    private readonly minor: 2 | 4,
  ) {
    this.recordLength = format.length + (options.extraBytesLength ?? 0);
  }

  /** The batch as records. */
  encode(given: PointBatch): Uint8Array {
    const { format, recordLength } = this;
    const batch = format.isExtended ? withoutLegacyClasses(given) : given;
    if (!format.isExtended) checkFitsLegacy(batch, this.count);
    const bytes = new Uint8Array(batch.count * recordLength);
    encodePoints(batch, format, recordLength, bytes);
    growBounds(this.bounds, integerBounds(batch.x, batch.y, batch.z));
    for (let i = 0; i < batch.count; i++) {
      const returnNumber = batch.returns[i]! & 0x0f;
      if (returnNumber > 0) this.returnCounts[returnNumber - 1]!++;
    }
    this.count += batch.count;
    return bytes;
  }

  /**
   * The header of a file with these records.
   * @throws FormatError `value-does-not-fit` where the version cannot count so many points
   */
  header(places: { pointDataOffset: number; vlrCount: number; evlrOffset: number; evlrCount: number }): Uint8Array {
    const { options, format, minor, count, bounds, returnCounts } = this;
    if (minor === 2 && count > MOST_LEGACY_POINTS) {
      throw new FormatError('value-does-not-fit', {
        what: `${count} points do not fit in LAS 1.2.`,
        fix: 'Choose version 1.4.',
      });
    }
    const { scale, offset } = options.quantisation;
    const at = (axis: number, integers: readonly number[]): number =>
      count === 0 ? 0 : integers[axis]! * scale[axis]! + offset[axis]!;
    const legacyCount = !format.isExtended && count <= MOST_LEGACY_POINTS ? count : 0;
    const legacyReturn = (r: number): number => (legacyCount > 0 ? returnCounts[r]! : 0);
    const created = options.created ?? new Date();
    return writePublicHeader(
      {
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
        headerSize: HEADER_SIZE[minor],
        ...places,
        pointFormat: options.isCompressed ? format.id | COMPRESSED_BIT : format.id,
        recordLength: this.recordLength,
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
        pointCount: count,
      },
      returnCounts,
    );
  }
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
        fix: 'Choose LAS 1.4 with point format 6, 7 or 8.',
      });
    }
  }
}
