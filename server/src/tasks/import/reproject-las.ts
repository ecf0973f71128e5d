import { columnFrom } from '@pampero/core/columns';
import { open, readFile } from 'node:fs/promises';
import { basename } from 'node:path';
import type { MessagePort } from 'node:worker_threads';
import type { PointBatch, Quantisation } from '@pampero/core/cloud';
import { FormatError } from '@pampero/core/formats';
import { openLas, writeLas, type LasFile } from '@pampero/core/formats/las';
import { geoidHeight, LONGITUDE_LATITUDE, planTransform, readGtx, type PlanTransform } from '@pampero/core/geodesy';
import { PamperoError } from '@pampero/core/task';
import { fileSink, openFileSource } from '../../files/file-bytes.js';
import { batchesOf, rewritten } from './las-batches.js';
import { quantisationNear } from './near-quantisation.js';

export interface ReprojectTask {
  readonly path: string;
  readonly fileName: string;
  /** The LAS file to write. */
  readonly target: string;
  /** PROJ strings; both undefined where only the elevations change their unit. */
  readonly plan: { readonly from: string; readonly to: string } | undefined;
  /** Elevations are multiplied by this, */
  readonly elevationFactor: number;
  /** then the geoid's height is taken off: a GTX file, and the system the file's points are in, */
  readonly geoid: { readonly path: string; readonly system: string; readonly metresPerUnit: number } | undefined;
  /** and this is added. */
  readonly shift: number;
  readonly port: MessagePort;
}

/** A millimetre of a metre job: finer than any transformation is true. */
const SCALE = 0.001;

/** Writes the file's points in the job's system, every other attribute as it is. */
export async function reprojectLas(task: ReprojectTask): Promise<{ pointCount: number }> {
  const source = await openFileSource(task.path, task.fileName);
  const target = await open(task.target, 'w');
  try {
    const las = await openLas(source);
    const transform = task.plan ? planTransform(task.plan.from, task.plan.to) : () => undefined;
    const geoid = task.geoid && (await geoidOver(task.geoid, task.fileName));
    const batches = batchesOf(las, task);
    const first = await batches.next();
    if (first.done)
      throw new FormatError('no-points', {
        what: 'The file holds no points.',
        where: task.fileName,
        fix: 'Choose another file.',
      });
    const quantisation = movedQuantisation(first.value, las.quantisation, transform);
    const pointCount = await writeLas(
      fileSink(target),
      moved(first.value, batches, las, { to: quantisation, transform, geoid }, task),
      rewritten(las, quantisation),
    );
    return { pointCount };
  } finally {
    await target.close();
    await source.close();
    task.port.close();
  }
}

function coordinates(integers: Int32Array, { scale, offset }: Quantisation, axis: 0 | 1): Float64Array {
  return columnFrom(Float64Array, integers, (value) => value * scale[axis] + offset[axis]);
}

function movedQuantisation(batch: PointBatch, from: Quantisation, transform: PlanTransform): Quantisation {
  const [easting, northing] = [
    coordinates(batch.x.subarray(0, 1), from, 0),
    coordinates(batch.y.subarray(0, 1), from, 1),
  ];
  transform(easting, northing);
  return quantisationNear(easting[0]!, northing[0]!, SCALE);
}

async function* moved(
  first: PointBatch,
  rest: AsyncIterable<PointBatch>,
  las: LasFile,
  { to, transform, geoid }: { to: Quantisation; transform: PlanTransform; geoid: GeoidOver | undefined },
  { elevationFactor, shift, fileName, port }: ReprojectTask,
): AsyncGenerator<PointBatch> {
  const from = las.quantisation;
  let done = 0;
  const move = (batch: PointBatch): PointBatch => {
    const [easting, northing] = [coordinates(batch.x, from, 0), coordinates(batch.y, from, 1)];
    const under = geoid?.(easting, northing);
    transform(easting, northing);
    const integers = (values: Float64Array, axis: 0 | 1): Int32Array =>
      columnFrom(Int32Array, values, (value) =>
        fitting(Math.round((value - to.offset[axis]) / to.scale[axis]), value, fileName),
      );
    const z = columnFrom(Int32Array, batch.z, (integer, i) => {
      const elevation = (integer * from.scale[2] + from.offset[2]) * elevationFactor - (under?.[i] ?? 0) + shift;
      return fitting(Math.round(elevation / to.scale[2]), elevation, fileName);
    });
    done += batch.count;
    port.postMessage(done / las.pointCount);
    return { ...batch, x: integers(easting, 0), y: integers(northing, 1), z };
  };
  yield move(first);
  for await (const batch of rest) yield move(batch);
}

/** Heights of the geoid at places, in the job's unit. */
type GeoidOver = (easting: Float64Array, northing: Float64Array) => Float64Array;

async function geoidOver(
  { path, system, metresPerUnit }: NonNullable<ReprojectTask['geoid']>,
  fileName: string,
): Promise<GeoidOver> {
  const name = basename(path);
  const grid = readGtx(await readFile(path), name);
  const toDegrees = planTransform(system, LONGITUDE_LATITUDE);
  return (easting, northing) => {
    const [longitude, latitude] = [easting.slice(), northing.slice()];
    toDegrees(longitude, latitude);
    return longitude.map((lon, i) => {
      const height = geoidHeight(grid, latitude[i]!, lon);
      if (height === undefined)
        throw new PamperoError('geoid-wrong', {
          what: `A point at ${easting[i]}, ${northing[i]} (${latitude[i]!.toFixed(5)}, ${lon.toFixed(5)}) is outside the geoid grid ${name}.`,
          where: fileName,
          fix: 'Choose a grid that covers the survey.',
        });
      return height / metresPerUnit;
    });
  };
}

function fitting(integer: number, value: number, fileName: string): number {
  if (Math.abs(integer) < 2 ** 31) return integer;
  throw new FormatError('value-does-not-fit', {
    what: `A coordinate of ${value} is more than 2000 km from the first point.`,
    where: fileName,
    fix: 'Remove the stray point first.',
  });
}
