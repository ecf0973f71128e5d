import { createWriteStream } from 'node:fs';
import { rm } from 'node:fs/promises';
import { dirname } from 'node:path';
import { pipeline } from 'node:stream/promises';
import type { Request } from 'express';
import { JobError } from '../errors/job-error.js';
import { checkRoom, isDiskFull } from '../errors/disk-room.js';

/** Streams a request's body to `path`; a broken connection leaves nothing behind. What cannot fit is refused at once. */
export async function receiveFile(request: Request, path: string): Promise<void> {
  const length = Number(request.headers['content-length']);
  if (length > 0) await checkRoom(dirname(path), length, 'The file');
  try {
    await pipeline(request, createWriteStream(path, { flags: 'wx' }));
  } catch (error) {
    await rm(path, { force: true });
    if (isDiskFull(error)) throw error;
    if ((error as { code?: string }).code === 'ERR_STREAM_PREMATURE_CLOSE' || request.destroyed) {
      throw new JobError('bad-request', { what: 'The file arrived incomplete.', fix: 'Send it again.' });
    }
    throw error;
  }
}
