import { mkdir, open } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import type { MessagePort } from 'node:worker_threads';
import { gatherPoints, type PointBatch, type Quantisation } from '@pampero/core/cloud';
import { FormatError, type ByteSink } from '@pampero/core/formats';
import { openLas, writeLas, type LasWriterOptions } from '@pampero/core/formats/las';
import { sameIntegers, squareAt, squaresTouched, type SquareLayout } from '@pampero/core/squares';
import { openFileSource, writeAll } from '../../files/file-bytes.js';
import { BatchFeed } from './batch-feed.js';
import { batchesOf, rewritten, type NamedFile } from './las-batches.js';

export interface DivideTask {
  /** LAS or LAZ files with the same columns, in the order in which their points come. */
  readonly files: readonly NamedFile[];
  readonly layout: SquareLayout;
  /** Of what is written: fine enough for all files. */
  readonly quantisation: Quantisation;
  /** Has a folder of each square's name in the end, with a file in it. */
  readonly folder: string;
  readonly fileName: string;
  /** Which of so many tasks over the same files this is; each writes its share of the squares. */
  readonly share: { readonly number: number; readonly of: number };
  readonly port: MessagePort;
}

/** What a square got. */
export interface DividedSquare {
  readonly name: string;
  readonly column: number;
  readonly row: number;
  /** Points that belong to it; and those of its margin besides. */
  readonly own: number;
  readonly margin: number;
}

/**
 * Writes the points of LAS and LAZ files square by square, each into its own and into those whose margin it lies in. Every attribute
 * stays; each file is read once.
 */
export async function divideLas(task: DivideTask): Promise<DividedSquare[]> {
  const squares = new Map<string, SquareWriter>();
  try {
    let done = 0;
    for (const file of task.files) {
      const source = await openFileSource(file.path, file.fileName);
      try {
        const las = await openLas(source);
        const options = rewritten(las, task.quantisation);
        for await (const batch of batchesOf(las, file)) {
          const points = requantised(batch, las.quantisation, task.quantisation, file.fileName);
          await Promise.all(
            [...indicesBySquare(points, task)].map(([key, { column, row, indices, count, own }]) => {
              let writer = squares.get(key);
              if (!writer) squares.set(key, (writer = SquareWriter.begin(task, column, row, options)));
              return writer.write(gatherPoints(points, indices.subarray(0, count)), own);
            }),
          );
          done += batch.count;
          task.port.postMessage(done);
        }
      } finally {
        await source.close();
      }
    }
    return await Promise.all([...squares.values()].map((writer) => writer.end()));
  } catch (error) {
    for (const writer of squares.values()) writer.giveUp();
    throw error;
  } finally {
    task.port.close();
  }
}

interface PointsOfSquare {
  readonly column: number;
  readonly row: number;
  readonly indices: Uint32Array;
  count: number;
  own: number;
}

function indicesBySquare(
  { count, x, y }: PointBatch,
  { layout, quantisation: { scale, offset }, share }: DivideTask,
): Map<string, PointsOfSquare> {
  const found = new Map<string, PointsOfSquare>();
  const { side, margin } = layout;
  // Points that follow each other mostly lie in one square.
  let last: PointsOfSquare | undefined;
  const of = (column: number, row: number): PointsOfSquare | undefined => {
    if (last?.column === column && last.row === row) return last;
    if (Math.abs(column + row) % share.of !== share.number) return undefined;
    const key = `${column} ${row}`;
    last = found.get(key);
    if (!last) found.set(key, (last = { column, row, indices: new Uint32Array(count), count: 0, own: 0 }));
    return last;
  };
  for (let i = 0; i < count; i++) {
    const [easting, northing] = [x[i]! * scale[0] + offset[0], y[i]! * scale[1] + offset[1]];
    const [column, row] = [Math.floor(easting / side), Math.floor(northing / side)];
    const own = of(column, row);
    if (own) {
      own.indices[own.count++] = i;
      own.own++;
    }
    const [across, along] = [easting - column * side, northing - row * side];
    if (across >= margin && across < side - margin && along >= margin && along < side - margin) continue;
    squaresTouched(layout, easting, northing, (c, r) => {
      if (c === column && r === row) return;
      const other = of(c, r);
      if (other) other.indices[other.count++] = i;
    });
  }
  return found;
}

