import { findBreaks, type FindBreaksParameters } from '@pampero/contract';
import { lengthUnits, metresPer } from '@pampero/core/geodesy';
import { formatCounted, formatNumber } from '@pampero/core/wording';
import { readClouds } from '../../passes/read-clouds.js';
import type { RunWork } from '../../runs/run-service.js';
import { storeProduct } from '../../store/product-repository.js';
import { writeProposals } from '../../store/proposals.js';
import { serverOperation, type Surroundings } from '../server-operation.js';
import { breakOptions, foundLine, gapsOf, simplified } from './break-lines.js';

/** How far from where it is expected a break may lie, in metres; the search itself is by the spacing. */
const REACH = 1;

function work(parameters: FindBreaksParameters, { pool, unit, replaces }: Surroundings): RunWork {
  return async ({ job, signal, report }) => {
    const { clouds: ids, classes, kind, leastLength, leastAgree, tolerance } = parameters;
    report(0.02, 'Reading points');
    const { clouds, names, transfer } = await readClouds(job.read, ids, undefined, { attributes: kind === 'tone' });
    const options = breakOptions(parameters, REACH / metresPer(unit));
    const { found, spacing, halfProfile } = await pool.runWatched(
      'findBreaks',
      { clouds, classes, options, metresPerUnit: metresPer(unit), leastLength, leastAgree },
      signal,
      (share) => report(0.1 + 0.85 * (share as number), 'Laying profiles'),
      transfer,
    );
    const lines = found.map((line) => simplified(foundLine(line), tolerance));
    const length = lines.reduce((sum, line) => sum + line.length, 0);
    const { short } = lengthUnits[unit];
    return {
      outcome: `${formatCounted(lines.length, 'line')} proposed, ${formatNumber(length, 0)} ${short}`,
      figures: [
        { label: 'Proposed', value: lines.length, quantity: 'count' },
        { label: 'Length in plan', value: length, quantity: 'length' },
        { label: 'Point spacing', value: spacing, quantity: 'length' },
        { label: 'Half width of a profile', value: halfProfile, quantity: 'length' },
        { label: 'Gaps', value: gapsOf(lines, short) || 'none', quantity: 'text' },
      ],
      store: (models) =>
        storeProduct(models, {
          kind: 'proposals',
          name: `${PROPOSED[kind]}, ${names.join(', ')}`,
          operation: findBreaks.id,
          parameters,
          facts: { kind, proposed: lines.length, accepted: 0, refused: 0, length },
          blobs: { proposals: writeProposals(lines.map((line) => ({ ...line, state: 'waiting' }))) },
          replaces,
        }),
    };
  };
}

const PROPOSED = {
  kerb: 'Kerbs',
  wall: 'Walls',
  bank: 'Banks',
  ridge: 'Ridges',
  ditch: 'Ditches',
  track: 'Tracks',
  bend: 'Bends',
  tone: 'Edges by intensity',
} as const;

export const operation = serverOperation(findBreaks, work);
