import { readFile, stat } from 'node:fs/promises';
import { FormatError } from '@pampero/core/formats';
import { readAsciiGrid } from '@pampero/core/formats/ascii-grid';
import { openLas, type LasFile } from '@pampero/core/formats/las';
import type { ReadLine } from '@pampero/core/formats/lines';
import { readPointList, type ListedPoint, type PointOrder } from '@pampero/core/formats/point-list';
import { readPoses, type PoseList } from '@pampero/core/formats/poses';
import type { LengthUnit } from '@pampero/core/geodesy';
import { packTin, tinFacts } from '@pampero/core/terrain';
import { openFileSource } from '../files/file-bytes.js';
import { readLineFile, type LineFile } from '../files/line-files.js';
import { readSurfaceFile } from '../files/surface-files.js';
import { packFile, type GridOfFile } from './grid-tasks.js';
import { displayGrid, type SurfaceOfFile } from './surface-tasks.js';

export { lookAtFile } from './look-at-file.js';

/** A file on its way in. */
export interface ForeignFile {
  readonly path: string;
  readonly fileName: string;
}

/** Bytes; a text becomes a string whole. */
const LARGEST_TEXT = 500_000_000;

const LARGEST_LIST = 100_000_000;

export async function textOf(file: ForeignFile, largest = LARGEST_TEXT): Promise<string> {
  await checkSize(file, largest, 'a text');
  return readFile(file.path, 'utf8');
}

/** @throws FormatError for a file that is too large to be read whole */
export async function checkSize(
  { path, fileName }: ForeignFile,
  largest = LARGEST_TEXT,
  kind = 'a table',
): Promise<void> {
  const { size } = await stat(path);
  if (size > largest)
    throw new FormatError('not-this-format', {
      what: `${fileName} has ${Math.round(size / 1e6)} MB; ${kind} of at most ${largest / 1e6} MB can be read.`,
      fix: 'Split it, thin it first, or give it in a binary format.',
    });
}

/** What a LAS or LAZ file says of itself, without its points. */
export type LasFacts = Omit<LasFile, 'batches'>;

export async function factsOfLas({ path, fileName }: ForeignFile): Promise<LasFacts & { readonly size: number }> {
  const source = await openFileSource(path, fileName);
  const { batches: _, ...facts } = await openLas(source).finally(() => source.close());
  return { ...facts, size: source.size };
}

/** Lines and outlines of a file. */
export async function linesOfFile(task: LineFile): Promise<ReadLine[]> {
  if (task.format === 'shp') await checkSize(task);
  return readLineFile(task, (largest) => textOf(task, largest));
}

export interface PoseTask extends ForeignFile {
  readonly columns: readonly string[] | undefined;
}

/** A list of photographs, as it stands. */
export async function posesOfFile({ columns, ...file }: PoseTask): Promise<PoseList> {
  return readPoses(await textOf(file, LARGEST_LIST), file.fileName, columns);
}

export async function pointsOfList(task: ForeignFile & { readonly order: PointOrder }): Promise<ListedPoint[]> {
  return readPointList(await textOf(task), task.order, task.fileName);
}

/** Surfaces of a LandXML, DXF or ASCII grid text. */
export async function surfacesOfFile(task: ForeignFile & { readonly unit: LengthUnit }): Promise<SurfaceOfFile[]> {
  return readSurfaceFile(await textOf(task), task.fileName, task.unit).map(({ name, tin, report }) => ({
    name,
    origin: tin.origin,
    report,
    facts: tinFacts(tin),
    tin: packTin(tin),
    grid: displayGrid(tin),
  }));
}

/**
 * The grid of a GeoTIFF or ASCII grid; the ending of its name tells which it is.
 * @throws FormatError where it is neither, or does not fit the job
 */
export async function gridOfFile(
  task: ForeignFile & { readonly unit: LengthUnit; readonly epsg: number | undefined },
): Promise<GridOfFile> {
  const { path, fileName } = task;
  const ending = fileName.split('.').at(-1)?.toLowerCase();
  if (ending === 'tif' || ending === 'tiff') {
    const { readGeoTiffGrid } = await import('../files/geotiff-grid.js');
    return packFile(await readGeoTiffGrid(path, fileName, task), fileName);
  }
  if (ending !== 'asc' && ending !== 'grd' && ending !== 'txt')
    throw new FormatError('not-this-format', {
      what: `${fileName} is not a grid format that can be read.`,
      fix: 'Give a GeoTIFF (.tif) or an ASCII grid (.asc).',
    });
  const { values, frame } = readAsciiGrid(await textOf(task), fileName);
  return packFile({ values: values as Float32Array<ArrayBuffer>, frame, remarks: [] }, fileName);
}
