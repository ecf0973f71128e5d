import type { Figure, Job, ThinCloudParameters } from '@pampero/contract';
import { PointFlag } from '@pampero/core/cloud';
import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import type { NodeBits } from '@pampero/core/selection';
import { checkCancelled, PamperoError } from '@pampero/core/task';
import {
  lotOf,
  THINNING_METHODS,
  thinningMargin,
  type SurfaceDifference,
  type ThinningMethod,
  type ThinningOptions,
} from '@pampero/core/thinning';
import type { JobLibrary } from '../jobs/job-library.js';
import type { MemoryPlan } from '../memory-plan.js';
import type { RunContext, RunWork } from '../runs/run-service.js';
import type { CloudFacts } from '../store/cloud-facts.js';
import {
  listStoredNodes,
  quantisationOf,
  readCloudFacts,
  readNodeClass,
  type StoredNode,
} from '../store/cloud-repository.js';
import { replaceMarks } from '../store/history-repository.js';
import type { FoundPoints } from '../tasks/cleaning-tasks.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { positionsOf } from '../tasks/tile-tasks.js';
import { copyToCloudWork } from './copy-to-cloud.js';
import { formatCount } from './format-figures.js';
import { byNode, groupNodes, handOver, mapWide, readNodeColumns } from './node-groups.js';
import { boxOf } from './select-points.js';
import { spatialTiles } from './spatial-tiles.js';

const TILE_POINTS = 1_200_000;
/** Beyond so many points a surface over all of them is not laid to be held against the thinned one. */
const MOST_COMPARED = 12_000_000;

interface Site {
  readonly pool: TaskPool;
  readonly context: RunContext;
  readonly facts: CloudFacts & { readonly name: string };
  readonly nodes: readonly StoredNode[];
  readonly takes: Uint8Array;
}

/** Says which points of the chosen classes stay, by a flag or in a cloud of their own; nothing is removed. */
export function thinCloudWork(
  pool: TaskPool,
  parameters: ThinCloudParameters,
  unit: LengthUnit,
  options: { job: Job; memory: MemoryPlan; library: JobLibrary },
): RunWork {
  return async (context) => {
    const { job, historyId, report, signal } = context;
    const { cloudId, classes, outcome } = parameters;
    const facts = await readCloudFacts(job.read, cloudId);
    const takes = new Uint8Array(256);
    for (const code of classes) takes[code] = 1;
    const nodes = await listStoredNodes(job.read, cloudId);
    const site: Site = { pool, context, facts, nodes, takes };
    const before = await countTaken(site);
    if (before === 0)
      throw new PamperoError('nothing-selected', {
        what: 'The cloud has no points of the chosen classes that are not withheld.',
        mend: 'Choose other classes, or restore what is withheld.',
      });
    const { kept, unheld } = await choose(site, parameters, before);
    const after = kept.reduce((sum, { indices }) => sum + indices.length, 0);
    const keptOf = new Map([...byNode(kept)].map(([id, lists]) => [id, lists.map(({ indices }) => indices)]));
    report(0.8, 'Comparing surfaces');
    const difference = before <= MOST_COMPARED && after >= 3 ? await compare(site, keptOf) : undefined;
    const figures = figuresOf(facts, unit, before, after, difference, unheld);
    if (outcome === 'new-cloud') {
      const name = `${facts.name}, thinned`;
      const bits = nodes.flatMap(({ id, count }): NodeBits[] => {
        const lists = keptOf.get(id);
        if (!lists) return [];
        const mask = new Uint8Array(Math.ceil(count / 8));
        for (const indices of lists) for (const i of indices) mask[i >> 3]! |= 1 << (i & 7);
        return [{ nodeId: id, bits: mask }];
      });
      const visible = { hiddenClasses: [], withWithheld: false, clouds: [cloudId] };
      const selection = [{ how: 'add' as const, shape: { kind: 'points' as const, nodes: bits }, visible }];
      const copied = await copyToCloudWork(
        pool,
        selection,
        name,
        options,
      )({
        ...context,
        report: (share, step) => report(0.85 + 0.15 * share, step),
      });
      return { ...copied, outcome: `${formatCount(after)} of ${formatCount(before)} points into ${name}`, figures };
    }
    report(0.93, 'Storing flags');
    const changes: { nodeId: number; flags: Uint8Array }[] = [];
    for (const { id } of nodes) {
      checkCancelled(signal);
      const marks = await readNodeClass(job.read, id);
      const stays = new Uint8Array(marks.flags.length);
      for (const indices of keptOf.get(id) ?? []) for (const i of indices) stays[i] = 1;
      const flags = Uint8Array.from(marks.flags);
      for (let i = 0; i < flags.length; i++) {
        if (takes[marks.classification[i]!] === 0 || (flags[i]! & PointFlag.withheld) !== 0) continue;
        if (outcome === 'withhold') {
          if (stays[i] === 0) flags[i]! |= PointFlag.withheld;
        } else if (stays[i] === 1) flags[i]! |= PointFlag.keyPoint;
        else flags[i]! &= ~PointFlag.keyPoint;
      }
      if (flags.some((value, i) => value !== marks.flags[i])) changes.push({ nodeId: id, flags });
    }
    return {
      outcome: `${formatCount(after)} of ${formatCount(before)} points stay${outcome === 'withhold' ? '; the others are withheld' : ', flagged as key points'}`,
      figures,
      store: async (models) => ({
        effects: changes.length === 0 ? [] : [await replaceMarks(models, historyId, cloudId, changes)],
      }),
    };
  };
}

