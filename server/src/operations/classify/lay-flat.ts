import { layFlat, type LayFlatParameters } from '@pampero/contract';
import { classMask } from '@pampero/core/cloud';
import { lengthUnits } from '@pampero/core/geodesy';
import { PamperoError } from '@pampero/core/task';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { maskLevels } from '../../passes/mask-levels.js';
import { movePoints } from '../../passes/move-points.js';
import type { RunWork } from '../../runs/run-service.js';
import { shared } from '../../shared-memory.js';
import { quantisationOf, readCloudFacts } from '../../store/cloud-repository.js';
import { listStoredNodes } from '../../store/node-repository.js';
import { readProduct } from '../../store/product-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

function work(parameters: LayFlatParameters, { pool, unit }: Surroundings): RunWork {
  return async ({ job, signal, report, historyId }) => {
    const { cloud: cloudId, level, classes, reach, as } = parameters;
    const product = await readProduct(job.read, parameters.mask, 'mask');
    const facts = await readCloudFacts(job.read, cloudId);
    report(0.05, 'Finding levels');
    const asked = await maskLevels(job.read, product, unit, level, [cloudId]);
    const found = await pool.run('levelsUnderMask', asked.task, signal, asked.transfer);
    if (found.levels.length === 0)
      throw new PamperoError('no-level', {
        what: `No ground point of ${facts.name} lies just outside the edge of ${product.name}, so nothing tells its level.`,
        fix: 'Type the level, or find ground first.',
      });
    const quantisation = quantisationOf(facts);
    const { frame } = asked.task;
    const task = { quantisation, frame, levels: shared(found.raster), takes: classMask(classes), reach };
    const site = { cloudId, quantisation, nodes: await listStoredNodes(job.read, cloudId) };
    const moved = await movePoints(
      { pool, job, signal, historyId },
      site,
      { name: as || 'Laid flat', because: product.name },
      false,
      (nodes, transfer) => pool.run('layNodesFlat', { nodes, ...task }, signal, transfer),
      (share) => report(0.3 + 0.68 * share, 'Moving the points'),
    );
    const count = facts.pointCount - moved.stayed;
    if (count === 0) {
      await moved.discard();
      throw new PamperoError('nothing-under-mask', {
        what: `No point of ${facts.name} on ${product.name} is of the classes chosen and near the level.`,
        fix: 'Choose other classes, allow a larger distance, or type another level.',
      });
    }
    const { short } = lengthUnits[unit];
    return {
      outcome: `${formatCount(count)} points of ${facts.name} on ${product.name} laid flat at ${found.levels
        .slice(0, 3)
        .map((value) => formatNumber(value, 2))
        .join(', ')}${found.levels.length > 3 ? ', …' : ''} ${short}`,
      figures: [
        ...moved.figures,
        ...found.levels
          .slice(0, 20)
          .map((value) => ({ label: 'Level', value: `${formatNumber(value, 3)} ${short}`, quantity: 'text' as const })),
      ],
      store: moved.store,
    };
  };
}

export const operation = serverOperation(layFlat, work);
