import { importGrid, type ImportGridParameters } from '@pampero/contract';
import type { RunWork } from '../../runs/run-service.js';
import { storeProduct } from '../../store/product-repository.js';
import { fileOperation, type FileSurroundings } from '../server-operation.js';
import { gridFigures, gridSize } from './grid-figures.js';

/** A grid of a file, kept as it is; read before the run begins, so that a file that is no grid is refused at once. */
async function begin(
  parameters: ImportGridParameters,
  { pool, unit, job, source }: FileSurroundings,
): Promise<RunWork> {
  const { path, fileName } = source;
  const task = { path, fileName, unit, epsg: job.crs.epsg };
  const { grid, facts, remarks } = await pool.read('gridOfFile', task, source);
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