async function countTaken({ context: { job }, nodes, takes }: Site): Promise<number> {
  let count = 0;
  for (const { id } of nodes) {
    const { classification, flags } = await readNodeClass(job.read, id);
    for (let i = 0; i < flags.length; i++)
      if (takes[classification[i]!] === 1 && (flags[i]! & PointFlag.withheld) === 0) count++;
  }
  return count;
}

async function choose(
  site: Site,
  parameters: ThinCloudParameters,
  before: number,
): Promise<{ kept: FoundPoints[]; unheld: number }> {
  const { method } = parameters;
  if (method === 'key-points') return chooseKeyPoints(site, parameters.tolerance);
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
  { pool, context: { job, signal, report }, facts, nodes, takes }: Site,
  options: ThinningOptions,
): Promise<FoundPoints[]> {
  const margin = thinningMargin(options);
  const quantisation = quantisationOf(facts);
  const tiles = spatialTiles(nodes, (node) => boxOf(node, facts), margin, TILE_POINTS);
  let done = 0;
  const parts = await mapWide(tiles, pool.threads + 1, async ({ nodes: own, ...tile }) => {
    checkCancelled(signal);
    const columns = await readNodeColumns(job.read, own, { attributes: false });
    const task = { nodes: columns, quantisation, tile, margin, takes, options };
    const result = await pool.run('thinTile', task, signal, handOver(columns));
    report((0.8 * ++done) / tiles.length, 'Choosing points');
    return result;
  });
  return parts.flatMap(({ kept }) => kept);
}

/** Those with the best lots: drawn by share, a little more than wanted, and cut to the number. */
async function chooseNumber(site: Site, count: number, before: number): Promise<FoundPoints[]> {
  if (count >= before) return chooseByTiles(site, { method: 'random', distance: 1, share: 1 });
  const share = Math.min(1, (count + 8 * Math.sqrt(count) + 8) / before);
  const drawn = await chooseByTiles(site, { method: 'random', distance: 1, share });
  const rowOf = new Map(site.nodes.map((node) => [node.id, node]));
  const lots: { lot: number; nodeId: number; index: number }[] = [];
  for (const { nodeId, indices } of drawn) {
    const [node] = await readNodeColumns(site.context.job.read, [rowOf.get(nodeId)!], { attributes: false });
    const { x, y, z } = positionsOf(node!);
    for (const index of indices) lots.push({ lot: lotOf(x[index]!, y[index]!, z[index]!), nodeId, index });
  }
  lots.sort((a, b) => a.lot - b.lot || a.nodeId - b.nodeId || a.index - b.index);
  const chosen = byNode(lots.slice(0, count));
  return [...chosen].map(([nodeId, list]) => ({ nodeId, indices: Uint32Array.from(list, ({ index }) => index) }));
}

