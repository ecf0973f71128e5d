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
