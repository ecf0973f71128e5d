import { applyAdjustment, type ApplyAdjustmentParameters } from '@pampero/contract';
import { PamperoError } from '@pampero/core/task';
import { formatCount } from '@pampero/core/wording';
import { movePoints } from '../../passes/move-points.js';
import { correctedFlight } from '../../passes/strip-flight.js';
import { stripCloudOf, stripSite } from '../../passes/strip-site.js';
import type { RunWork } from '../../runs/run-service.js';
import { readCloud } from '../../store/cloud-repository.js';
import { readProduct } from '../../store/product-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

/** Moves the points of the adjusted cloud. */
function work({ adjustment, as }: ApplyAdjustmentParameters, { pool }: Surroundings): RunWork {
  return async (context) => {
    const { job, signal, report, historyId } = context;
    const pass = { pool, job, signal };
    const { facts, name } = await readProduct(job.read, adjustment, 'adjustment');
    const { positions } = await readCloud(job.read, facts.cloudId);
    if (positions.shown !== facts.positions)
      throw new PamperoError('cloud-moved', {
        what: `${name} was reckoned from other positions of the cloud than it is shown at now.`,
        fix: positions.sets.length > 0 ? 'Show the cloud at those positions again, or adjust anew.' : 'Adjust anew.',
      });
    const site = await stripSite(pass, facts.cloudId, facts.stripsId, { least: 1 });
    const flight = await correctedFlight(pass, facts);
    report(0.02, 'Moving the points');
    const moved = await movePoints(
      { ...pass, historyId },
      site,
      { name: as || name, because: name },
      true,
      (nodes, transfer) => pool.run('moveByFlight', { ...stripCloudOf(site, nodes), ...flight }, signal, transfer),
      (share) => report(0.02 + 0.96 * share, 'Moving the points'),
    );
    return {
      outcome: `${site.facts.name} corrected by ${name}${moved.stayed > 0 ? `; ${formatCount(moved.stayed)} points without a trajectory stayed` : ''}`,
      figures: moved.figures,
      store: moved.store,
    };
  };
}

export const operation = serverOperation(applyAdjustment, work);
