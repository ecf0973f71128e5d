import { readFile, stat } from 'node:fs/promises';
import { importGrid, type ImportGridParameters } from '@pampero/contract';
import type { LengthUnit } from '@pampero/core/geodesy';
import { FormatError } from '@pampero/core/formats';
import { readGeoTiffGrid } from '../../files/geotiff-grid.js';
import type { RunWork } from '../../runs/run-service.js';
import { storeProduct } from '../../store/product-repository.js';
import type { TaskPool } from '../../tasks/task-pool.js';
import { packFile, type GridOfFile } from '../../tasks/grid-tasks.js';
import { fileOperation, type FileSurroundings } from '../server-operation.js';
import { gridFigures, gridSize } from './grid-figures.js';

/** Bytes; a text becomes a string whole. */
const LARGEST_TEXT = 500_000_000;

/**
 * Reads a GeoTIFF or ASCII grid; the ending of its name tells which it is.
 * @throws FormatError where it is neither, or does not fit the job
 */
async function readGridFile(
  pool: TaskPool,
  path: string,
  fileName: string,
  job: { readonly unit: LengthUnit; readonly epsg: number | undefined },
): Promise<GridOfFile> {
  const ending = fileName.split('.').at(-1)?.toLowerCase();
  if (ending === 'tif' || ending === 'tiff') return packFile(await readGeoTiffGrid(path, fileName, job), fileName);
  if (ending !== 'asc' && ending !== 'grd' && ending !== 'txt')
    throw new FormatError('not-this-format', {
      what: `${fileName} is not a grid format that can be read.`,
      fix: 'Give a GeoTIFF (.tif) or an ASCII grid (.asc).',
    });
  if ((await stat(path)).size > LARGEST_TEXT)
    throw new FormatError('grid-unreadable', {
      what: `${fileName} is too large for a text file (at most 500 MB).`,
      fix: 'Give it as a GeoTIFF.',
    });
  return pool.run('gridOfText', { text: await readFile(path, 'utf8'), fileName }, new AbortController().signal);
}

/** A grid of a file, kept as it is; read before the run begins, so that a file that is no grid is refused at once. */
async function begin(
  parameters: ImportGridParameters,
  { pool, unit, job, source }: FileSurroundings,
): Promise<RunWork> {
  const { path, fileName } = source;
  const { grid, facts, remarks } = await readGridFile(pool, path, fileName, { unit, epsg: job.crs.epsg });
  const name = parameters.name ?? fileName.replace(/\.[^.]+$/, '');
  return () =>
    Promise.resolve({
      outcome: [`${name}: ${gridSize(facts, unit)}`, ...remarks].join('. '),
      figures: gridFigures(facts),
      store: (models) =>
        storeProduct(models, {
          kind: 'grid',
          name,
          operation: importGrid.id,
          parameters,
          facts: { ...facts, isCount: false, isDifference: false },
          blobs: { grid },
        }),
    });
}

export const operation = fileOperation(importGrid, begin);
