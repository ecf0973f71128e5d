import { open, readFile } from 'node:fs/promises';
import type { MessagePort } from 'node:worker_threads';
import { newPointBatch, type PointBatch, type Quantisation } from '@pampero/core/cloud';
import { FormatError } from '@pampero/core/formats';
import { floatDimensionsRecord, writeLas, type LasWriterOptions } from '@pampero/core/formats/las';
import {
  checkColumnNames,
  readBinaryTable,
  readFields,
  readTextTable,
  type NumberTable,
} from '@pampero/core/formats/number-table';
import {
  trajectoryColumn,
  trajectoryOf,
  TRAJECTORY_NAMES,
  type TrajectoryConvention,
} from '@pampero/core/formats/trajectory';
import { LONGITUDE_LATITUDE, planTransform } from '@pampero/core/geodesy';
import {
  checkTrajectory,
  clockOf,
  clockShift,
  georeference,
  PoseFinder,
  toRadians,
  type Clock,
  type ScanLimits,
  type Sensor,
  type Trajectory,
  type TrajectoryCheck,
} from '@pampero/core/strips';
import { fileSink } from '../files/file-bytes.js';
import { checkSize, textOf, type ForeignFile } from './reading-tasks.js';
import { scanTables, type ScanFile } from './scan-tables.js';

export interface TrajectoryTask extends ForeignFile {
  readonly format: 'text' | 'binary';
  readonly columns: readonly string[] | undefined;
  readonly fields: string;
  readonly isBigEndian: boolean;
  readonly headerBytes: number;
  readonly convention: TrajectoryConvention;
  /** The job's plane system as PROJ writes it, if it has one. */
  readonly system: string | undefined;
  readonly metre: number;
}

export interface ReadTrajectory {
  readonly trajectory: Trajectory;
  readonly check: TrajectoryCheck;
  readonly skipped: number;
  readonly firstSkipped: number | undefined;
}

/** Reads a trajectory, looks it over, and gives it in the coordinates of the job. */
export async function trajectoryOfFile(task: TrajectoryTask): Promise<ReadTrajectory> {
  const table = await readTable(task);
  const move = task.system === undefined ? undefined : planTransform(LONGITUDE_LATITUDE, task.system);
  const trajectory = trajectoryOf(table, task.fileName, task.convention, move, task.metre);
  return { trajectory, check: checkTrajectory(trajectory), skipped: table.skipped, firstSkipped: table.firstSkipped };
}

async function readTable(task: TrajectoryTask): Promise<NumberTable> {
  if (task.format === 'text') {
    if (task.columns) checkColumnNames(task.columns, TRAJECTORY_NAMES, 'trajectory');
    return readTextTable(await textOf(task), task.fileName, task.columns, trajectoryColumn);
  }
  const fields = readFields(task.fields);
  checkColumnNames(
    fields.map(({ name }) => name),
    TRAJECTORY_NAMES,
    'trajectory',
  );
  await checkSize(task);
  return readBinaryTable(await readFile(task.path), task.fileName, fields, task);
}

export interface ScanTask extends ScanFile {
  readonly trajectory: Trajectory;
  readonly sensor: Sensor;
  readonly limits: ScanLimits;
  readonly quantisation: Quantisation;
  readonly las: Pick<LasWriterOptions, 'crs' | 'created'>;
  /** What the trajectory's times are counted from, and the GPS week where that has to be known. */
  readonly clock: Clock;
  readonly week: number | undefined;
  /** Seconds to add to the trajectory's times to have those of LAS. */
  readonly lasShift: number;
  readonly isStandardGpsTime: boolean;
  /** Where the points are written as LAS. */
  readonly target: string;
  readonly port: MessagePort;
}

export interface ScanResult {
  readonly beams: number;
  readonly points: number;
  readonly withoutPose: number;
  readonly outside: number;
  readonly skipped: number;
  readonly medianHeightAccuracy: number;
}

