import { rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { FileStore } from '@tus/file-store';
import { Server } from '@tus/server';
import type { RequestHandler } from 'express';
import { JobError } from '../errors/job-error.js';

/** How long an upload that was broken off can be gone on with. */
const KEPT_FOR_MS = 48 * 3600 * 1000;
/** Where uploads are spoken of by the tus protocol, version 1.0. */
export const UPLOADS_PATH = '/api/uploads';

/** Files that are sent in pieces, resumable across broken connections and restarts of either side. */
export class UploadStore {
  private readonly store: FileStore;
  readonly handle: RequestHandler;

  constructor(private readonly folder: string) {
    this.store = new FileStore({ directory: folder, expirationPeriodInMilliseconds: KEPT_FOR_MS });
    const tus = new Server({ path: UPLOADS_PATH, datastore: this.store, relativeLocation: true });
    this.handle = (request, response) => {
      // The router has taken its own path off; the protocol needs all of it.
      request.url = request.originalUrl;
      void tus.handle(request, response);
    };
  }

  /** Clears away what nobody came back for. */
  async clearForgotten(): Promise<void> {
    await this.store.deleteExpired().catch(() => undefined); // the folder is made with the first upload
  }

  /** @throws JobError where there is no such upload, or it has not arrived whole */
  async pathOf(uploadId: string): Promise<string> {
    const path = join(this.folder, uploadId);
    const upload = await this.store.getUpload(uploadId).catch(() => undefined);
    const size = (await stat(path).catch(() => undefined))?.size;
    if (!upload || size === undefined)
      throw new JobError('not-found', { what: 'There is no such upload.', fix: 'Send the file again.' });
    if (size !== upload.size)
      throw new JobError('bad-request', {
        what: `${size} of ${upload.size ?? 'its'} bytes have arrived.`,
        fix: 'Send the rest first.',
      });
    return path;
  }

  async remove(uploadId: string): Promise<void> {
    await this.store.remove(uploadId).catch(() => rm(join(this.folder, uploadId), { force: true }));
  }
}
