import { scannerChannel, type LazChunk } from '@pampero/core/formats/laz';
import { POINT_FORMATS } from '@pampero/core/formats/las';
import { decodeLazChunk } from './laz-decoder.js';
import { importScratch, readRuns, writeSorted, type SortBlockTask, type SortedBlock } from './record-blocks.js';

export interface SortLazBlockTask extends Omit<SortBlockTask, 'block'> {
  readonly path: string;
  readonly fileName: string;
  readonly chunks: readonly LazChunk[];
  readonly pointFormat: number;
}

/** Decodes a block of chunks, sorts its records by square and writes them to the spill file. */
export async function sortLazBlock(task: SortLazBlockTask): Promise<SortedBlock> {
  const { chunks, recordLength } = task;
  const coded = await readRuns(task.path, chunks, (length) => importScratch.uint8('coded', length));
  const count = chunks.reduce((sum, chunk) => sum + chunk.count, 0);
  const records = importScratch.uint8('block', count * recordLength);
  let from = 0;
  let to = 0;
  let mixesChannels = false;
  for (const chunk of chunks) {
    await decodeLazChunk(
      coded.subarray(from, from + chunk.length),
      chunk,
      task,
      records.subarray(to, to + chunk.count * recordLength),
    );
    mixesChannels ||= hasDoubtfulColours(records.subarray(to, to + chunk.count * recordLength), task);
    from += chunk.length;
    to += chunk.count * recordLength;
  }
  return { ...(await writeSorted(records, count, task)), mixesChannels };
}

/**
 * Whether a chunk's colours or extra bytes may have been decoded wrongly: where formats 6 to 8 mix scanner channels in a
 * chunk, decoders do not agree on them. Positions and classes are not touched by it.
 */
function hasDoubtfulColours(records: Uint8Array, { pointFormat, recordLength }: SortLazBlockTask): boolean {
  const format = POINT_FORMATS[pointFormat]!;
  if (!format.isExtended || (format.rgbAt === undefined && recordLength === format.length)) return false;
  const first = scannerChannel(records, 0);
  for (let at = recordLength; at < records.length; at += recordLength)
    if (scannerChannel(records, at) !== first) return true;
  return false;
}
