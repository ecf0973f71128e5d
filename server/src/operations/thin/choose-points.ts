import { columnFrom } from '@pampero/core/columns';
import type { ThinCloudParameters } from '@pampero/contract';
import { checkCancelled } from '@pampero/core/task';
import {
  priorityOf,
  THINNING_METHODS,
  thinningMargin,
  type PointsToThin,
  type ThinningMethod,
  type ThinningOptions,
} from '@pampero/core/thinning';
import { overGroups, overTiles } from '../../passes/cloud-pass.js';
import { byNode, groupNodes, readNodeColumns } from '../../passes/node-groups.js';
import { boxOf } from '../../passes/select-points.js';
import { spatialTiles } from '../../passes/spatial-tiles.js';
import { sharedDoubles, sharedIntegers } from '../../shared-memory.js';
import { quantisationOf } from '../../store/cloud-repository.js';
import { readNodes } from '../../store/node-repository.js';
import type { FoundPoints } from '../../tasks/cleaning-tasks.js';
import { positionsOf } from '../../tasks/node-columns.js';
import { takenOf, TILE_POINTS, type ThinningSite } from './thinning-site.js';

type ChoiceParameters = Omit<ThinCloudParameters, 'clouds'>;

/** How many points take part. */
export async function countTaken({ pass: { job }, nodes, takes }: ThinningSite): Promise<number> {
  let count = 0;
  for (const group of groupNodes(nodes)) {
    const ids = group.map(({ id }) => id);
    for (const marks of await readNodes(job.read, ids)) count += takenOf(marks, takes).length;
  }
  return count;
}

/** The points that stay, by the method asked for; and how many could not be held by a surface of key points. */
export async function choosePoints(
  site: ThinningSite,
  parameters: ChoiceParameters,
  before: number,
): Promise<{ kept: FoundPoints[]; unheld: number }> {
  const { method } = parameters;
  if (method === 'key-points') return chooseKeyPoints(site, parameters.tolerance, before);
  if (method === 'intensity') return { kept: await chooseByIntensity(site, parameters), unheld: 0 };
  if (method === 'count') return { kept: await chooseNumber(site, parameters.count, before), unheld: 0 };
  const isCell = method !== 'spacing' && method !== 'random';
  return {
    kept: await chooseByTiles(site, {
      method: THINNING_METHODS.find((known): known is ThinningMethod => known === method)!,
      distance: isCell ? parameters.cell : parameters.distance,
      share: parameters.sharePercent / 100,
    }),
    unheld: 0,
  };
}

async function chooseByTiles(
  { pass, report, facts, nodes, takes }: ThinningSite,
  options: ThinningOptions,
): Promise<FoundPoints[]> {
  const margin = thinningMargin(options);
  const quantisation = quantisationOf(facts);
  const tiles = spatialTiles(nodes, (node) => boxOf(node, facts), margin, TILE_POINTS);
  const onShare = (share: number): void => report(0.65 * share, 'Choosing points');
  const parts = await overTiles(pass, tiles, { onShare }, (columns, tile, transfer) =>
    pass.pool.run('thinTile', { nodes: columns, quantisation, tile, margin, takes, options }, pass.signal, transfer),
  );
  return parts.flatMap(({ kept }) => kept);
}

/** Those with the best priorities: drawn by share, a little more than wanted, and cut to the number. */
async function chooseNumber(site: ThinningSite, count: number, before: number): Promise<FoundPoints[]> {
  if (count >= before) return chooseByTiles(site, { method: 'random', distance: 1, share: 1 });
  const share = Math.min(1, (count + 8 * Math.sqrt(count) + 8) / before);
  const drawn = await chooseByTiles(site, { method: 'random', distance: 1, share });
  const rowOf = new Map(site.nodes.map((node) => [node.id, node]));
  const priorities: { priority: number; nodeId: number; index: number }[] = [];
  for (const { nodeId, indices } of drawn) {
    const [node] = await readNodeColumns(site.pass.job.read, [rowOf.get(nodeId)!], { attributes: false });
    const { x, y, z } = positionsOf(node!);
    for (const index of indices)
      priorities.push({ priority: priorityOf(x[index]!, y[index]!, z[index]!), nodeId, index });
  }
  priorities.sort((a, b) => a.priority - b.priority || a.nodeId - b.nodeId || a.index - b.index);
  const chosen = byNode(priorities.slice(0, count));
  return [...chosen].map(([nodeId, list]) => ({
    nodeId,
    indices: columnFrom(Uint32Array, list, ({ index }) => index),
  }));
}

async function chooseByIntensity(
  { pass, report, facts, nodes, takes }: ThinningSite,
  { intensityFrom: from, intensityTo: to }: ChoiceParameters,
): Promise<FoundPoints[]> {
  const groups = groupNodes(nodes);
  const { columns, attributeNames } = facts;
  const onShare = (share: number): void => report(0.65 * share, 'Choosing points');
  const parts = await overGroups(pass, groups, { attributes: true, onShare }, (read, _, transfer) =>
    pass.pool.run('intensityBetween', { nodes: read, columns, attributeNames, takes, from, to }, pass.signal, transfer),
  );
  return parts.flat();
}

/** Beyond so many points integers are kept in the place of doubles: half the memory, but a fifth slower. */
const MOST_DOUBLES = 15_000_000;

/** Key points are chosen over the whole cloud at once, in whole steps of its scale. */
async function chooseKeyPoints(
  { pass: { pool, job, signal }, report, facts, nodes, takes }: ThinningSite,
  tolerance: number,
  total: number,
): Promise<{ kept: FoundPoints[]; unheld: number }> {
  report(0.02, 'Reading points');
  const column = total > MOST_DOUBLES ? sharedIntegers : sharedDoubles;
  const points = { x: column(total), y: column(total), z: column(total) } as PointsToThin;
  let at = 0;
  for (const group of groupNodes(nodes)) {
    checkCancelled(signal);
    for (const node of await readNodeColumns(job.read, group, { attributes: false })) {
      const { x, y, z } = positionsOf(node);
      const taken = takenOf(node, takes);
      for (let k = 0; k < taken.length; k++, at++) {
        const i = taken[k]!;
        points.x[at] = x[i]!;
        points.y[at] = y[i]!;
        points.z[at] = z[i]!;
      }
    }
  }
  const { isKept, unheld } = await pool.runWatched(
    'keyPointsOf',
    { points, tolerance: tolerance / facts.quantisation.scale[2] },
    signal,
    (share) => report(0.1 + 0.55 * (share as number), 'Choosing key points'),
  );
  at = 0;
  const kept: FoundPoints[] = [];
  for (const group of groupNodes(nodes)) {
    const ids = group.map(({ id }) => id);
    for (const { nodeId, ...marks } of await readNodes(job.read, ids)) {
      const indices = takenOf(marks, takes).filter(() => isKept[at++] === 1);
      if (indices.length > 0) kept.push({ nodeId, indices });
    }
  }
  return { kept, unheld };
}
