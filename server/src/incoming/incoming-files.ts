import { basename } from 'node:path';
import type { IncomingFile } from '@pampero/contract';
import type { PickingFolder } from './folder.js';
import type { GeoidLibrary } from './geoid-library.js';
import type { UploadStore } from './upload-store.js';

/** A file that can be read. */
export interface FoundFile {
  readonly path: string;
  readonly fileName: string;
  /** Takes it away where it was received for one import; a file of the folder stays. */
  readonly discard: () => Promise<void>;
}

/** Where files come from: sent in pieces, or picked from a folder on the server's machine. */
export class IncomingFiles {
  constructor(
    readonly uploads: UploadStore,
    readonly folder: PickingFolder,
    readonly geoids: GeoidLibrary,
  ) {}

  /** @throws JobError where it is not there */
  async find(file: IncomingFile): Promise<FoundFile> {
    if ('uploadId' in file) {
      const { uploadId, fileName } = file;
      return {
        path: await this.uploads.pathOf(uploadId),
        fileName,
        discard: () => this.uploads.remove(uploadId),
      };
    }
    const path = await this.folder.file(file.folderPath);
    return { path, fileName: basename(path), discard: () => Promise.resolve() };
  }
}
