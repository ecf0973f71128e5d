import { mkdir, rm } from 'node:fs/promises';
import { basename, join } from 'node:path';
import type { Quantisation } from '@pampero/core/cloud';
import { FormatError } from '@pampero/core/formats';
import { layOutSquares, type SquareLayout } from '@pampero/core/squares';
import { formatCount } from '@pampero/core/wording';
import type { DividedSquare } from '../tasks/import/divide-las.js';
import { looseKind } from '../tasks/import/loose-file.js';
import type { NamedFile } from '../tasks/import/las-batches.js';
import { layoutOfText } from '../tasks/look-at-file.js';
import type { LasFacts } from '../tasks/reading-tasks.js';
import type { TaskPool } from '../tasks/task-pool.js';
import type { SiteSquare } from './site-file.js';

interface OpenedFile extends NamedFile {
  readonly las: LasFacts;
}

export interface Division {
  readonly pool: TaskPool;
  readonly layout: SquareLayout;
  /** Gets a folder of each square. */
  readonly folder: string;
  readonly signal: AbortSignal;
  readonly report: (share: number, step: string) => void;
}

/**
 * Divides the points of files among the squares of a site. Files of the same columns come together in one file a square, so that a
 * margin that a neighbouring file reaches into is no cloud of its own.
 * @returns the squares that points belong to, and the EPSG code that the files state
 */
export async function divideFiles(
  paths: readonly string[],
  division: Division,
): Promise<{ squares: SiteSquare[]; epsg: number | undefined }> {
  try {
    return await dividedFiles(paths, division);
  } catch (error) {
    await rm(division.folder, { recursive: true, force: true });
    throw error;
  }
}

async function dividedFiles(
  paths: readonly string[],
  division: Division,
): Promise<{ squares: SiteSquare[]; epsg: number | undefined }> {
  const { pool, folder, layout, signal, report } = division;
  await rm(folder, { recursive: true, force: true });
  await mkdir(folder, { recursive: true });
  const aside = join(folder, '.converted');
  await mkdir(aside);
  const files: OpenedFile[] = [];
  for (const [k, path] of paths.entries()) {
    report((0.1 * k) / paths.length, `Opening ${basename(path)}`);
    const file = await asLas(path, join(aside, `${k}.las`), division);
    const las = await pool.read('factsOfLas', file, { ...file, signal });
    files.push({ ...file, las });
  }
  const epsg = oneSystem(files);
  // Refuses a mistyped side before hours of writing.
  layOutSquares(
    layout,
    files.map(({ las: { header } }) => ({
      west: header.minX,
      south: header.minY,
      east: header.maxX,
      north: header.maxY,
    })),
  );
  const kinds = new Map<string, OpenedFile[]>();
  for (const file of files) kinds.set(kindOf(file), [...(kinds.get(kindOf(file)) ?? []), file]);
  const total = files.reduce((sum, { las }) => sum + las.pointCount, 0);
  const doneOf = new Map<string, number>();
  const shares = Math.max(1, pool.threads);
  const parts = await Promise.all(
    [...kinds.values()]
      .flatMap((alike, k) => Array.from({ length: shares }, (_, number) => ({ alike, k, number })))
      .map(async ({ alike, k, number }) => {
        const fileName = k === 0 ? 'points.las' : `points-${k + 1}.las`;
        const task = {
          files: alike.map(({ path, fileName: name }) => ({ path, fileName: name })),
          layout,
          quantisation: commonQuantisation(alike),
          folder,
          fileName,
          share: { number, of: shares },
        };
        const onMessage = (done: unknown): void => {
          doneOf.set(`${fileName} ${number}`, done as number);
          const sum = [...doneOf.values()].reduce((a, b) => a + b, 0) / shares;
          report(
            0.1 + (0.9 * sum) / total,
            `Dividing, ${formatCount(Math.round(sum))} of ${formatCount(total)} points`,
          );
        };
        const guarded = { path: alike[0]!.path, fileName: alike[0]!.fileName, signal, onMessage };
        return { fileName, squares: await pool.read('divideLas', task, guarded) };
      }),
  );
  await rm(aside, { recursive: true, force: true });
  return { squares: await ownSquares(parts, folder), epsg };
}

/** Squares that points belong to; of those that would be margin alone the files go. */
async function ownSquares(
  parts: readonly { readonly fileName: string; readonly squares: readonly DividedSquare[] }[],
  folder: string,
): Promise<SiteSquare[]> {
  const found = new Map<string, SiteSquare>();
  for (const { fileName, squares } of parts)
    for (const { name, column, row, own, margin } of squares) {
      const before = found.get(name);
      found.set(name, {
        ...{ name, column, row },
        own: own + (before?.own ?? 0),
        margin: margin + (before?.margin ?? 0),
        files: [...(before?.files ?? []), fileName],
      });
    }
  const all = [...found.values()].sort((a, b) => a.row - b.row || a.column - b.column);
  for (const { name, own } of all) if (own === 0) await rm(join(folder, name), { recursive: true, force: true });
  return all.filter(({ own }) => own > 0);
}

/** The file itself where it is LAS or LAZ, else a LAS file made of it. */
async function asLas(path: string, target: string, { pool, signal, report }: Division): Promise<NamedFile> {
  const fileName = basename(path);
  const kind = looseKind(fileName);
  if (!kind) return { path, fileName };
  const layout = kind === 'text' ? await layoutOfText({ path, fileName }) : undefined;
  const onMessage = (read: unknown): void => report(0.05, `Reading ${fileName}, ${formatCount(read as number)} points`);
  const task = { path, fileName, kind, layout, leaveOut: [], target };
  await pool.read('convertToLas', task, { path, fileName, signal, onMessage });
  return { path: target, fileName };
}

/** @throws FormatError where files say they are in different systems */
function oneSystem(files: readonly OpenedFile[]): number | undefined {
  const stated = files.flatMap(({ las: { crs }, fileName }) =>
    crs?.epsg === undefined ? [] : [{ epsg: crs.epsg, fileName }],
  );
  const other = stated.find(({ epsg }) => epsg !== stated[0]!.epsg);
  if (other)
    throw new FormatError('not-this-format', {
      what: `It is in EPSG:${other.epsg}, ${stated[0]!.fileName} in EPSG:${stated[0]!.epsg}.`,
      where: other.fileName,
      fix: 'A site is one system: move the files into one first.',
    });
  return stated[0]?.epsg;
}

/** Files that can lie in one file together. */
function kindOf({ las: { format, columns, header, records } }: OpenedFile): string {
  const described = records.filter(({ userId, recordId }) => userId === 'LASF_Spec' && recordId === 4);
  const extra = described.map(({ data }) => Buffer.from(data).toString('base64')).join();
  return [format.id, columns.extraBytesLength, header.globalEncoding & 1, extra].join(' ');
}

/** The finest scale of some files, about the offset of the first. */
function commonQuantisation(files: readonly OpenedFile[]): Quantisation {
  const [first] = files;
  const finest = (axis: 0 | 1 | 2): number => Math.min(...files.map(({ las }) => las.quantisation.scale[axis]));
  return { scale: [finest(0), finest(1), finest(2)], offset: first!.las.quantisation.offset };
}
