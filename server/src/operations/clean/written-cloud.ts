import { open, rm } from 'node:fs/promises';
import type { PointBatch } from '@pampero/core/cloud';
import { writeLas, type LasWriterOptions } from '@pampero/core/formats/las';
import { fileSink } from '../../files/file-bytes.js';
import type { RunContext, RunResult, RunWork } from '../../runs/run-service.js';
import { importCloudWork } from '../intake/import-cloud.js';
import type { Surroundings } from '../server-operation.js';

/** What making a cloud of written points needs of its run. */
export type CloudSurroundings = Pick<Surroundings, 'pool' | 'job' | 'memory' | 'library'>;

/** Writes points aside as LAS, with every attribute, and takes them in as a cloud. */
export async function writtenCloud(
  name: string,
  batches: AsyncIterable<PointBatch>,
  options: LasWriterOptions,
  { pool, job, memory, library }: CloudSurroundings,
  context: RunContext,
): Promise<RunResult> {
  const { signal } = context;
  const path = library.scratchPath('.las');
  const target = await open(path, 'w');
  try {
    await writeLas(fileSink(target), batches, options, {
      get aborted() {
        return signal.aborted;
      },
    });
  } catch (error) {
    await rm(path, { force: true });
    throw error;
  } finally {
    await target.close();
  }
  return takeIn(path, name, { pool, job, memory, library })(context);
}

/** Takes in a LAS that was written aside in the job's own coordinates; the file is gone when it ends. */
export function takeIn(path: string, name: string, { pool, job, memory, library }: CloudSurroundings): RunWork {
  return importCloudWork(pool, {
    path,
    fileName: `${name}.las`,
    discard: () => rm(path, { force: true }),
    layout: undefined,
    keepsCoordinates: true,
    system: undefined,
    heights: { unit: undefined, shift: 0, geoid: undefined },
    name,
    jobCrs: job.crs,
    jobUnit: job.unit,
    spillPath: library.scratchPath('.spill'),
    memory,
  });
}
