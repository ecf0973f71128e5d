import { open } from 'node:fs/promises';
import type { PointBatch } from '@pampero/core/cloud';
import { openLas, writeLas, type LasFile } from '@pampero/core/formats/las';
import { fileSink, openFileSource } from '../../files/file-bytes.js';
import { chunkRecords, recordBatch, rewritten, type NamedFile } from './las-batches.js';
import { readRuns } from './record-blocks.js';

export interface SampleLasTask extends NamedFile {
  /** The LAS file to write. */
  readonly target: string;
  /** A file that holds the same records uncompressed from its first byte on, in whatever order; read in place of the file's own. */
  readonly recordsIn?: string;
  /** About how many points it gets. */
  readonly points: number;
}

/** Of points that follow each other in the file one in so many is taken: neighbours in a scan line tell nothing new. */
const STRIDE = 12;
/** Points taken out of one run: few enough that the next lies elsewhere on the land, enough that seeking is not all of the time. */
const RUN_POINTS = 30;
/** Compressed chunks that are begun at most: a chunk can only be read from its first point on. */
const MOST_CHUNKS = 240;
/** A compressed point costs as much whether it is taken or not. */
const CHUNK_STRIDE = 4;
/** Runs held at once. */
const BATCH_RUNS = 500;

/** Writes points from here and there in a LAS or LAZ file, evenly over its length, as a file of their own. */
export async function sampleLas(task: SampleLasTask): Promise<{ pointCount: number }> {
  const source = await openFileSource(task.path, task.fileName);
  const target = await open(task.target, 'w');
  try {
    const las = await openLas(source);
    const batches = las.chunks && task.recordsIn === undefined ? chunkHeads(las, task) : recordRuns(las, task);
    return { pointCount: await writeLas(fileSink(target), batches, rewritten(las, las.quantisation)) };
  } finally {
    await target.close();
    await source.close();
  }
}

async function* recordRuns(las: LasFile, { path, recordsIn, points }: SampleLasTask): AsyncGenerator<PointBatch> {
  const { recordLength } = las.header;
  const begin = recordsIn === undefined ? las.header.pointDataOffset : 0;
  const span = RUN_POINTS * STRIDE;
  const wanted = Math.min(Math.ceil(points / RUN_POINTS), Math.floor(las.pointCount / span));
  const runs = Array.from({ length: wanted }, (_, k) => ({
    at: begin + Math.floor((k * (las.pointCount - span)) / Math.max(1, wanted - 1)) * recordLength,
    length: span * recordLength,
  }));
  for (let from = 0; from < runs.length; from += BATCH_RUNS) {
    const part = runs.slice(from, from + BATCH_RUNS);
    const count = part.length * RUN_POINTS;
    yield recordBatch(las, everyNth(await readRuns(recordsIn ?? path, part), recordLength, count), count);
  }
}

function everyNth(records: Uint8Array, recordLength: number, count: number, stride = STRIDE): Uint8Array {
  const out = new Uint8Array(count * recordLength);
  for (let i = 0; i < count; i++) {
    const from = i * stride * recordLength;
    out.set(records.subarray(from, from + recordLength), i * recordLength);
  }
  return out;
}

async function* chunkHeads(las: LasFile, task: SampleLasTask): AsyncGenerator<PointBatch> {
  const chunks = las.chunks!;
  const wanted = Math.min(MOST_CHUNKS, chunks.length);
  const each = Math.ceil(task.points / wanted);
  for (let k = 0; k < wanted; k++) {
    const chunk = chunks[Math.floor(((k + 0.5) * chunks.length) / wanted)]!;
    const records = await chunkRecords(las, task, chunk, Math.min(chunk.count, each * CHUNK_STRIDE));
    const count = Math.floor(records.length / las.header.recordLength / CHUNK_STRIDE);
    yield recordBatch(las, everyNth(records, las.header.recordLength, count, CHUNK_STRIDE), count);
  }
}
