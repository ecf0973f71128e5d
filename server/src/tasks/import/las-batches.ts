import { newPointBatch, type PointBatch, type Quantisation } from '@pampero/core/cloud';
import { decodePoints, type LasFile, type LasWriterOptions } from '@pampero/core/formats/las';
import type { LazChunk } from '@pampero/core/formats/laz';
import { decodeLazChunk } from './laz-decoder.js';
import { readBytes } from './record-blocks.js';

/** Where a LAS file lies, and what it is called by who gave it. */
export interface NamedFile {
  readonly path: string;
  readonly fileName: string;
}

/** The first records of a compressed chunk, all of them where no number is given. */
export async function chunkRecords(
  las: LasFile,
  { path, fileName }: NamedFile,
  chunk: LazChunk,
  count = chunk.count,
): Promise<Uint8Array> {
  const { recordLength } = las.header;
  const kind = { pointFormat: las.format.id, recordLength, fileName };
  return decodeLazChunk(await readBytes(path, chunk.at, chunk.length), chunk, kind, undefined, count);
}

/** Records as columns. */
export function recordBatch(las: LasFile, records: Uint8Array, count: number): PointBatch {
  const batch = newPointBatch(count, las.columns);
  decodePoints(records, las.format, las.header.recordLength, batch);
  return batch;
}

/** The points of a LAS or LAZ file, a batch or a chunk at a time. */
export function batchesOf(las: LasFile, file: NamedFile): AsyncGenerator<PointBatch> {
  return las.chunks ? chunkBatches(las, las.chunks, file) : las.batches();
}

async function* chunkBatches(las: LasFile, chunks: readonly LazChunk[], file: NamedFile): AsyncGenerator<PointBatch> {
  for (const chunk of chunks) yield recordBatch(las, await chunkRecords(las, file, chunk), chunk.count);
}

/** How a LAS file is written again with other coordinates or fewer points, every attribute as it is. */
export function rewritten(las: LasFile, quantisation: Quantisation): LasWriterOptions {
  return {
    version: las.format.isExtended ? '1.4' : '1.2',
    pointFormat: writableFormat(las),
    quantisation,
    extraBytesLength: las.columns.extraBytesLength,
    isStandardGpsTime: (las.header.globalEncoding & 1) === 1,
    records: las.records,
  };
}

/** Formats 4, 5, 9 and 10 carry references into a file of waveforms, which mean nothing elsewhere: 1, 3, 6 and 8 are the same without. */
function writableFormat({ format }: LasFile): number {
  return { 4: 1, 5: 3, 9: 6, 10: 8 }[format.id] ?? format.id;
}
