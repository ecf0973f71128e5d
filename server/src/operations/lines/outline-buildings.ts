import { outlineBuildings, type OutlineBuildingsParameters } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { formatCounted, formatNumber } from '@pampero/core/wording';
import { averageSpacing } from '../../passes/cloud-spacing.js';
import { readClouds } from '../../passes/read-clouds.js';
import type { RunWork } from '../../runs/run-service.js';
import { readCloudFacts } from '../../store/cloud-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';
import { lineFigures } from './line-figures.js';
import { sortMadeLines, storeMadeLines } from './made-lines.js';

const CODE = 'BUILDING';
/** Cells are so many times as wide as points lie apart. */
const CELL = 1.5;

function work(parameters: OutlineBuildingsParameters, { pool, unit }: Surroundings): RunWork {
  return async ({ job, historyId, signal, report }) => {
    const { clouds: ids, classes, smallest, shortestSide, elevations } = parameters;
    report(0.05, 'Reading points');
    const spacing = Math.min(
      ...(await Promise.all(ids.map(async (id) => averageSpacing(await readCloudFacts(job.read, id))))),
    );
    const { clouds, transfer } = await readClouds(job.read, ids);
    report(0.4, 'Outlining buildings');
    const options = {
      cell: parameters.cell ?? CELL * spacing,
      tolerance: parameters.tolerance ?? spacing,
      leastArea: smallest ** 2,
      shortestSide,
    };
    const found = await pool.run('outlineBuildings', { clouds, classes, options }, signal, transfer);
    const made = await sortMadeLines(job.read, {
      lines: found.map(({ ring }) => ({
        code: CODE,
        shape: elevations === 'roof' ? ring : { ...ring, elevation: ring.elevation.map(() => NaN), source: ring.source.map(() => 0) }, // prettier-ignore
      })),
      roleOfNew: 'hole',
    });
    const squared = found.filter(({ isSquared }) => isSquared);
    const { short } = lengthUnits[unit];
    const residual = Math.sqrt(squared.reduce((sum, of) => sum + of.residual ** 2, 0) / Math.max(1, squared.length));
    const oblique = found.length - squared.length;
    return {
      outcome:
        found.length === 0
          ? 'No building is as large as the smallest one asked for.'
          : `${formatCounted(found.length, 'building')}, ${squared.length} squared${oblique > 0 ? `; ${oblique} did not fit right angles and keep their own` : ''}`,
      figures: [
        ...lineFigures(made.shapes),
        { label: 'Squared', value: squared.length, quantity: 'count' },
        { label: 'With angles of their own', value: oblique, quantity: 'count' },
        { label: 'Area covered', value: found.reduce((sum, { area }) => sum + area, 0), quantity: 'area' },
        {
          label: 'Outermost points off the squared sides',
          value: squared.length === 0 ? 'none squared' : `${formatNumber(residual, 3)} ${short} RMS`,
          quantity: 'text',
        },
      ],
      store: (models) => storeMadeLines(models, historyId, outlineBuildings.id, made),
    };
  };
}

export const operation = serverOperation(outlineBuildings, work);
