import { followBreak, type FollowBreakParameters } from '@pampero/contract';
import { lengthUnits, metresPer } from '@pampero/core/geodesy';
import { formatCounted, formatNumber } from '@pampero/core/wording';
import { reachesInto, readClouds } from '../../passes/read-clouds.js';
import type { RunWork } from '../../runs/run-service.js';
import { serverOperation, type Surroundings } from '../server-operation.js';
import { breakOptions, foundLine, gapsOf, linesOfBreak, simplified } from './break-lines.js';
import { lineFigures } from './line-figures.js';
import { sortMadeLines, storeMadeLines } from './made-lines.js';

/** A guide's box is read with so much about it beside the reach: the widest profile, and room to follow a bend. */
const ABOUT = 40;

function work(parameters: FollowBreakParameters, { pool, unit }: Surroundings): RunWork {
  return async ({ job, historyId, signal, report }) => {
    const { clouds: ids, classes, guide, goesOn, kind, reach, halfProfile } = parameters;
    report(0.05, 'Reading points');
    const [west, east, south, north] = [0, 1].flatMap((axis) => {
      const along = guide.map((place) => place[axis]!);
      return [along.reduce((a, b) => Math.min(a, b)), along.reduce((a, b) => Math.max(a, b))];
    }) as [number, number, number, number];
    const about = reach + halfProfile + ABOUT / metresPer(unit);
    const box = { west, south, east, north };
    const isWanted = goesOn ? undefined : (of: Parameters<typeof reachesInto>[0]) => reachesInto(of, box, about);
    const { clouds, transfer } = await readClouds(job.read, ids, isWanted, { attributes: kind === 'tone' });
    report(0.4, 'Following the break');
    const options = breakOptions(parameters, reach);
    const task = { clouds, classes, options, metresPerUnit: metresPer(unit), guide, goesOn };
    const { found, spacing } = await pool.run('followBreak', task, signal, transfer);
    const lines = found.map((line) => simplified(foundLine(line), parameters.tolerance));
    const made = await sortMadeLines(job.read, { lines: lines.flatMap((line) => linesOfBreak(line, kind)) });
    const { short } = lengthUnits[unit];
    const length = lines.reduce((sum, line) => sum + line.length, 0);
    const agree = lines.reduce((sum, line) => sum + line.agree * line.length, 0) / Math.max(1e-9, length);
    const gaps = gapsOf(lines, short);
    return {
      outcome: `${formatNumber(length, 1)} ${short} followed, ${formatCounted(made.shapes.length, 'line')}${gaps && `; ${gaps}`}`,
      figures: [
        ...lineFigures(made.shapes),
        { label: 'Profiles that show it', value: `${Math.round(100 * agree)} %`, quantity: 'text' },
        { label: 'Points off the profiles, RMS', value: Math.sqrt(lines.reduce((sum, line) => sum + line.residual ** 2, 0) / lines.length), quantity: 'length' }, // prettier-ignore
        { label: 'Point spacing', value: spacing, quantity: 'length' },
        ...lines.flatMap(({ bridged }) =>
          bridged.slice(0, 20).map((gap) => ({
            label: `Bridged at ${formatNumber(gap.easting, 1)} E ${formatNumber(gap.northing, 1)} N`,
            value: gap.length,
            quantity: 'length' as const,
          })),
        ),
      ],
      store: (models) => storeMadeLines(models, historyId, followBreak.id, made),
    };
  };
}

export const operation = serverOperation(followBreak, work);