async function chooseByIntensity(
  { pool, context: { job, signal, report }, facts, nodes, takes }: Site,
  { intensityFrom: from, intensityTo: to }: ThinCloudParameters,
): Promise<FoundPoints[]> {
  const groups = groupNodes(nodes);
  const { columns, attributeNames } = facts;
  let done = 0;
  const parts = await mapWide(groups, pool.threads + 1, async (group) => {
    checkCancelled(signal);
    const read = await readNodeColumns(job.read, group, { attributes: true });
    const task = { nodes: read, columns, attributeNames, takes, from, to };
    const found = await pool.run('intensityBetween', task, signal, handOver(read));
    report((0.8 * ++done) / groups.length, 'Choosing points');
    return found;
  });
  return parts.flat();
}

async function gather({ pool, context: { job, signal }, facts, nodes, takes }: Site) {
  const columns = await readNodeColumns(job.read, nodes, { attributes: false });
  const task = { nodes: columns, quantisation: quantisationOf(facts), takes };
  return pool.run('surfacePoints', task, signal, handOver(columns));
}

async function chooseKeyPoints(site: Site, tolerance: number): Promise<{ kept: FoundPoints[]; unheld: number }> {
  const { pool, context } = site;
  context.report(0.05, 'Reading points');
  const { points, own } = await gather(site);
  const { isKept, unheld } = await pool.runWatched(
    'keyPointsOf',
    { points, tolerance },
    context.signal,
    (share) => context.report(0.1 + 0.7 * (share as number), 'Choosing key points'),
    [points.x.buffer, points.y.buffer, points.z.buffer] as ArrayBuffer[],
  );
  let at = 0;
  const kept = own.map(({ nodeId, indices }) => ({ nodeId, indices: indices.filter(() => isKept[at++] === 1) }));
  return { kept, unheld };
}

/** The thinned surface against all the points. */
async function compare(site: Site, keptOf: ReadonlyMap<number, readonly Uint32Array[]>): Promise<SurfaceDifference> {
  const { points, own } = await gather(site);
  const isKept = new Uint8Array(points.x.length);
  let at = 0;
  for (const { nodeId, indices } of own) {
    // Kept ones are some of the node's own, in their order or tile by tile.
    const stays = new Uint8Array((indices.at(-1) ?? -1) + 1);
    for (const list of keptOf.get(nodeId) ?? []) for (const i of list) stays[i] = 1;
    for (const i of indices) isKept[at++] = stays[i]!;
  }
  return site.pool.run('thinnedDifference', { points, isKept }, site.context.signal, [
    points.x.buffer,
    points.y.buffer,
    points.z.buffer,
  ]);
}

function figuresOf(
  { bounds: { min, max } }: CloudFacts,
  unit: LengthUnit,
  before: number,
  after: number,
  difference: SurfaceDifference | undefined,
  unheld: number,
): Figure[] {
  const extent = (max[0] - min[0]) * (max[1] - min[1]);
  const { short } = lengthUnits[unit];
  const density = (count: number): string => (count / extent).toPrecision(3);
  const length = (value: number): string => `${value.toFixed(3)} ${short}`;
  return [
    { label: 'Before', value: before, quantity: 'count' },
    { label: 'Stay', value: after, quantity: 'count' },
    { label: 'Share', value: after / before, quantity: 'share' },
    { label: 'Spacing before', value: Math.sqrt(extent / before), quantity: 'length' },
    { label: 'Spacing now', value: Math.sqrt(extent / Math.max(1, after)), quantity: 'length' },
    { label: `Points per ${short}² before, now`, value: `${density(before)}, ${density(after)}`, quantity: 'text' },
    ...(difference
      ? ([
          { label: 'Surface now less points before, mean', value: length(difference.mean), quantity: 'text' },
          { label: 'RMSEz', value: length(difference.rmse), quantity: 'text' },
          { label: '95 % within', value: length(difference.within95), quantity: 'text' },
          { label: 'Worst', value: length(difference.worst), quantity: 'text' },
          ...(difference.outside > 0
            ? [{ label: 'Points beyond the surface now', value: difference.outside, quantity: 'count' as const }]
            : []),
        ] satisfies Figure[])
      : []),
    ...(unheld > 0 ? [{ label: 'Points over others in one place', value: unheld, quantity: 'count' as const }] : []),
  ];
}
