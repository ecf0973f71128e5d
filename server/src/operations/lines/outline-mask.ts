import { outlineMask, type OutlineMaskParameters } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { pixelSize } from '@pampero/core/imagery';
import { formatCounted, formatNumber } from '@pampero/core/wording';
import { maskLevels } from '../../passes/mask-levels.js';
import type { RunWork } from '../../runs/run-service.js';
import { readProduct } from '../../store/product-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';
import { lineFigures } from './line-figures.js';
import { sortMadeLines, storeMadeLines } from './made-lines.js';

function work(parameters: OutlineMaskParameters, { pool, unit }: Surroundings): RunWork {
  return async ({ job, historyId, signal, report }) => {
    const { code, level, clouds: ids, tolerance } = parameters;
    const product = await readProduct(job.read, parameters.mask, 'mask');
    report(0.1, 'Reading points');
    const { task, transfer } = await maskLevels(job.read, product, unit, level, ids);
    report(0.4, 'Drawing edges');
    const own = { ...task, tolerance: Math.max(tolerance, 0.75 * pixelSize(task.frame)) };
    const rings = await pool.run('outlineOfMask', own, signal, transfer);
    const made = await sortMadeLines(job.read, {
      lines: rings.map(({ shape }) => ({ code, shape })),
      roleOfNew: level === undefined && ids.length === 0 ? 'plain' : 'water',
    });
    const levels = rings.filter(({ isIsland }) => !isIsland).map(({ shape }) => shape.elevation[0]!);
    const { short } = lengthUnits[unit];
    return {
      outcome: `${formatCounted(rings.length, 'edge')} of ${product.name} as ${code}`,
      figures: [
        ...lineFigures(made.shapes),
        ...levels
          .filter((value) => !Number.isNaN(value))
          .slice(0, 20)
          .map((value) => ({ label: 'Level', value: `${formatNumber(value, 3)} ${short}`, quantity: 'text' as const })),
      ],
      store: (models) => storeMadeLines(models, historyId, outlineMask.id, made),
    };
  };
}

export const operation = serverOperation(outlineMask, work);
