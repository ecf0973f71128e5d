import { scannerChannel, type LazChunk } from '@pampero/core/formats/laz';
import { POINT_FORMATS } from '@pampero/core/formats/las';
import { PamperoError } from '@pampero/core/task';
import { createLazPerf, type LazPerf } from 'laz-perf';
import { readRuns, writeSorted, type SortBlockTask, type SortedBlock } from './record-blocks.js';

export interface SortLazBlockTask extends Omit<SortBlockTask, 'block'> {
  readonly path: string;
  readonly fileName: string;
  readonly chunks: readonly LazChunk[];
  readonly pointFormat: number;
}

/** One decoder a thread; its WebAssembly memory is kept between blocks. */
let decoder: Promise<LazPerf> | undefined;

/** Decodes a block of chunks, sorts its records by square and writes them to the spill file. */
export async function sortLazBlock(task: SortLazBlockTask): Promise<SortedBlock> {
  const { chunks, recordLength } = task;
  const coded = await readRuns(task.path, chunks);
  const count = chunks.reduce((sum, chunk) => sum + chunk.count, 0);
  const records = new Uint8Array(count * recordLength);
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

/** Points decoded between copies out of the decoder's memory. */
const COPY_POINTS = 1024;

/** Decodes one chunk into records, given or new. */
export async function decodeLazChunk(
  coded: Uint8Array,
  chunk: LazChunk,
  {
    pointFormat,
    recordLength,
    fileName,
  }: { readonly pointFormat: number; readonly recordLength: number; readonly fileName: string },
  records = new Uint8Array(chunk.count * recordLength),
): Promise<Uint8Array> {
  decoder ??= createLazPerf();
  const lazPerf = await decoder;
  const codedAt = lazPerf._malloc(coded.length);
  const pointsAt = lazPerf._malloc(recordLength * COPY_POINTS);
  const chunkDecoder = new lazPerf.ChunkDecoder();
  try {
    lazPerf.HEAPU8.set(coded, codedAt);
    chunkDecoder.open(pointFormat, recordLength, codedAt);
    for (let first = 0; first < chunk.count; first += COPY_POINTS) {
      const size = Math.min(COPY_POINTS, chunk.count - first);
      for (let i = 0; i < size; i++) chunkDecoder.getPoint(pointsAt + i * recordLength);
      records.set(lazPerf.HEAPU8.subarray(pointsAt, pointsAt + size * recordLength), first * recordLength);
    }
  } catch (error) {
    throw new PamperoError('chunk-damaged', {
      what: `The compressed points from byte ${chunk.at} to ${chunk.at + chunk.length - 1} cannot be decoded (${String(error)}).`,
      where: fileName,
      fix: 'The file is damaged: copy or compress it again.',
    });
  } finally {
    chunkDecoder.delete();
    lazPerf._free(pointsAt);
    lazPerf._free(codedAt);
  }
  return records;
}
