import { bufferSource, type ByteSource } from '@pampero/core/formats';
import { openPly } from '@pampero/core/formats/ply';
import type { LooseKind } from './loose-file.js';

/** Stretches of a file, and how much of its points they are. */
export interface Excerpt {
  readonly source: ByteSource;
  readonly share: number;
}

/** Stretches that are read, from all over the file. */
const STRETCHES = 250;
/** Bytes of a stretch of text: some hundred lines. */
const TEXT_BYTES = 24_576;
/** Points of a stretch where each is as long as the next. */
const RUN_POINTS = 600;
const NEW_LINE = 10;

/**
 * A small file with stretches from here and there in a large one, after the same beginning, so that it is read as the large one would
 * be; undefined for formats whose points cannot be found without reading what comes before them.
 */
export async function excerptOf(source: ByteSource, kind: LooseKind): Promise<Excerpt | undefined> {
  if (kind === 'text') return linesFrom(source, 0, new Uint8Array(0));
  if (kind !== 'ply') return undefined;
  const { dataAt, recordLength, pointCount, isVerticesAlone } = await openPly(source);
  const head = await source.read(0, dataAt);
  if (recordLength !== undefined) return recordsFrom(source, dataAt, recordLength, pointCount, head);
  return isVerticesAlone ? linesFrom(source, dataAt, head) : undefined;
}

async function recordsFrom(
  source: ByteSource,
  dataAt: number,
  length: number,
  pointCount: number,
  head: Uint8Array,
): Promise<Excerpt> {
  const run = Math.min(RUN_POINTS, pointCount);
  const stretches = Math.min(STRETCHES, Math.floor(pointCount / run));
  const parts = [head];
  for (let k = 0; k < stretches; k++) {
    const first = Math.floor((k * (pointCount - run)) / Math.max(1, stretches - 1));
    parts.push(await source.read(dataAt + first * length, dataAt + (first + run) * length));
  }
  return { source: bufferSource(source.name, Buffer.concat(parts)), share: (stretches * run) / pointCount };
}

/** Whole lines only; the first stretch has the beginning of the file as it is. */
async function linesFrom(source: ByteSource, dataAt: number, head: Uint8Array): Promise<Excerpt> {
  const room = source.size - dataAt;
  const stretches = Math.max(1, Math.min(STRETCHES, Math.floor(room / TEXT_BYTES)));
  const parts = [head];
  let bytes = 0;
  for (let k = 0; k < stretches; k++) {
    const at = dataAt + Math.floor((k * Math.max(0, room - TEXT_BYTES)) / Math.max(1, stretches - 1));
    const read = await source.read(at, Math.min(source.size, at + TEXT_BYTES));
    const from = k === 0 ? 0 : read.indexOf(NEW_LINE) + 1;
    const isLast = at + read.length >= source.size;
    const to = isLast ? read.length : read.lastIndexOf(NEW_LINE) + 1;
    if (to <= from) continue;
    parts.push(read.subarray(from, to));
    bytes += to - from;
    if (isLast && read.at(-1) !== NEW_LINE) parts.push(Uint8Array.of(NEW_LINE));
  }
  return { source: bufferSource(source.name, Buffer.concat(parts)), share: bytes / room };
}
