import { drawLines, type DrawLinesParameters } from '@pampero/contract';
import { sourceNumber, type LineShape } from '@pampero/core/lines';
import { formatCounted } from '@pampero/core/wording';
import type { RunWork } from '../../runs/run-service.js';
import { serverOperation } from '../server-operation.js';
import { lineFigures } from './line-figures.js';
import { sortMadeLines, storeMadeLines } from './made-lines.js';

function shapeOfRequest({
  isClosed,
  easting,
  northing,
  elevation,
  source,
}: DrawLinesParameters['put'][number]): LineShape {
  return {
    isClosed,
    easting: Float64Array.from(easting),
    northing: Float64Array.from(northing),
    elevation: Float64Array.from(elevation, (z) => z ?? NaN),
    source: Uint8Array.from(elevation, (z, k) => (z === null ? 0 : sourceNumber(source?.[k] ?? 'typed'))),
  };
}

function work({ put, remove, what }: DrawLinesParameters): RunWork {
  return async ({ job, historyId }) => {
    const lines = put.map((line) => ({ code: line.code, key: line.key, shape: shapeOfRequest(line) }));
    const made = await sortMadeLines(job.read, { lines, remove });
    const said = [
      put.length > 0 && formatCounted(put.length, 'line'),
      remove.length > 0 && `${formatCounted(remove.length, 'line')} removed`,
    ].filter(Boolean);
    return {
      outcome: what ?? (said.join(', ') || 'Nothing changed'),
      figures: lineFigures(made.shapes),
      store: (models) => storeMadeLines(models, historyId, drawLines.id, made),
    };
  };
}

export const operation = serverOperation(drawLines, work);