/** Georeferences a raw scan, piece by piece, and writes the points as LAS with what each is sure of as extra bytes. */
export async function scanToLas(task: ScanTask): Promise<ScanResult> {
  const finder = new PoseFinder(task.trajectory);
  const target = await open(task.target, 'w');
  const accuracies: number[] = [];
  let [beams, points, withoutPose, outside, skipped] = [0, 0, 0, 0, 0];
  let timeShift: number | undefined;
  async function* batches(): AsyncGenerator<PointBatch> {
    for await (const table of scanTables(task)) {
      const scan = scanOf(table, task.fileName);
      timeShift ??= shiftOf(task, scan.time[0]!);
      const shift = timeShift;
      const shifted = scan.time.map((t) => t + shift);
      const limits = { ...task.limits, from: task.limits.from + shift, to: task.limits.to + shift };
      const found = georeference({ ...scan, time: shifted }, finder, task.sensor, limits);
      beams += table.count;
      skipped += table.skipped;
      withoutPose += found.withoutPose;
      outside += found.outside;
      points += found.beams.length;
      for (let k = 0; k < found.heightAccuracy.length; k += 997) accuracies.push(found.heightAccuracy[k]!);
      task.port.postMessage(beams);
      if (found.beams.length > 0) yield batchOf(task, table, found, shifted);
    }
  }
  try {
    await writeLas(fileSink(target), batches(), {
      version: '1.4',
      pointFormat: 6,
      quantisation: task.quantisation,
      isStandardGpsTime: task.isStandardGpsTime,
      extraBytesLength: 8,
      records: [
        floatDimensionsRecord([
          ['height accuracy', 'standard deviation'],
          ['plan accuracy', 'standard deviation'],
        ]),
      ],
      ...task.las,
    });
  } finally {
    await target.close();
  }
  if (points === 0)
    throw new FormatError('no-points', {
      what:
        withoutPose > 0
          ? `The trajectory covers none of the ${beams} beams: their times, ${finder.start.toFixed(1)} to ${finder.end.toFixed(1)} s of it, do not meet.`
          : `None of the ${beams} beams lies within the limits.`,
      where: task.fileName,
      fix:
        withoutPose > 0
          ? 'Choose the trajectory of this flight, and check the clock of both.'
          : 'Widen the limits of range, scan angle and time.',
    });
  accuracies.sort((a, b) => a - b);
  return {
    ...{ beams, points, withoutPose, outside, skipped },
    medianHeightAccuracy: accuracies[accuracies.length >> 1] ?? 0,
  };
}

/** @throws FormatError where the week is needed to bring scan and trajectory together, and is not known */
function shiftOf({ clock, week, fileName }: ScanTask, time: number): number {
  const shift = clockShift(clockOf(time), clock, week);
  if (shift === undefined)
    throw new FormatError('week-unknown', {
      what: 'Scan and trajectory have their times on different clocks, one of them in seconds of a week; the week is not known.',
      where: fileName,
      fix: 'Import the trajectory again and give its GPS week.',
    });
  return shift;
}

function scanOf({ columns, count }: NumberTable, fileName: string) {
  const need = (name: string): Float64Array => {
    const column = columns[name];
    if (!column)
      throw new FormatError('columns-missing', {
        what: `No column holds the ${name === 'across' ? 'scan angle (across)' : name}.`,
        where: fileName,
        fix: 'Name the columns in their order: time, range, across, along, intensity, return, returns, strip; "-" for one that is not used.',
      });
    return column;
  };
  return {
    count,
    time: need('time'),
    range: need('range'),
    across: need('across').map(toRadians),
    ...(columns['along'] && { along: columns['along'].map(toRadians) }),
  };
}

function batchOf(
  task: ScanTask,
  { columns }: NumberTable,
  found: ReturnType<typeof georeference>,
  time: Float64Array,
): PointBatch {
  const { scale, offset } = task.quantisation;
  const count = found.beams.length;
  const batch = newPointBatch(count, {
    gpsTime: true,
    rgb: false,
    nearInfrared: false,
    wavePacket: false,
    extraBytesLength: 8,
  });
  const extra = new DataView(batch.extraBytes!.buffer);
  for (let k = 0; k < count; k++) {
    const i = found.beams[k]!;
    batch.x[k] = Math.round((found.east[k]! - offset[0]) / scale[0]);
    batch.y[k] = Math.round((found.north[k]! - offset[1]) / scale[1]);
    batch.z[k] = Math.round((found.up[k]! - offset[2]) / scale[2]);
    batch.gpsTime![k] = time[i]! + task.lasShift;
    batch.intensity[k] = columns['intensity']?.[i] ?? 0;
    const returns = Math.max(1, Math.min(15, columns['returns']?.[i] ?? 1));
    batch.returns[k] = Math.max(1, Math.min(returns, columns['return']?.[i] ?? 1)) | (returns << 4);
    batch.pointSourceId[k] = columns['strip']?.[i] ?? 0;
    const angle = columns['across']![i]! / 0.006;
    batch.scanAngle[k] = Math.max(-30_000, Math.min(30_000, Math.round(angle)));
    batch.classification[k] = 1;
    extra.setFloat32(8 * k, found.heightAccuracy[k]!, true);
    extra.setFloat32(8 * k + 4, found.planAccuracy[k]!, true);
  }
  return batch;
}
