import { createWriteStream } from 'node:fs';
import { rm } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import type { Request } from 'express';
import { JobError } from '../errors/job-error.js';

/** Streams a request's body to `path`; a broken connection leaves nothing behind. */
export async function receiveFile(request: Request, path: string): Promise<void> {
  try {
    await pipeline(request, createWriteStream(path, { flags: 'wx' }));
  } catch (error) {
    await rm(path, { force: true });
    if ((error as { code?: string }).code === 'ERR_STREAM_PREMATURE_CLOSE' || request.destroyed) {
      throw new JobError('bad-request', { what: 'The file arrived incomplete.', fix: 'Send it again.' });
    }
    throw error;
  }
}
