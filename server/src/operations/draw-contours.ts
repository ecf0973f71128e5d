import { drawContours, type DrawContoursParameters } from '@pampero/contract';
import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import type { RunWork } from '../runs/run-service.js';
import { storeProduct, readProductBlob, readSurface } from '../store/product-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { formatCount } from './format-figures.js';

/** Contours traced on a surface's triangles. */
export function drawContoursWork(
  pool: TaskPool,
  parameters: DrawContoursParameters,
  unit: LengthUnit,
  { replaces }: { replaces?: number } = {},
): RunWork {
  return async ({ job, signal, report }) => {
    const surface = await readSurface(job.read, parameters.surfaceId);
    report(0.05, 'Reading surface');
    const tin = await readProductBlob(job.read, surface.id, 'tin');
    const { interval, base, indexEvery, shortestLength, from, to } = parameters;
    const { lines, facts } = await pool.runWatched(
      'contours',
      { tin, options: { interval, base, indexEvery, shortestLength, from, to } },
      signal,
      (share) => report(0.15 + 0.8 * (share as number), 'Tracing'),
    );
    const short = lengthUnits[unit].short;
    const name = parameters.name ?? `Contours ${interval} ${short}`;
    return {
      outcome:
        facts.lines === 0
          ? 'No contour lies on this surface at that interval.'
          : `${formatCount(facts.lines)} contours at ${interval} ${short}, ${formatCount(facts.indexLines)} of them index`,
      figures: [
        { label: 'Contours', value: facts.lines, quantity: 'count' },
        { label: 'Index contours', value: facts.indexLines, quantity: 'count' },
        { label: 'Elevations', value: facts.levels, quantity: 'count' },
        { label: 'Length in plan', value: facts.length, quantity: 'length' },
        { label: 'Vertices', value: facts.vertices, quantity: 'count' },
      ],
      store: (models) =>
        storeProduct(models, {
          kind: 'contours',
          name,
          inputId: surface.id,
          inputRevision: 0,
          operation: drawContours.id,
          parameters,
          facts: { ...facts },
          blobs: { lines },
          ...(replaces !== undefined && { replaces }),
        }),
    };
  };
}
