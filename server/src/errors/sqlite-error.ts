import { statfs } from 'node:fs/promises';
import { JobError, jobDamaged, notAJobFile } from './job-error.js';

/** SQLite's own code of an error, also of one that is wrapped; undefined where it is none of SQLite's. */
export function sqliteCode(error: unknown): string | undefined {
  for (let of = error, depth = 0; of !== undefined && of !== null && depth < 4; depth++) {
    const { code, parent, original, cause } = of as Record<string, unknown>;
    if (typeof code === 'string' && code.startsWith('SQLITE_')) return code;
    of = parent ?? original ?? cause;
  }
  const named = /SQLITE_[A-Z]+/.exec(String((error as Error | undefined)?.message ?? ''));
  return named?.[0];
}

/** Whether the disk had no room left, whoever wrote. */
export function isDiskFull(error: unknown): boolean {
  const { code } = (error ?? {}) as { code?: unknown };
  return code === 'ENOSPC' || code === 'EDQUOT' || sqliteCode(error) === 'SQLITE_FULL' || /ENOSPC/.test(String(error));
}

/** What SQLite's word about a job file means to the surveyor; undefined where it is about something else. */
export function jobFileError(error: unknown, fileName: string): JobError | undefined {
  const where = fileName;
  if (/connection manager was closed/.test(String((error as Error | undefined)?.message))) return closedMeanwhile();
  switch (sqliteCode(error)) {
    case 'SQLITE_NOTADB':
      return notAJobFile(where);
    case 'SQLITE_CORRUPT':
    case 'SQLITE_ERROR':
    case 'SQLITE_SCHEMA':
      return jobDamaged('The job file is damaged.', where);
    case 'SQLITE_BUSY':
    case 'SQLITE_LOCKED':
      return new JobError('job-locked', {
        what: 'Another program has the job file open and locked.',
        where,
        fix: 'Close that program and try again.',
      });
    case 'SQLITE_CANTOPEN':
    case 'SQLITE_PERM':
    case 'SQLITE_READONLY':
    case 'SQLITE_IOERR':
      return new JobError('job-damaged', {
        what: 'The job file cannot be opened or read.',
        where,
        fix: 'Check that the server may read and write it, and that its disk is well.',
      });
    case 'SQLITE_MISUSE':
      return closedMeanwhile();
    default:
      return undefined;
  }
}

/** The job was closed for good while something was asked of it. */
export function closedMeanwhile(): JobError {
  return new JobError('not-found', { what: 'The job was closed or removed meanwhile.', fix: 'Load the job again.' });
}

/** A gigabyte to the tenth, less to the megabyte. */
function size(bytes: number): string {
  return bytes >= 1e9 ? `${(bytes / 1e9).toFixed(1)} GB` : `${Math.max(0, Math.ceil(bytes / 1e6))} MB`;
}

/** Bytes free for the server on the disk of a folder. */
export async function freeBytes(folder: string): Promise<number> {
  const { bavail, bsize } = await statfs(folder);
  return bavail * bsize;
}

/** @throws JobError `disk-full` where a folder has no room for so many bytes */
export async function checkRoom(folder: string, neededBytes: number, what: string): Promise<void> {
  const free = await freeBytes(folder);
  if (neededBytes > free)
    throw new JobError('disk-full', {
      what: `${what} needs ${size(neededBytes)}, and ${size(free)} are free on the server’s disk.`,
      fix: 'Make room there and try again; nothing was changed.',
    });
}

/** That the disk was full in the middle of something, with what is free now. */
export async function diskFull(folder: string): Promise<JobError> {
  const free = await freeBytes(folder).catch(() => undefined);
  return new JobError('disk-full', {
    what: `The server’s disk is full${free === undefined ? '' : `: ${size(free)} are free`}.`,
    fix: 'Make room there and try again; nothing half-done was kept.',
  });
}
