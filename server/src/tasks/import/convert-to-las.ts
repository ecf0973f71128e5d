import { open } from 'node:fs/promises';
import type { MessagePort } from 'node:worker_threads';
import { newPointBatch, type PointBatch, type Quantisation } from '@pampero/core/cloud';
import { FormatError, type ByteSource, type FormatWarning, type LoosePoints } from '@pampero/core/formats';
import { writeLas } from '@pampero/core/formats/las';
import { openPly } from '@pampero/core/formats/ply';
import { readTextPoints, type TextLayout, type TextReport } from '@pampero/core/formats/text';
import { fileSink, openFileSource } from '../../store/file-bytes.js';

export interface ConvertTask {
  readonly path: string;
  readonly fileName: string;
  /** How to read a text file; PLY says so itself. */
  readonly layout: TextLayout | undefined;
  /** The LAS file to write. */
  readonly target: string;
  readonly port: MessagePort;
}

/** A tenth of a millimetre of a metre, about a whole thousand near the first point: room for 200 km either way. */
const SCALE = 0.0001;
const OFFSET_STEP = 1000;

/**
 * Turns a format without scaled integers into a LAS file, from which the import goes on as from any other. Coordinates are
 * rounded to 0.0001 units.
 */
export async function convertToLas(task: ConvertTask): Promise<{ warnings: FormatWarning[]; format: string }> {
  const source = await openFileSource(task.path, task.fileName);
  const target = await open(task.target, 'w');
  try {
    const report: TextReport = { skippedLines: 0, firstSkipped: undefined };
    const ply = task.layout ? undefined : await openPly(source);
    const batches = task.layout ? readTextPoints(source, task.layout, report) : ply!.batches();
    const first = await batches.next();
    if (first.done) {
      throw new FormatError('no-points', {
        what: `No line of the file is a point${report.firstSkipped ? `, the first is line ${report.firstSkipped}` : ''}.`,
        where: task.fileName,
        mend: 'Check delimiter, columns and decimal sign.',
      });
    }
    const quantisation = quantisationNear(first.value);
    const hasColour = first.value.red !== undefined;
    await writeLas(fileSink(target), quantised(first.value, batches, quantisation, source, task.port), {
      version: '1.4',
      pointFormat: hasColour ? 7 : 6,
      quantisation,
    });
    const warnings = [...(ply?.warnings ?? [])];
    if (report.skippedLines > 0)
      warnings.push({
        code: 'lines-skipped',
        message: `${report.skippedLines} lines are no points and were left out, the first of them line ${report.firstSkipped}.`,
      });
    return { warnings, format: ply ? `PLY, ${ply.encoding.replaceAll('_', ' ')}` : 'text' };
  } finally {
    await target.close();
    await source.close();
    task.port.close();
  }
}

function quantisationNear({ easting, northing }: LoosePoints): Quantisation {
  const near = (value: number): number => Math.round(value / OFFSET_STEP) * OFFSET_STEP;
  return { scale: [SCALE, SCALE, SCALE], offset: [near(easting[0]!), near(northing[0]!), 0] };
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
      extraBytesLength: 0,
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
            what: `A coordinate of ${values[i]} lies more than 200 km from the first point.`,
            where: `${source.name}, point ${read + i + 1}`,
            mend: 'Remove the stray point, or check the order of the columns.',
          });
        }
        to[i] = integer;
      }
    }
    points.returns.fill(0x11);
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
