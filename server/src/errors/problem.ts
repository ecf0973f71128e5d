import type { Problem } from '@pampero/contract';
import { PamperoError } from '@pampero/core/task';
import { ZodError } from 'zod';
import { diskFull, isDiskFull } from './disk-room.js';
import { jobFileError, sqliteCode } from './sqlite-error.js';

const STATUS: Readonly<Record<string, number>> = {
  'not-found': 404,
  'bad-request': 400,
  busy: 409,
  'nothing-to-undo': 409,
  'nothing-to-redo': 409,
  'too-large': 413,
  'cross-site': 403,
  'not-allowed': 401,
  'wrong-host': 421,
  'too-many': 429,
  'job-locked': 423,
  'disk-full': 507,
};

/** An error as it can be told: a full disk with what is free, a damaged job file as such. */
export async function explained(error: unknown, folder: string): Promise<unknown> {
  if (error instanceof PamperoError || error instanceof ZodError) return error;
  if (isDiskFull(error)) return diskFull(folder);
  const code = sqliteCode(error);
  // Anything else that SQLite says of a statement of ours is our mistake.
  const isOurs = code === 'SQLITE_ERROR' && !/malformed JSON/.test(String(error));
  return isOurs ? error : (jobFileError(error, 'The job') ?? error);
}

/** Any error as a problem detail (RFC 9457). What the surveyor can fix is 4xx and says how; the rest is ours. */
export function problemOf(error: unknown, instance?: string): Problem {
  const at = instance === undefined ? {} : { instance };
  if (error instanceof ZodError) {
    const errors = error.issues.map((issue) => ({
      pointer: `/${issue.path.map(String).join('/')}`,
      detail: issue.message,
    }));
    return {
      type: 'about:blank#invalid',
      title: 'Some of what was given is wrong',
      status: 400,
      code: 'invalid',
      detail: errors.map((e) => e.detail).join(' '),
      errors,
      ...at,
    };
  }
  if (error instanceof PamperoError) {
    const detail = [error.where ? `${error.where}: ${error.what}` : error.what, error.fix].filter(Boolean).join(' ');
    return {
      type: `about:blank#${error.code}`,
      title: error.what,
      status: STATUS[error.code] ?? 422,
      code: error.code,
      detail,
      ...(error.fix && { fix: error.fix }),
      ...at,
    };
  }
  const status = statusOf(error);
  if (status !== undefined && status < 500) {
    // What a system call says may hold paths of this machine.
    const isOfSystem = typeof (error as NodeJS.ErrnoException).syscall === 'string';
    return {
      type: 'about:blank#bad-request',
      title: 'The request cannot be read',
      status,
      code: 'bad-request',
      detail: isOfSystem ? 'What was asked for cannot be read.' : (error as Error).message,
      ...at,
    };
  }
  return {
    type: 'about:blank#internal',
    title: 'Pampero made a mistake',
    status: 500,
    code: 'internal',
    detail: 'Something went wrong inside Pampero; the server’s log has the details. Nothing half-done was kept.',
    ...at,
  };
}

function statusOf(error: unknown): number | undefined {
  const status = (error as { status?: unknown } | undefined)?.status;
  return typeof status === 'number' && status >= 400 ? status : undefined;
}
