import { mkdirSync } from 'node:fs';
import { rename } from 'node:fs/promises';
import { join } from 'node:path';
import type { HandedOver, HandOverItem, PointFileFormat, SheetRun } from '@pampero/contract';
import type { PackageTarget } from '../hand-over/write-package.js';
import { EXIT } from './exit-codes.js';
import type { Telling } from './telling.js';

/** Files into a folder, each under its name only once it is whole. */
export function folderTarget(folder: string): PackageTarget {
  mkdirSync(folder, { recursive: true });
  return {
    path: (name) => join(folder, `${name}.part`),
    take: (name, path) => rename(path, join(folder, name)),
  };
}

/** What a run of a sheet hands over. */
export function itemsOf({ outputs }: SheetRun): HandOverItem[] {
  return outputs.map(({ kind, id, format, classes }) =>
    kind === 'product'
      ? { kind, id, format }
      : { kind, id, format: format as PointFileFormat, ...(classes && { classes }) },
  );
}

/** Says which files are in the folder and which could not be written; the command then ends as one that failed. */
export function tellWritten({ files, missing }: HandedOver, folder: string, telling: Telling): void {
  for (const { name, bytes, sha256 } of files)
    telling.line(`Written: ${join(folder, name)}`, { file: name, bytes, sha256 });
  for (const { name, because } of missing) telling.fault(`Not written: ${name}. ${because}`, { file: name });
  if (missing.length > 0) process.exitCode = EXIT.failed;
}
