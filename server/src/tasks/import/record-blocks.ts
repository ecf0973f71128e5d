import { open } from 'node:fs/promises';
import { writeAll } from '../../files/file-bytes.js';
import { Scratch, sortRecords, type OctreeCube } from '@pampero/core/cloud';
import { FormatError } from '@pampero/core/formats';

/** Of this thread: it works on one block or square at a time. */
export const importScratch = new Scratch();

/** Point records lying in a file one behind another. */
export interface RecordBlock {
  readonly path: string;
  /** Byte of the first record. */
  readonly at: number;
  readonly count: number;
}

export interface SortBlockTask {
  readonly block: RecordBlock;
  readonly recordLength: number;
  /** Byte of a record at which its red, green and blue begin, where it has them. */
  readonly rgbAt?: number | undefined;
  readonly cube: OctreeCube;
  readonly spillPath: string;
  /** Byte of the spill file from which the sorted block is written. */
  readonly spillAt: number;
}

export interface SortedBlock {
  readonly counts: Uint32Array;
  readonly min: readonly [number, number, number];
  readonly max: readonly [number, number, number];
  /** All bits that occur in red, green and blue. */
  readonly colourBits: number;
  /** Colours may have been decoded wrongly: see the decoder. */
  readonly mixesChannels?: boolean;
}

/** Reads a block of records, sorts it by square and writes it to the spill file. */
export async function sortBlock({
  block,
  recordLength,
  rgbAt,
  cube,
  spillPath,
  spillAt,
}: SortBlockTask): Promise<SortedBlock> {
  const length = block.count * recordLength;
  const bytes = await readBytes(block.path, block.at, length, importScratch.uint8('block', length));
  return writeSorted(bytes, block.count, { recordLength, rgbAt, cube, spillPath, spillAt });
}

export async function writeSorted(
  bytes: Uint8Array,
  count: number,
  { recordLength, rgbAt, cube, spillPath, spillAt }: Omit<SortBlockTask, 'block'>,
): Promise<SortedBlock> {
  const { records, ...sorted } = sortRecords(bytes, recordLength, count, cube, importScratch);
  const spill = await open(spillPath, 'r+');
  try {
    await writeAll(spill, records, spillAt);
  } finally {
    await spill.close();
  }
  return { ...sorted, colourBits: rgbAt === undefined ? 0 : bitsOf(bytes, recordLength, rgbAt) };
}

function bitsOf(records: Uint8Array, recordLength: number, rgbAt: number): number {
  let [low, high] = [0, 0];
  for (let at = rgbAt; at + 6 <= records.length; at += recordLength) {
    low |= records[at]! | records[at + 2]! | records[at + 4]!;
    high |= records[at + 1]! | records[at + 3]! | records[at + 5]!;
  }
  return (high << 8) | low;
}

/** Exactly so many bytes of a file. */
export async function readBytes(
  path: string,
  at: number,
  length: number,
  bytes = new Uint8Array(length),
): Promise<Uint8Array<ArrayBuffer>> {
  const file = await open(path, 'r');
  try {
    await fill(file, bytes, 0, length, at);
    return bytes;
  } finally {
    await file.close();
  }
}

/** Reads runs of a file one behind another into one array. */
export async function readRuns(
  path: string,
  runs: readonly { readonly at: number; readonly length: number }[],
  room: (length: number) => Uint8Array<ArrayBuffer> = (length) => new Uint8Array(length),
): Promise<Uint8Array<ArrayBuffer>> {
  const bytes = room(runs.reduce((sum, run) => sum + run.length, 0));
  const file = await open(path, 'r');
  try {
    let to = 0;
    for (const { at, length } of runs) {
      await fill(file, bytes, to, length, at);
      to += length;
    }
    return bytes;
  } finally {
    await file.close();
  }
}

async function fill(
  file: Awaited<ReturnType<typeof open>>,
  bytes: Uint8Array,
  to: number,
  length: number,
  at: number,
): Promise<void> {
  let done = 0;
  while (done < length) {
    const { bytesRead } = await file.read(bytes, to + done, length - done, at + done);
    if (bytesRead === 0)
      throw new FormatError('file-ends-early', {
        what: `The file ends ${length - done} bytes early.`,
        fix: 'It is cut short, or changed while it was read: copy or export it again.',
      });
    done += bytesRead;
  }
}
