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

/** @param fix - what helps, where more is known than that it is not there */
export function notFound(
  what: string,
  id: string | number,
  fix = 'It may have been removed or undone. Load the job again.',
): JobError {
  return new JobError('not-found', { what: `There is no ${what} ${id}.`, fix });
}

/** Most names that an error lists. */
const MOST_NAMED = 12;

/** Something of a job that is not there, with those that are: a wrong number is mended at sight. */
export function notAmong(
  what: { readonly one: string; readonly several: string },
  id: number,
  there: readonly { readonly id: number; readonly name: string }[],
): JobError {
  const named = there.slice(0, MOST_NAMED).map((one) => `${one.id} ${one.name}`);
  const more = there.length > named.length ? ` and ${there.length - named.length} more` : '';
  return notFound(
    what.one,
    id,
    there.length === 0 ? `This job has no ${what.several}.` : `This job has ${named.join(', ')}${more}.`,
  );
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
