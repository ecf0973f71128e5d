import { open } from 'node:fs/promises';
import type { MessagePort } from 'node:worker_threads';
import { newPointBatch, type PointBatch, type Quantisation } from '@pampero/core/cloud';
import { FormatError } from '@pampero/core/formats';
import { decodePoints, openLas, writeLas, type LasFile } from '@pampero/core/formats/las';
import { planTransform, type PlanTransform } from '@pampero/core/geodesy';
import { fileSink, openFileSource } from '../../store/file-bytes.js';
import { readBytes } from './record-blocks.js';
import { decodeLazChunk } from './sort-laz-block.js';

export interface ReprojectTask {
  readonly path: string;
  readonly fileName: string;
  /** The LAS file to write. */
  readonly target: string;
  /** PROJ strings; both undefined where only the elevations change their unit. */
  readonly plan: { readonly from: string; readonly to: string } | undefined;
  /** Elevations are multiplied by this. */
  readonly elevationFactor: number;
  readonly port: MessagePort;
}

/** A millimetre of a metre job: finer than any transformation is true. */
const SCALE = 0.001;
const OFFSET_STEP = 1000;

/** Writes the file's points in the job's system, every other attribute as it is. */
export async function reprojectLas(task: ReprojectTask): Promise<{ pointCount: number }> {
  const source = await openFileSource(task.path, task.fileName);
  const target = await open(task.target, 'w');
  try {
    const las = await openLas(source);
    const transform = task.plan ? planTransform(task.plan.from, task.plan.to) : () => undefined;
    const batches = las.chunks ? lazBatches(las, task) : las.batches();
    const first = await batches.next();
    if (first.done)
      throw new FormatError('no-points', {
        what: 'The file holds no points.',
        where: task.fileName,
        mend: 'Choose another file.',
      });
    const quantisation = quantisationNear(first.value, las.quantisation, transform);
    const pointCount = await writeLas(
      fileSink(target),
      moved(first.value, batches, las, quantisation, transform, task),
      {
        version: las.format.isExtended ? '1.4' : '1.2',
        pointFormat: writableFormat(las),
        quantisation,
        extraBytesLength: las.columns.extraBytesLength,
        isStandardGpsTime: (las.header.globalEncoding & 1) === 1,
        records: las.records,
      },
    );
    return { pointCount };
  } finally {
    await target.close();
    await source.close();
    task.port.close();
  }
}

/** Formats 4, 5, 9 and 10 carry references into a file of waveforms, which mean nothing elsewhere: 1, 3, 6 and 8 are the same without. */
function writableFormat({ format }: LasFile): number {
  return { 4: 1, 5: 3, 9: 6, 10: 8 }[format.id] ?? format.id;
}

async function* lazBatches(las: LasFile, { path, fileName }: ReprojectTask): AsyncGenerator<PointBatch> {
  const { recordLength } = las.header;
  for (const chunk of las.chunks!) {
    const records = await decodeLazChunk(await readBytes(path, chunk.at, chunk.length), chunk, {
      pointFormat: las.format.id,
      recordLength,
      fileName,
    });
    const batch = newPointBatch(chunk.count, las.columns);
    decodePoints(records, las.format, recordLength, batch);
    yield batch;
  }
}

function coordinates(integers: Int32Array, { scale, offset }: Quantisation, axis: 0 | 1): Float64Array {
  return Float64Array.from(integers, (value) => value * scale[axis] + offset[axis]);
}

function quantisationNear(batch: PointBatch, from: Quantisation, transform: PlanTransform): Quantisation {
  const [easting, northing] = [
    coordinates(batch.x.subarray(0, 1), from, 0),
    coordinates(batch.y.subarray(0, 1), from, 1),
  ];
  transform(easting, northing);
  const near = (value: number): number => Math.round(value / OFFSET_STEP) * OFFSET_STEP;
  return { scale: [SCALE, SCALE, SCALE], offset: [near(easting[0]!), near(northing[0]!), 0] };
}

async function* moved(
  first: PointBatch,
  rest: AsyncIterable<PointBatch>,
  las: LasFile,
  to: Quantisation,
  transform: PlanTransform,
  { elevationFactor, fileName, port }: ReprojectTask,
): AsyncGenerator<PointBatch> {
  const from = las.quantisation;
  let done = 0;
  const move = (batch: PointBatch): PointBatch => {
    const [easting, northing] = [coordinates(batch.x, from, 0), coordinates(batch.y, from, 1)];
    transform(easting, northing);
    const integers = (values: Float64Array, axis: 0 | 1): Int32Array =>
      Int32Array.from(values, (value) =>
        fitting(Math.round((value - to.offset[axis]) / to.scale[axis]), value, fileName),
      );
    const z = Int32Array.from(batch.z, (value) =>
      fitting(Math.round(((value * from.scale[2] + from.offset[2]) * elevationFactor) / to.scale[2]), value, fileName),
    );
    done += batch.count;
    port.postMessage(done / las.pointCount);
    return { ...batch, x: integers(easting, 0), y: integers(northing, 1), z };
  };
  yield move(first);
  for await (const batch of rest) yield move(batch);
}

function fitting(integer: number, value: number, fileName: string): number {
  if (Math.abs(integer) < 2 ** 31) return integer;
  throw new FormatError('value-does-not-fit', {
    what: `A coordinate of ${value} lies more than 2000 km from the first point.`,
    where: fileName,
    mend: 'Remove the stray point first.',
  });
}
