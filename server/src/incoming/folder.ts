import { readdir, realpath, stat } from 'node:fs/promises';
import { extname, join, relative, resolve, sep } from 'node:path';
import type { Folder } from '@pampero/contract';
import { JobError } from '../errors/job-error.js';

const ENDINGS: readonly string[] = ['.las', '.laz', '.e57', '.ply', '.ptx', '.pts', '.txt', '.xyz', '.csv', '.asc'];

/** The folder on the server's machine that clouds may be picked from; nothing outside it can be reached. */
export class PickingFolder {
  constructor(private readonly root: string | undefined) {}

  async list(path: string): Promise<Folder> {
    if (this.root === undefined) return { isSet: false, path: '', entries: [] };
    const folder = await this.inside(path);
    const found = await readdir(folder, { withFileTypes: true }).catch(() => {
      throw missing(path);
    });
    const entries = await Promise.all(
      found
        .filter((entry) => !entry.name.startsWith('.'))
        .filter((entry) => entry.isDirectory() || ENDINGS.includes(extname(entry.name).toLowerCase()))
        .map(async (entry) => {
          const facts = await stat(join(folder, entry.name)).catch(() => undefined);
          return (
            facts && {
              name: entry.name,
              isFolder: facts.isDirectory(),
              bytes: facts.isDirectory() ? 0 : facts.size,
              changedAt: facts.mtime.toISOString(),
            }
          );
        }),
    );
    return {
      isSet: true,
      path: relative(await realpath(this.root), folder)
        .split(sep)
        .join('/'),
      entries: entries
        .filter((entry) => entry !== undefined)
        .sort((a, b) => Number(b.isFolder) - Number(a.isFolder) || a.name.localeCompare(b.name)),
    };
  }

  /** The file's whole path. @throws JobError where it is not there, or not inside */
  async file(path: string): Promise<string> {
    const found = await this.inside(path);
    if (!(await stat(found)).isFile()) throw missing(path);
    return found;
  }

  private async inside(path: string): Promise<string> {
    if (this.root === undefined)
      throw new JobError('not-found', {
        what: 'No folder is set to pick files from.',
        fix: 'Set PAMPERO_FOLDER to a folder on the server’s machine and start it again.',
      });
    const root = await realpath(this.root).catch(() => {
      throw missing(this.root!);
    });
    const found = await realpath(resolve(root, path)).catch(() => {
      throw missing(path);
    });
    if (found !== root && !found.startsWith(root.endsWith(sep) ? root : root + sep)) throw missing(path);
    return found;
  }
}

function missing(path: string): JobError {
  return new JobError('not-found', {
    what: `There is no "${path}" in the folder.`,
    fix: 'It may have been moved. Open the folder again.',
  });
}
