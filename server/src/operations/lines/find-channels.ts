import { findChannels, type FindChannelsParameters } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { planLength, unpackLines } from '@pampero/core/lines';
import { formatCounted, formatNumber } from '@pampero/core/wording';
import type { RunWork } from '../../runs/run-service.js';
import { readProductBlob } from '../../store/product-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';
import { lineFigures } from './line-figures.js';
import { sortMadeLines, storeMadeLines } from './made-lines.js';

const CODE = 'CHANNEL';
const MOST_LISTED = 20;

function work(
  { surfaceId, cell, catchment, sinkDepth }: FindChannelsParameters,
  { pool, unit }: Surroundings,
): RunWork {
  return async ({ job, historyId, signal, report }) => {
    report(0.05, 'Reading the surface');
    const tin = await readProductBlob(job.read, surfaceId, 'tin');
    report(0.2, 'Letting water run');
    const { channels, sinks, catchments } = await pool.run('findChannels', { tin, cell, catchment, sinkDepth }, signal);
    const shapes = unpackLines(channels);
    const made = await sortMadeLines(job.read, { lines: shapes.map((shape) => ({ code: CODE, shape })) });
    const { short } = lengthUnits[unit];
    const length = shapes.reduce((sum, shape) => sum + planLength(shape), 0);
    return {
      outcome: `${formatCounted(shapes.length, 'channel')}, ${formatNumber(length, 0)} ${short}; ${formatCounted(sinks.length, 'sink')}`,
      figures: [
        ...lineFigures(shapes),
        ...(catchments[0] === undefined ? [] : [{ label: 'Largest catchment', value: catchments[0], quantity: 'area' as const }]), // prettier-ignore
        { label: 'Sinks', value: sinks.length, quantity: 'count' as const },
        ...sinks.slice(0, MOST_LISTED).map((sink) => ({
          label: `Sink at ${formatNumber(sink.easting, 1)} E ${formatNumber(sink.northing, 1)} N`,
          value: `${formatNumber(sink.depth, 2)} ${short} deep, ${formatNumber(sink.area, 0)} ${short}², holds ${formatNumber(sink.volume, 1)} ${short}³`,
          quantity: 'text' as const,
        })),
      ],
      store: (models) => storeMadeLines(models, historyId, findChannels.id, made),
    };
  };
}

export const operation = serverOperation(findChannels, work);
