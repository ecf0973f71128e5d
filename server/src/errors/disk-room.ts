import { statfs } from 'node:fs/promises';
import { JobError } from './job-error.js';
import { sqliteCode } from './sqlite-error.js';

/** Whether the disk had no room left, whoever wrote. */
export function isDiskFull(error: unknown): boolean {
  const { code } = (error ?? {}) as { code?: unknown };
  return code === 'ENOSPC' || code === 'EDQUOT' || sqliteCode(error) === 'SQLITE_FULL' || /ENOSPC/.test(String(error));
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
