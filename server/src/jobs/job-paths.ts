import { join } from 'node:path';

/** Of a job's file. */
export const JOB_ENDING = '.pampero';
/** A job's file, and what SQLite keeps beside it while it is open. */
export const JOB_PARTS = ['', '-wal', '-shm'];

export const jobPath = (folder: string, id: string): string => join(folder, id + JOB_ENDING);

/** The letters and digits of a job's name that its id begins with. */
export function wordsOfId(name: string): string {
  return (
    name
      .normalize('NFD')
      .replace(/\p{M}/gu, '')
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-+|-+$/g, '')
      .slice(0, 60) || 'job'
  );
}
