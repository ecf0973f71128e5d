import type { PointBatch } from '../../cloud/index.js';
import { checkCancelled } from '../../task/index.js';
import type { ByteSink } from '../byte-source.js';
import { FormatError } from '../format-error.js';
import { LasTally } from './las-tally.js';
import type { LasWriterOptions } from './las-writer-options.js';
import { lazEncoding, LazPointSink } from './laz-point-sink.js';
import { POINT_FORMATS } from './point-format.js';
import { HEADER_SIZE } from './public-header.js';
import { variableLengthRecordBytes } from './variable-length-record.js';
import { recordsOf } from './written-records.js';

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
      fix: minor === 2 ? 'Choose a point format from 0 to 3, or version 1.4.' : 'Choose a point format from 0 to 10.',
    });
  }
  const encoding = options.isCompressed ? lazEncoding(format, options.extraBytesLength ?? 0) : undefined;
  const records = recordsOf(options, format, encoding ? [encoding.record] : []).map(variableLengthRecordBytes);
  const headerSize = HEADER_SIZE[minor];
  const pointDataOffset = headerSize + records.reduce((sum, r) => sum + r.length, 0);
  const points = encoding && new LazPointSink(sink, encoding, pointDataOffset);
  await sink.append(new Uint8Array(headerSize));
  for (const record of records) await sink.append(record);
  await points?.begin();

  const tally = new LasTally(options, format, minor);
  for await (const given of batches) {
    checkCancelled(signal);
    const bytes = tally.encode(given);
    if (points) await points.append(bytes);
    else await sink.append(bytes);
  }
  await points?.finish();
  await sink.patch(0, tally.header({ pointDataOffset, vlrCount: records.length, evlrOffset: 0, evlrCount: 0 }));
  return tally.count;
}
