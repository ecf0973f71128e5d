import { drawContours, type DrawContoursParameters } from '@pampero/contract';
import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import type { RunWork } from '../runs/run-service.js';
import { readProduct, readProductBlob, readSurface, storeProduct } from '../store/product-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { formatCount } from './format-figures.js';

/** Contours traced on a surface's triangles or on a grid. */
export function drawContoursWork(
  pool: TaskPool,
  parameters: DrawContoursParameters,
  unit: LengthUnit,
  { replaces }: { replaces?: number } = {},
): RunWork {
  return async ({ job, signal, report }) => {
    const { interval, base, indexEvery, shortestLength, from, to, smoothing, dashedFrom, gridId } = parameters;
    const options = { interval, base, indexEvery, shortestLength, from, to };
    report(0.05, gridId === undefined ? 'Reading surface' : 'Reading grid');
    const tracing = (share: unknown): void => report(0.15 + 0.8 * (share as number), 'Tracing');
    const inputId = gridId ?? (await readSurface(job.read, parameters.surfaceId!)).id;
    if (gridId !== undefined) await readProduct(job.read, gridId, 'grid');
    const { lines, facts } = await (gridId === undefined
      ? pool.runWatched(
          'contours',
          { tin: await readProductBlob(job.read, inputId, 'tin'), options, smoothing, dashedFrom },
          signal,
          tracing,
        )
      : pool.runWatched(
          'gridContours',
          { grid: await readProductBlob(job.read, gridId, 'grid'), options },
          signal,
          tracing,
        ));
    const short = lengthUnits[unit].short;
    const name = parameters.name ?? `Contours ${interval} ${short}`;
    return {
      outcome:
        facts.lines === 0
          ? 'No contour lies there at that interval.'
          : `${formatCount(facts.lines)} contours at ${interval} ${short}, ${formatCount(facts.indexLines)} of them index`,
      figures: [
        { label: 'Contours', value: facts.lines, quantity: 'count' },
        { label: 'Index contours', value: facts.indexLines, quantity: 'count' },
        { label: 'Elevations', value: facts.levels, quantity: 'count' },
        { label: 'Length in plan', value: facts.length, quantity: 'length' },
        { label: 'Vertices', value: facts.vertices, quantity: 'count' },
        ...(facts.depressions > 0
          ? [{ label: 'Depressions', value: facts.depressions, quantity: 'count' as const }]
          : []),
        ...(dashedFrom > 0 && gridId === undefined
          ? [{ label: 'Dashed, in plan', value: facts.obscured, quantity: 'length' as const }]
          : []),
        ...(facts.departure
          ? [
              { label: 'Moved by smoothing, elevation, 95 %', value: facts.departure.p95, quantity: 'length' as const },
              { label: 'At most', value: facts.departure.worst, quantity: 'length' as const },
              { label: 'In plan, 95 %', value: facts.departure.planP95, quantity: 'length' as const },
            ]
          : []),
      ],
      store: (models) =>
        storeProduct(models, {
          kind: 'contours',
          name,
          inputId,
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
