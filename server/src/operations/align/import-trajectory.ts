import { importTrajectory, type ImportTrajectoryParameters } from '@pampero/contract';
import { packArrays } from '@pampero/core/binary';
import { readColumnNames } from '@pampero/core/formats/number-table';
import { metresPer } from '@pampero/core/geodesy';
import { ACCURACY_COLUMNS, clockOf, toDegrees, TRAJECTORY_COLUMNS } from '@pampero/core/strips';
import { formatCount, formatCounted } from '@pampero/core/wording';
import { planeSystemOf } from '../../crs/plane-system.js';
import type { RunWork } from '../../runs/run-service.js';
import { storeProduct } from '../../store/product-repository.js';
import type { ReadTrajectory } from '../../tasks/flight-tasks.js';
import { fileOperation, type FileSurroundings } from '../server-operation.js';

/** Reads a trajectory and says aloud what is odd about it. */
async function begin(
  parameters: ImportTrajectoryParameters,
  { pool, source, job, unit }: FileSurroundings,
): Promise<RunWork> {
  const { path, fileName } = source;
  const { format, fields, isBigEndian, headerBytes, positions, angles, heading, roll, pitch } = parameters;
  const read = await pool.read(
    'trajectoryOfFile',
    {
      ...{ path, fileName, format, fields, isBigEndian, headerBytes },
      columns: readColumnNames(parameters.columns),
      convention: { positions, angles, heading, roll, pitch },
      system: planeSystemOf(job.crs)?.proj4,
      metre: metresPer(unit),
    },
    source,
  );
  const { trajectory, check } = read;
  const clock = clockOf(check.start);
  const name = parameters.name ?? fileName.replace(/\.[^.]*$/, '');
  const remarks = remarksOf(read, clock, parameters.week);
  const arrays = Object.fromEntries(
    [...TRAJECTORY_COLUMNS, ...ACCURACY_COLUMNS].flatMap((column) => {
      const values = trajectory[column];
      return values ? [[column, values]] : [];
    }),
  );
  return () =>
    Promise.resolve({
      outcome: `${formatCount(check.records)} records from ${fileName}${remarks.length > 0 ? `; ${formatCounted(remarks.length, 'remark')}` : ''}`,
      figures: [
        { label: 'Records', value: check.records, quantity: 'count' },
        { label: 'Duration', value: check.end - check.start, quantity: 'seconds' },
        { label: 'Flown', value: check.length, quantity: 'length' },
        { label: 'Gaps', value: check.gaps.length, quantity: 'count' },
        ...remarks.map((remark) => ({ label: 'Remark', value: remark, quantity: 'text' as const })),
      ],
      store: (models) =>
        storeProduct(models, {
          kind: 'trajectory',
          name,
          operation: importTrajectory.id,
          parameters: { fileName, ...parameters },
          facts: {
            fileName,
            records: check.records,
            start: check.start,
            end: check.end,
            clock,
            ...(parameters.week > 0 && { week: parameters.week }),
            rate: check.rate,
            length: check.length,
            speed: check.medianSpeed,
            gaps: check.gaps.slice(0, 100),
            jumps: check.jumps.slice(0, 100),
            largestTilt: toDegrees(check.largestTilt),
            lowest: check.lowest,
            highest: check.highest,
            hasAccuracies: trajectory.heightAccuracy !== undefined || trajectory.tiltAccuracy !== undefined,
            remarks,
          },
          blobs: { records: packArrays(arrays, {}) },
        }),
    });
}

/** A rate that attitude cannot be followed by: common practice, no source. */
const SLOW = 20;

function remarksOf({ check, skipped, firstSkipped }: ReadTrajectory, clock: string, week: number): string[] {
  const remarks: string[] = [];
  if (skipped > 0) remarks.push(`${formatCounted(skipped, 'line')} are no records, the first is line ${firstSkipped}.`);
  if (check.gaps.length > 0) {
    const longest = check.gaps.reduce((a, b) => (b.to - b.from > a.to - a.from ? b : a));
    remarks.push(
      `${formatCounted(check.gaps.length, 'gap')}, the longest of ${(longest.to - longest.from).toFixed(1)} s at ${longest.from.toFixed(1)} s.`,
    );
  }
  if (check.jumps.length > 0)
    remarks.push(
      `It jumps at ${check.jumps
        .slice(0, 3)
        .map((time) => `${time.toFixed(2)} s`)
        .join(', ')}${check.jumps.length > 3 ? ' and elsewhere' : ''}: check the positions there.`,
    );
  if (check.rate < SLOW)
    remarks.push(`${check.rate.toFixed(1)} records a second are few: between them the attitude is guessed.`);
  if (clock === 'week' && week === 0)
    remarks.push('Times are seconds of a week; give the GPS week if the cloud’s times are not.');
  return remarks;
}

export const operation = fileOperation(importTrajectory, begin);
