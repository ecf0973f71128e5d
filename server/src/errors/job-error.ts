import { PamperoError, type ErrorFacts } from '@pampero/core/task';

export type JobErrorCode =
  | 'not-found'
  | 'not-a-job-file'
  | 'newer-job-file'
  | 'nothing-to-undo'
  | 'nothing-to-redo'
  | 'busy'
  | 'bad-request'
  | 'no-file'
  | 'no-such-format'
  | 'input-stale'
  | 'interrupted'
  | 'job-damaged'
  | 'job-locked'
  | 'disk-full'
  | 'not-allowed'
  | 'too-many';

/** Something asked of a job that it cannot do. */
export class JobError extends PamperoError {
  override readonly name = 'JobError';
  constructor(
    override readonly code: JobErrorCode,
    facts: ErrorFacts,
  ) {
    super(code, facts);
  }
}

export function notFound(what: string, id: string | number): JobError {
  return new JobError('not-found', {
    what: `There is no ${what} ${id}.`,
    fix: 'It may have been removed or undone. Load the job again.',
  });
}

/** A file that is no job, as it comes from a surveyor. */
export function notAJobFile(where: string): JobError {
  return new JobError('not-a-job-file', {
    what: 'The file is not a Pampero job.',
    where,
    fix: 'Choose a file that was downloaded as a job.',
  });
}

/** A job file of ours that something has happened to. */
export function jobDamaged(what: string, where?: string): JobError {
  return new JobError('job-damaged', {
    what,
    ...(where !== undefined && { where }),
    fix: 'Restore the job from a copy that was downloaded before.',
  });
}
