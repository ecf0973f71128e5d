import { open } from 'node:fs/promises';
import type { MessagePort } from 'node:worker_threads';
import { newPointBatch, type PointBatch, type Quantisation } from '@pampero/core/cloud';
import { FormatError, type ByteSource, type FormatWarning, type LoosePoints } from '@pampero/core/formats';
import { floatDimensionRecord, writeLas } from '@pampero/core/formats/las';
import type { TextLayout } from '@pampero/core/formats/text';
import { fileSink, openFileSource } from '../../files/file-bytes.js';
import { excerptOf } from './excerpt.js';
import { openLooseFile, type LooseKind } from './loose-file.js';
import { quantisationNear } from './near-quantisation.js';

export interface ConvertTask {
  readonly path: string;
  readonly fileName: string;
  readonly kind: LooseKind;
  /** How to read a text file; the others say so themselves. */
  readonly layout: TextLayout | undefined;
  /** Numbers of scans that are left out, from 1. */
  readonly leaveOut: readonly number[];
  /** The LAS file to write. */
  readonly target: string;
  /** Reads stretches from here and there alone, for a first look. */
  readonly isExcerpt?: boolean;
  readonly port: MessagePort;
}

export interface ConvertedFile {
  readonly warnings: FormatWarning[];
  readonly format: string;
  readonly hasTime: boolean;
  readonly pointCount: number;
  /** Points in the file: as many as were written, or about how many, for an excerpt. */
  readonly of: number;
}

/** A tenth of a millimetre of a metre. */
const SCALE = 0.0001;

/**
 * Turns a format without scaled integers into a LAS file, from which the import goes on as from any other. Coordinates are
 * rounded to 0.0001 units.
 */
export async function convertToLas(task: ConvertTask): Promise<ConvertedFile> {
  const whole = await openFileSource(task.path, task.fileName);
  const target = await open(task.target, 'w');
  try {
    const excerpt = task.isExcerpt ? await excerptOf(whole, task.kind) : undefined;
    if (task.isExcerpt && !excerpt) return { warnings: [], format: '', hasTime: false, pointCount: 0, of: 0 };
    const source = excerpt?.source ?? whole;
    const file = await openLooseFile(source, task.kind, task.layout, { leaveOut: task.leaveOut });
    const first = await file.batches.next();
    if (first.done) {
      const [warning] = file.warnings();
      throw new FormatError('no-points', {
        what: `The file has no readable points.${warning ? ` ${warning.message}` : ''}`,
        where: task.fileName,
        fix: task.kind === 'text' ? 'Check delimiter, columns and decimal sign.' : 'Choose another file.',
      });
    }
    const quantisation = quantisationNear(first.value.easting[0]!, first.value.northing[0]!, SCALE);
    const pointCount = await writeLas(
      fileSink(target),
      quantised(first.value, file.batches, quantisation, source, task.port),
      {
        version: '1.4',
        pointFormat: first.value.red ? 7 : 6,
        quantisation,
        isStandardGpsTime: task.kind === 'e57',
        ...(first.value.confidence && {
          extraBytesLength: 4,
          records: [floatDimensionRecord('confidence', 'as the source has it')],
        }),
        ...(file.crs && { crs: file.crs }),
      },
    );
    return {
      warnings: [...file.warnings()],
      format: file.format,
      hasTime: first.value.gpsTime !== undefined,
      pointCount,
      of: excerpt ? Math.round(pointCount / excerpt.share) : pointCount,
    };
  } finally {
    await target.close();
    await whole.close();
    task.port.close();
  }
}

async function* quantised(
  first: LoosePoints,
  rest: AsyncIterable<LoosePoints>,
  quantisation: Quantisation,
  source: ByteSource,
  port: MessagePort,
): AsyncGenerator<PointBatch> {
  let read = 0;
  const turn = (batch: LoosePoints): PointBatch => {
    const points = newPointBatch(batch.count, {
      gpsTime: true,
      rgb: first.red !== undefined,
      nearInfrared: false,
      wavePacket: false,
      extraBytesLength: first.confidence ? 4 : 0,
    });
    for (const [axis, [values, to]] of (
      [
        [batch.easting, points.x],
        [batch.northing, points.y],
        [batch.elevation, points.z],
      ] as const
    ).entries()) {
      const offset = quantisation.offset[axis]!;
      for (let i = 0; i < batch.count; i++) {
        const integer = Math.round((values[i]! - offset) / SCALE);
        if (Math.abs(integer) >= 2 ** 31) {
          throw new FormatError('value-does-not-fit', {
            what: `A coordinate of ${values[i]} is more than 200 km from the first point.`,
            where: `${source.name}, point ${read + i + 1}`,
            fix: 'Remove the stray point, or check the order of the columns.',
          });
        }
        to[i] = integer;
      }
    }
    if (batch.confidence && points.extraBytes) new Float32Array(points.extraBytes.buffer).set(batch.confidence);
    if (batch.returns) points.returns.set(batch.returns);
    else points.returns.fill(0x11);
    if (batch.gpsTime) points.gpsTime!.set(batch.gpsTime);
    if (batch.pointSourceId) points.pointSourceId.set(batch.pointSourceId);
    if (batch.intensity) points.intensity.set(batch.intensity);
    if (batch.red && points.red) {
      points.red.set(batch.red);
      points.green!.set(batch.green!);
      points.blue!.set(batch.blue!);
    }
    if (batch.classification) points.classification.set(batch.classification);
    else points.classification.fill(1);
    read += batch.count;
    port.postMessage(read);
    return points;
  };
  yield turn(first);
  for await (const batch of rest) yield turn(batch);
}
