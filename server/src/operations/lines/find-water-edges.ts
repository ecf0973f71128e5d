import { findWaterEdges, type FindWaterEdgesParameters } from '@pampero/contract';
import { lengthUnits, metresPer } from '@pampero/core/geodesy';
import { simplifyLine } from '@pampero/core/lines';
import { formatCounted, formatNumber } from '@pampero/core/wording';
import { readClouds } from '../../passes/read-clouds.js';
import type { RunWork } from '../../runs/run-service.js';
import { serverOperation, type Surroundings } from '../server-operation.js';
import { lineFigures } from './line-figures.js';
import { sortMadeLines, storeMadeLines } from './made-lines.js';

const WATER = 9;
/** How far land may lie under the water beside it before it is told, metres. */
const BANK_TOLERANCE = 0.1;

function work(parameters: FindWaterEdgesParameters, { pool, unit }: Surroundings): RunWork {
  return async ({ job, historyId, signal, report }) => {
    const { clouds: ids, landClasses, tolerance, ...options } = parameters;
    report(0.05, 'Reading points');
    const { clouds, transfer } = await readClouds(job.read, ids);
    report(0.4, 'Outlining water');
    const task = {
      clouds,
      waterClass: WATER,
      landClasses,
      options: { ...options, bankTolerance: BANK_TOLERANCE / metresPer(unit) },
    };
    const edges = await pool.run('findWaterEdges', task, signal, transfer);
    const made = await sortMadeLines(job.read, {
      lines: edges.flatMap(({ isFlowing, rings }) =>
        rings.map((ring) => ({
          code: isFlowing ? 'RIVER-EDGE' : 'WATER-EDGE',
          shape: tolerance > 0 ? simplifyLine(ring, tolerance) : ring,
        })),
      ),
    });
    const { short } = lengthUnits[unit];
    const flowing = edges.filter(({ isFlowing }) => isFlowing).length;
    return {
      outcome: `${formatCounted(edges.length - flowing, 'still water', 'still waters')}, ${flowing} flowing`,
      figures: [
        ...lineFigures(made.shapes),
        ...edges.slice(0, 30).map(({ isFlowing, high, low, area, lowBanks }) => ({
          label: `${isFlowing ? 'Flowing' : 'Still'} water, ${formatNumber(area, 0)} ${short}²`,
          value:
            (isFlowing
              ? `falls from ${formatNumber(high, 2)} to ${formatNumber(low, 2)} ${short}`
              : `level ${formatNumber(high, 3)} ${short}`) +
            (lowBanks > 0 ? `; the bank is lower than the water at ${lowBanks} places` : ''),
          quantity: 'text' as const,
        })),
      ],
      store: (models) => storeMadeLines(models, historyId, findWaterEdges.id, made),
    };
  };
}

export const operation = serverOperation(findWaterEdges, work);
