import { asSelection, copyToCloud } from '@pampero/contract';
import { gatherPoints, type PointBatch } from '@pampero/core/cloud';
import type { Selection } from '@pampero/core/selection';
import { checkCancelled, PamperoError } from '@pampero/core/task';
import { formatCount } from '@pampero/core/wording';
import { selectionBits } from '../../passes/select-points.js';
import { lasOptions } from '../../passes/las-options.js';
import type { RunWork } from '../../runs/run-service.js';
import { readCloudFacts } from '../../store/cloud-repository.js';
import { listStoredNodes, readNodePoints } from '../../store/node-repository.js';
import { serverOperation } from '../server-operation.js';
import { selectionTold } from './describe-selection.js';
import { writtenCloud, type CloudSurroundings } from './written-cloud.js';

/** Writes the selected points aside as LAS, with every attribute, and takes them in as a cloud. */
export function copyToCloudWork(selection: Selection, name: string, surroundings: CloudSurroundings): RunWork {
  return async (context) => {
    const { job: file, signal, report } = context;
    report(0.02, 'Finding the points');
    const chosen = await selectionBits(surroundings.pool, file, selection, signal);
    const total = chosen.reduce((sum, { count }) => sum + count, 0);
    if (total === 0)
      throw new PamperoError('nothing-selected', {
        what: 'The selection holds no points.',
        fix: 'Select the points to copy first.',
      });
    const cloudIds = [...new Set(chosen.map(({ cloudId }) => cloudId))];
    if (cloudIds.length > 1)
      throw new PamperoError('several-clouds', {
        what: `The selection spans ${cloudIds.length} clouds, whose attributes may differ.`,
        fix: 'Hide all but one of them in the layers, then select again.',
      });
    const facts = await readCloudFacts(file.read, cloudIds[0]!);
    const bitsOf = new Map(chosen.map(({ nodeId, bits }) => [nodeId, bits]));
    const nodes = (await listStoredNodes(file.read, cloudIds[0]!)).filter(({ id }) => bitsOf.has(id));
    async function* batches(): AsyncGenerator<PointBatch> {
      for (const [k, node] of nodes.entries()) {
        checkCancelled(signal);
        const points = await readNodePoints(file.read, node, facts);
        const bits = bitsOf.get(node.id)!;
        const order = new Uint32Array(points.count);
        let count = 0;
        for (let i = 0; i < points.count; i++) if ((bits[i >> 3]! >> (i & 7)) & 1) order[count++] = i;
        report(0.05 + (0.2 * k) / nodes.length, 'Copying');
        yield gatherPoints(points, order.subarray(0, count));
      }
    }
    const copied = await writtenCloud(
      name,
      batches(),
      lasOptions(surroundings.job, facts, { version: '1.4', format: 'las' }),
      surroundings,
      { ...context, report: (share, step) => report(0.25 + 0.75 * share, step) },
    );
    return { ...copied, outcome: `${formatCount(total)} points of ${facts.name} copied to ${name}` };
  };
}

export const operation = serverOperation(
  copyToCloud,
  ({ selection, name }, surroundings) => copyToCloudWork(asSelection(selection), name, surroundings),
  selectionTold,
);
