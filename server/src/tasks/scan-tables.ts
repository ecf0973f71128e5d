import { open } from 'node:fs/promises';
import { SCAN_ANGLE_STEP } from '@pampero/core/cloud';
import { columnFrom } from '@pampero/core/columns';
import { FormatError } from '@pampero/core/formats';
import { extraValues, openLas, readExtraDimensions } from '@pampero/core/formats/las';
import { checkColumnNames, readTextTable, type NumberTable } from '@pampero/core/formats/number-table';
import { SCAN_NAMES, scanColumn } from '@pampero/core/formats/raw-scan';
import { openFileSource } from '../files/file-bytes.js';
import { batchesOf } from './import/las-batches.js';
import type { ForeignFile } from './reading-tasks.js';

/** Characters of text that are read at once. */
const PIECE_BYTES = 16_000_000;

export interface ScanFile extends ForeignFile {
  /** What the columns of a text are, where its headings do not say. */
  readonly columns: readonly string[] | undefined;
}

/** A raw scan piece by piece: of text, or of a LAS or LAZ file whose extra bytes hold range and angles. */
export async function* scanTables(file: ScanFile): AsyncGenerator<NumberTable> {
  const handle = await open(file.path, 'r');
  const mark = new Uint8Array(4);
  await handle.read(mark, 0, 4, 0).finally(() => handle.close());
  if (new TextDecoder().decode(mark) === 'LASF') yield* lasTables(file);
  else yield* textTables(file);
}

async function* textTables(task: ScanFile): AsyncGenerator<NumberTable> {
  if (task.columns) checkColumnNames(task.columns, SCAN_NAMES, 'scan');
  const file = await open(task.path, 'r');
  try {
    let [rest, at, heading] = ['', 0, ''];
    const decoder = new TextDecoder();
    const bytes = new Uint8Array(PIECE_BYTES);
    for (;;) {
      const { bytesRead } = await file.read(bytes, 0, PIECE_BYTES, at);
      at += bytesRead;
      const text = rest + decoder.decode(bytes.subarray(0, bytesRead), { stream: bytesRead > 0 });
      const end = bytesRead === 0 ? text.length : text.lastIndexOf('\n') + 1;
      rest = text.slice(end);
      if (end > 0 && text.slice(0, end).trim() !== '') {
        const isFirst = heading === '';
        const part = text.slice(0, end);
        if (isFirst) heading = `${part.slice(0, part.indexOf('\n') + 1)}`;
        yield readTextTable(isFirst || task.columns ? part : heading + part, task.fileName, task.columns, scanColumn);
      }
      if (bytesRead === 0) return;
    }
  } finally {
    await file.close();
  }
}

/**
 * Beams of a LAS file: time, intensity, returns and strip as any point has them, range and scan angles as extra bytes of these names, in the length
 * unit of the job and in degrees. Coordinates are of no account. Without an attribute "across" the scan angle of the point format stands in.
 */
async function* lasTables(file: ScanFile): AsyncGenerator<NumberTable> {
  const source = await openFileSource(file.path, file.fileName);
  try {
    const las = await openLas(source);
    const dimensions = readExtraDimensions(las.records);
    const dimensionOf = (name: string) => dimensions.find((each) => scanColumn(each.name) === name);
    const range = dimensionOf('range');
    if (!range || !las.columns.gpsTime)
      throw new FormatError('columns-missing', {
        what: range
          ? 'The points carry no GPS time.'
          : `No extra attribute holds the range; there ${dimensions.length === 0 ? 'is none' : `are ${dimensions.map(({ name }) => `“${name}”`).join(', ')}`}.`,
        where: file.fileName,
        fix: range
          ? 'Write it in a point format with GPS time: 1 or 6 and up.'
          : 'A raw scan as LAS has range, across and, where there is a second angle, along as extra bytes. A cloud that is georeferenced already comes in by Intake.',
      });
    const across = dimensionOf('across');
    const along = dimensionOf('along');
    for await (const batch of batchesOf(las, file)) {
      const count = batch.x.length;
      const extra = (dimension: NonNullable<typeof range>): Float64Array =>
        Float64Array.from(extraValues(dimension, batch.extraBytes!, las.columns.extraBytesLength, count));
      const of = (column: ArrayLike<number>, value: (v: number) => number): Float64Array =>
        columnFrom(Float64Array, column, value);
      yield {
        count,
        columns: {
          time: Float64Array.from(batch.gpsTime!),
          range: extra(range),
          across: across ? extra(across) : of(batch.scanAngle, (step) => step * SCAN_ANGLE_STEP),
          ...(along && { along: extra(along) }),
          intensity: of(batch.intensity, (v) => v),
          return: of(batch.returns, (v) => v & 15),
          returns: of(batch.returns, (v) => v >> 4),
          strip: of(batch.pointSourceId, (v) => v),
        },
        skipped: 0,
        firstSkipped: undefined,
      };
    }
  } finally {
    await source.close();
  }
}
