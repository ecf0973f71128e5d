import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { FileStore } from '@tus/file-store';
import { Server } from '@tus/server';
import type { RequestHandler } from 'express';
import { JobError } from '../errors/job-error.js';
import { problemOf } from '../errors/problem.js';
import { checkRoom, diskFull, freeBytes } from '../errors/disk-room.js';

/** How long an upload that was broken off can be gone on with. */
const KEPT_FOR_MS = 48 * 3600 * 1000;
/** Files on their way at once. */
const MOST_UPLOADS = 200;
/** Bytes free at which a disk counts as full. */
const FULL = 2_000_000;
/** Where uploads are spoken of by the tus protocol, version 1.0. */
export const UPLOADS_PATH = '/api/uploads';

/** Files that are sent in pieces, resumable across broken connections and restarts of either side. */
export class UploadStore {
  private readonly store: FileStore;
  readonly handle: RequestHandler;

  constructor(
    private readonly folder: string,
    /** Whose disk has to have room. */
    private readonly data: string,
  ) {
    this.store = new FileStore({ directory: folder, expirationPeriodInMilliseconds: KEPT_FOR_MS });
    const tus = new Server({
      path: UPLOADS_PATH,
      datastore: this.store,
      relativeLocation: true,
      onUploadCreate: async (_request, upload) => {
        await this.checkRoom(upload.size ?? 0);
        return {};
      },
      onResponseError: async (_request, error) => {
        const told =
          error instanceof JobError ? error : (await freeBytes(data)) < FULL ? await diskFull(data) : undefined;
        if (!told) return undefined;
        const { status, detail } = problemOf(told);
        return { status_code: status, body: detail };
      },
    });
    this.handle = (request, response) => {
      // The router has taken its own path off; the protocol needs all of it.
      request.url = request.originalUrl;
      void tus.handle(request, response);
    };
  }

  /** Room for what is sent now and for what is on its way already, before the first byte. */
  private async checkRoom(bytes: number): Promise<void> {
    const names = (await readdir(this.folder).catch(() => [])).filter((name) => !name.endsWith('.json'));
    if (names.length >= MOST_UPLOADS)
      throw new JobError('too-many', {
        what: `${names.length} files are on their way already.`,
        fix: 'Wait until some have arrived, or cancel them.',
      });
    let onItsWay = 0;
    for (const name of names) {
      const upload = await this.store.getUpload(name).catch(() => undefined);
      if (upload?.size !== undefined) onItsWay += Math.max(0, upload.size - upload.offset);
    }
    await checkRoom(this.data, bytes + onItsWay, 'The file');
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
