import { useMask, type UseMaskParameters } from '@pampero/contract';
import { classMask, PointFlag } from '@pampero/core/cloud';
import { pictureFrameOf } from '@pampero/core/imagery';
import { PamperoError } from '@pampero/core/task';
import { formatCounted } from '@pampero/core/wording';
import { overGroups } from '../../passes/cloud-pass.js';
import { onEachCloud, type OnCloud } from '../../passes/each-cloud.js';
import { byNode, changeMarks, nodeGroups } from '../../passes/node-groups.js';
import { reliefOf } from '../../passes/relief.js';
import type { RunWork } from '../../runs/run-service.js';
import { quantisationOf, readCloudFacts } from '../../store/cloud-repository.js';
import { replaceMarks } from '../../store/kept-marks.js';
import { readMask } from '../../store/mask-cells.js';
import { classNames, readJobClasses } from '../../store/pin-repository.js';
import { readProduct } from '../../store/product-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

function workOn(parameters: OnCloud<UseMaskParameters>, { pool }: Surroundings): RunWork {
  return async ({ job, signal, historyId, report }) => {
    const { cloudId, change, toClass, classes, surface: surfaceId, height } = parameters;
    const pass = { pool, job, signal };
    const product = await readProduct(job.read, parameters.mask, 'mask');
    const facts = await readCloudFacts(job.read, cloudId);
    const task = {
      quantisation: quantisationOf(facts),
      frame: pictureFrameOf(product.facts),
      mask: await readMask(job.read, product),
      takes: classMask(classes),
      ...(change === 'class' && { toClass }),
      surface: surfaceId === undefined ? undefined : await reliefOf(pass, surfaceId, height),
    };
    const groups = await nodeGroups(job.read, cloudId);
    const found = await overGroups(
      pass,
      groups,
      { onShare: (share) => report(0.8 * share, 'Finding the points') },
      (nodes, _, transfer) => pool.run('pointsUnderMask', { nodes, ...task }, signal, transfer),
    );
    const lists = byNode(found.flat());
    const changes = await changeMarks(
      pool,
      job.read,
      [...lists.keys()],
      (nodeId, { classification, flags }) => {
        for (const { indices } of lists.get(nodeId)!)
          for (const i of indices) {
            if (change === 'class') classification[i] = toClass;
            else flags[i]! |= PointFlag.withheld;
          }
      },
      signal,
    );
    const count = found.flat().reduce((sum, { indices }) => sum + indices.length, 0);
    if (count === 0)
      throw new PamperoError('nothing-under-mask', {
        what: `No point of ${facts.name} on ${product.name} is of the classes chosen.`,
        fix: 'Choose other classes, or another mask.',
      });
    const nameOf = classNames(await readJobClasses(job.read));
    const points = formatCounted(count, 'point');
    return {
      outcome: `${points} on ${product.name} ${change === 'class' ? `to ${toClass} ${nameOf(toClass)}` : 'withheld'}`,
      figures: [{ label: 'Points', value: count, quantity: 'count' }],
      store: async (models) => ({ effects: [await replaceMarks(models, historyId, cloudId, changes)] }),
    };
  };
}

export const operation = serverOperation(useMask, (parameters, surroundings) =>
  onEachCloud(parameters, (own) => workOn(own, surroundings)),
);
