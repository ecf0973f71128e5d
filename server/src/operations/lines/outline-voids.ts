import { outlineVoids, type OutlineVoidsParameters } from '@pampero/contract';
import { shapeOf, simplifyLine } from '@pampero/core/lines';
import { formatCounted, formatNumber } from '@pampero/core/wording';
import { lengthUnits } from '@pampero/core/geodesy';
import { readClouds } from '../../passes/read-clouds.js';
import type { RunWork } from '../../runs/run-service.js';
import { serverOperation, type Surroundings } from '../server-operation.js';
import { lineFigures } from './line-figures.js';
import { sortMadeLines, storeMadeLines } from './made-lines.js';

const CODE = 'VOID';
/** Voids told one by one, the largest. */
const TOLD = 20;

function work(parameters: OutlineVoidsParameters, { pool, unit }: Surroundings): RunWork {
  return async ({ job, historyId, signal, report }) => {
    const { clouds: ids, classes, ...options } = parameters;
    report(0.05, 'Reading points');
    const { clouds, transfer } = await readClouds(job.read, ids);
    report(0.4, 'Outlining voids');
    const voids = await pool.run('outlineVoids', { clouds, classes, options }, signal, transfer);
    const made = await sortMadeLines(job.read, {
      lines: voids.flatMap(({ rings }) =>
        rings.map(({ easting, northing }) => ({
          code: CODE,
          shape: simplifyLine(
            shapeOf(Array.from(easting, (e, k) => ({ e, n: northing[k]!, z: NaN, source: 0 })), true), // prettier-ignore
            options.cell,
          ),
        })),
      ),
      roleOfNew: 'hole',
    });
    const { short } = lengthUnits[unit];
    const square = (area: number): string => `${formatNumber(area, 0)} ${short}²`;
    const total = voids.reduce((sum, { area }) => sum + area, 0);
    return {
      outcome:
        voids.length === 0
          ? `There is no void wider than ${formatNumber(options.width, 1)} ${short}.`
          : `${formatCounted(voids.length, 'void')}, ${square(total)} without ground`,
      figures: [
        ...lineFigures(made.shapes),
        { label: 'Area without ground', value: total, quantity: 'area' },
        ...voids.slice(0, TOLD).map(({ rings: [outer], area }) => ({
          label: `Void at ${formatNumber(outer!.easting[0]!, 0)} E ${formatNumber(outer!.northing[0]!, 0)} N`,
          value: square(area),
          quantity: 'text' as const,
        })),
      ],
      store: (models) => storeMadeLines(models, historyId, outlineVoids.id, made),
    };
  };
}

export const operation = serverOperation(outlineVoids, work);
