import { mkdirSync } from 'node:fs';
import { rename } from 'node:fs/promises';
import { join } from 'node:path';
import type { PackageTarget } from '../hand-over/write-package.js';

/** Files into a folder, each under its name only once it is whole. */
export function folderTarget(folder: string): PackageTarget {
  mkdirSync(folder, { recursive: true });
  return {
    path: (name) => join(folder, `${name}.part`),
    take: (name, path) => rename(path, join(folder, name)),
  };
}