/** Points with the integers of another scale and offset. */
function requantised(batch: PointBatch, from: Quantisation, to: Quantisation, fileName: string): PointBatch {
  if (sameIntegers(from, to)) return batch;
  const integers = (values: Int32Array, axis: 0 | 1 | 2): Int32Array =>
    values.map((value) => {
      const integer = Math.round((value * from.scale[axis] + from.offset[axis] - to.offset[axis]) / to.scale[axis]);
      if (Math.abs(integer) >= 2 ** 31)
        throw new FormatError('value-does-not-fit', {
          what: 'Its points lie too far from those of the first file to be written with their precision.',
          where: fileName,
          fix: 'Work on these files as a site of their own.',
        });
      return integer;
    });
  return { ...batch, x: integers(batch.x, 0), y: integers(batch.y, 1), z: integers(batch.z, 2) };
}

/** One square's file while it is being written. */
class SquareWriter {
  private readonly feed = new BatchFeed();
  private own = 0;
  private readonly written: Promise<number>;
  /** Never resolves; rejects where writing fails, so that nobody waits for a batch to be taken. */
  private readonly failed: Promise<never>;

  private constructor(
    private readonly square: { readonly name: string; readonly column: number; readonly row: number },
    sink: BufferedSink,
    options: LasWriterOptions,
  ) {
    this.written = writeLas(sink, this.feed.batches(), options).then(async (count) => {
      await sink.flush();
      return count;
    });
    this.failed = new Promise((_, fail) => this.written.catch(fail));
    this.failed.catch(() => undefined);
  }

  static begin(
    { layout, folder, fileName }: DivideTask,
    column: number,
    row: number,
    options: LasWriterOptions,
  ): SquareWriter {
    // prettier-ignore
    const { name } = squareAt(layout, column, row);
    return new SquareWriter({ name, column, row }, new BufferedSink(join(folder, name, fileName)), options);
  }

  async write(points: PointBatch, own: number): Promise<void> {
    this.own += own;
    await Promise.race([this.feed.push(points), this.failed]);
  }

  async end(): Promise<DividedSquare> {
    this.feed.close();
    return { ...this.square, own: this.own, margin: (await this.written) - this.own };
  }

  giveUp(): void {
    this.feed.close();
    this.written.catch(() => undefined);
  }
}

/** So much of a square's file is kept before it is written. */
const BUFFER_BYTES = 256 * 1024;

/** A file that is open only while something is written to it: a large site has more squares than a process may have files. */
class BufferedSink implements ByteSink {
  private readonly buffer = new Uint8Array(BUFFER_BYTES);
  private filled = 0;
  /** Byte of the file at which the buffer begins. */
  private at = 0;
  private isThere = false;

  constructor(private readonly path: string) {}

  async append(bytes: Uint8Array): Promise<void> {
    for (let from = 0; from < bytes.length;) {
      const part = bytes.subarray(from, from + BUFFER_BYTES - this.filled);
      this.buffer.set(part, this.filled);
      this.filled += part.length;
      from += part.length;
      if (this.filled === BUFFER_BYTES) await this.flush();
    }
  }

  async patch(position: number, bytes: Uint8Array): Promise<void> {
    await this.flush();
    await this.writeAt(position, bytes);
  }

  async flush(): Promise<void> {
    if (this.filled === 0) return;
    await this.writeAt(this.at, this.buffer.subarray(0, this.filled));
    this.at += this.filled;
    this.filled = 0;
  }

  private async writeAt(position: number, bytes: Uint8Array): Promise<void> {
    if (!this.isThere) await mkdir(dirname(this.path), { recursive: true });
    const file = await open(this.path, this.isThere ? 'r+' : 'w');
    this.isThere = true;
    try {
      await writeAll(file, bytes, position);
    } finally {
      await file.close();
    }
  }
}
