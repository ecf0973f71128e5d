import { rm } from 'node:fs/promises';
import type { Response } from 'express';
import type { JobLibrary } from '../jobs/job-library.js';

/** Sends a file that was put together aside, so that a failure on the way is an error and not half a file. */
export async function sendFile(response: Response, path: string, fileName: string, type: string): Promise<void> {
  try {
    if (response.destroyed) return;
    await new Promise<void>((resolve, reject) => {
      // A client that goes away may leave the sending without a last word.
      response.once('close', resolve);
      response.download(path, fileName, { headers: { 'content-type': type } }, (error) =>
        error && !response.headersSent ? reject(error) : resolve(),
      );
    });
  } finally {
    await rm(path, { force: true });
  }
}

/** Has a file written aside and sends it. Where the client goes away meanwhile, writing is given up and nothing stays. */
export async function sendWritten(
  library: JobLibrary,
  response: Response,
  { fileName, mediaType }: { readonly fileName: string; readonly mediaType: string },
  write: (target: string, signal: AbortSignal) => Promise<void>,
): Promise<void> {
  const target = library.scratchPath('.out');
  const gone = new AbortController();
  const leave = (): void => gone.abort();
  response.on('close', leave);
  // It may have gone before anybody listened.
  if (response.destroyed) leave();
  try {
    await write(target, gone.signal);
    if (!gone.signal.aborted) await sendFile(response, target, fileName, mediaType);
  } catch (error) {
    if (!gone.signal.aborted) throw error;
  } finally {
    response.off('close', leave);
    await rm(target, { force: true });
  }
}
