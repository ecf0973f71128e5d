import { drawContours, type DrawContoursParameters, type Figure } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { formatCount } from '@pampero/core/wording';
import type { RunWork } from '../../runs/run-service.js';
import { readProduct, readProductBlob, storeProduct } from '../../store/product-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

/** Contours traced on a surface's triangles or on a grid. */
function work(parameters: DrawContoursParameters, { pool, unit, job: { square }, replaces }: Surroundings): RunWork {
  return async ({ job, signal, report }) => {
    const { on, interval, smoothing, dashFrom } = parameters;
    const inputId = on === 'surface' ? parameters.surfaceId! : parameters.gridId!;
    report(0.05, `Reading ${on}`);
    await readProduct(job.read, inputId, on);
    const bytes = await readProductBlob(job.read, inputId, on === 'surface' ? 'tin' : 'grid');
    const options = { ...tracingOptions(parameters), square: square?.land };
    const tracing = (share: unknown): void => report(0.15 + 0.8 * (share as number), 'Tracing');
    const { lines, facts } = await (on === 'surface'
      ? pool.runWatched('contours', { tin: bytes, options, smoothing, dashFrom }, signal, tracing)
      : pool.runWatched('gridContours', { grid: bytes, options }, signal, tracing));
    const { short } = lengthUnits[unit];
    const count = (label: string, value: number): Figure => ({ label, value, quantity: 'count' });
    const length = (label: string, value: number): Figure => ({ label, value, quantity: 'length' });
    const { lowest, highest, departure, ...rest } = facts;
    return {
      outcome:
        facts.lines === 0
          ? 'There is no contour at that interval.'
          : `${formatCount(facts.lines)} contours at ${interval} ${short}, ${formatCount(facts.indexLines)} of them index contours`,
      figures: [
        count('Contours', facts.lines),
        count('Index contours', facts.indexLines),
        count('Elevations', facts.levels),
        length('Length in plan', facts.length),
        count('Vertices', facts.vertices),
        ...(facts.depressions > 0 ? [count('Depressions', facts.depressions)] : []),
        ...(dashFrom > 0 && on === 'surface' ? [length('Dashed, in plan', facts.obscured)] : []),
        ...(departure
          ? [
              length('Moved by smoothing, elevation, 95 %', departure.p95),
              length('At most', departure.worst),
              length('In plan, 95 %', departure.planP95),
            ]
          : []),
      ],
      store: (models) =>
        storeProduct(models, {
          kind: 'contours',
          name: parameters.name ?? `Contours ${interval} ${short}`,
          operation: drawContours.id,
          parameters,
          facts: {
            ...rest,
            ...(lowest !== undefined && { lowest }),
            ...(highest !== undefined && { highest }),
            ...(departure && { departure }),
          },
          blobs: { lines },
          replaces,
        }),
    };
  };
}

/** What the tracer is told of the parameters. */
export function tracingOptions({
  interval,
  baseElevation,
  indexEvery,
  minimumLength,
  from,
  to,
}: DrawContoursParameters) {
  return { interval, base: baseElevation, indexEvery, minimumLength, from, to };
}

export const operation = serverOperation(drawContours, work);
