import { basename, resolve } from 'node:path';
import type { Job } from '@pampero/contract';
import { JOB_ENDING } from '../jobs/job-paths.js';
import { tellJob } from '../jobs/job-facts.js';
import { openReader } from '../store/job-file.js';
import type { Models } from '../store/models.js';
import { Misuse } from './exit-codes.js';
import { existing } from './files.js';

export interface OpenedJob {
  readonly job: Job;
  readonly path: string;
  readonly models: Models;
  query(sql: string): Promise<Record<string, unknown>[]>;
  close(): Promise<void>;
}

/** A job file opened to be read, beside a server that may have it open too. */
export async function openJobAt(given: string): Promise<OpenedJob> {
  const path = resolve(await existing(given));
  if (!path.endsWith(JOB_ENDING))
    throw new Misuse(`${given} is no job file: its name does not end with ${JOB_ENDING}.`);
  const { models, connection, close } = await openReader(path);
  try {
    const job = await tellJob(path, basename(path, JOB_ENDING), models);
    return {
      job,
      path,
      models,
      query: async (sql) => (await connection.query(sql))[0] as Record<string, unknown>[],
      close,
    };
  } catch (error) {
    await close();
    throw error;
  }
}
