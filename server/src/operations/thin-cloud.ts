import { thinCloud, type Figure, type Job, type ThinCloudParameters } from '@pampero/contract';
import { classMask, PointFlag } from '@pampero/core/cloud';
import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import type { NodeBits } from '@pampero/core/selection';
import { checkCancelled, PamperoError } from '@pampero/core/task';
import type { GridFrame } from '@pampero/core/terrain';
import {
  lotOf,
  mergeDifferences,
  newDifferenceSums,
  summarise,
  THINNING_METHODS,
  thinningMargin,
  type PointsToThin,
  type SurfaceDifference,
  type ThinningMethod,
  type ThinningOptions,
} from '@pampero/core/thinning';
import type { JobLibrary } from '../jobs/job-library.js';
import type { Models } from '../jobs/models.js';
import type { MemoryPlan } from '../memory-plan.js';
import type { RunContext, RunWork } from '../runs/run-service.js';
import type { CloudFacts } from '../store/cloud-facts.js';
import {
  listStoredNodes,
  quantisationOf,
  readCloudFacts,
  readNodes,
  type StoredNode,
} from '../store/cloud-repository.js';
import type { Marks } from '../store/mark-difference.js';
import { replaceMarks, type Effect } from '../store/history-repository.js';
import { storeProduct } from '../store/product-repository.js';
import type { FoundPoints } from '../tasks/cleaning-tasks.js';
import { sharedDoubles, sharedIntegers } from '../shared-memory.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { packGrid } from '../tasks/grid-tasks.js';
import { isFurther, type MapPart } from '../tasks/thinning-tasks.js';
import { positionsOf } from '../tasks/node-columns.js';
import { copyToCloudWork } from './copy-to-cloud.js';
import { formatCount } from './format-figures.js';
import { byNode, changeMarks, groupNodes, handOver, mapWide, readNodeColumns } from './node-groups.js';
import { boxOf } from './select-points.js';
import { spatialTiles } from './spatial-tiles.js';

const TILE_POINTS = 1_200_000;

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
    const takes = classMask(classes);
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
    const frame = parameters.differenceMap ? mapFrame(facts, before) : undefined;
    const { difference, map } = after >= 3 ? await compare(site, keptOf, frame) : {};
    const packed = frame && map && packGrid(map, frame);
    const storeMap = async (models: Models): Promise<{ effects: readonly Effect[]; productId?: number }> =>
      packed && packed.facts.filled > 0
        ? storeProduct(models, {
            kind: 'grid',
            name: `${facts.name}: thinned less given`,
            inputId: 0,
            inputRevision: 0,
            operation: thinCloud.id,
            parameters,
            facts: { ...packed.facts, isCount: false, isDifference: true },
            blobs: { grid: packed.grid },
          })
        : { effects: [] };
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
      return {
        ...copied,
        store: async (models) => {
          const stored = await copied.store(models);
          return { ...stored, effects: [...stored.effects, ...(await storeMap(models)).effects] };
        },
        outcome: `${formatCount(after)} of ${formatCount(before)} points into ${name}`,
        figures,
      };
    }
    report(0.93, 'Storing flags');
    const change = (nodeId: number, { classification, flags }: Marks): void => {
      const stays = new Uint8Array(flags.length);
      for (const indices of keptOf.get(nodeId) ?? []) for (const i of indices) stays[i] = 1;
      for (let i = 0; i < flags.length; i++) {
        if (takes[classification[i]!] === 0 || (flags[i]! & PointFlag.withheld) !== 0) continue;
        if (outcome === 'withhold') {
          if (stays[i] === 0) flags[i]! |= PointFlag.withheld;
        } else if (stays[i] === 1) flags[i]! |= PointFlag.keyPoint;
        else flags[i]! &= ~PointFlag.keyPoint;
      }
    };
    const ids = nodes.map(({ id }) => id);
    const changes = await changeMarks(pool, job.read, ids, change, signal);
    return {
      outcome: `${formatCount(after)} of ${formatCount(before)} points stay${outcome === 'withhold' ? '; the others are withheld' : ', flagged as key points'}`,
      figures,
      store: async (models) => {
        const { effects, productId } = await storeMap(models);
        const marked = changes.length === 0 ? [] : [await replaceMarks(models, historyId, cloudId, changes)];
        return { effects: [...marked, ...effects], ...(productId !== undefined && { productId }) };
      },
    };
  };
}

/** How many points take part. */
async function countTaken({ context: { job }, nodes, takes }: Site): Promise<number> {
  let count = 0;
  for (const group of groupNodes(nodes)) {
    const ids = group.map(({ id }) => id);
    for (const marks of await readNodes(job.read, ids)) count += takenOf(marks, takes).length;
  }
  return count;
}

/** Of a node the points that take part. */
function takenOf({ classification, flags }: Marks, takes: Uint8Array): Uint32Array {
  const out = new Uint32Array(flags.length);
  let count = 0;
  for (let i = 0; i < flags.length; i++)
    if (takes[classification[i]!] === 1 && (flags[i]! & PointFlag.withheld) === 0) out[count++] = i;
  return out.subarray(0, count);
}

async function choose(
  site: Site,
  parameters: ThinCloudParameters,
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
    report((0.65 * ++done) / tiles.length, 'Choosing points');
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
    report((0.65 * ++done) / groups.length, 'Choosing points');
    return found;
  });
  return parts.flat();
}

/** Beyond so many points integers are kept in the place of doubles: half the memory, but a fifth slower. */
const MOST_DOUBLES = 15_000_000;

/** Key points are chosen over the whole cloud at once, in whole steps of its scale. */
async function chooseKeyPoints(
  { pool, context: { job, signal, report }, facts, nodes, takes }: Site,
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

/** The thinned surface against all the points, tile by tile; and a map of it where one is wanted. */
async function compare(
  { pool, context: { job, signal, report }, facts, nodes, takes }: Site,
  keptOf: ReadonlyMap<number, readonly Uint32Array[]>,
  frame: GridFrame | undefined,
): Promise<{ difference: SurfaceDifference; map?: Float32Array<ArrayBuffer> }> {
  const quantisation = quantisationOf(facts);
  const listOf = ({ id }: StoredNode): FoundPoints[] =>
    (keptOf.get(id) ?? []).map((indices) => ({ nodeId: id, indices }));
  const holding = groupNodes(nodes.filter(({ id }) => keptOf.has(id)));
  const parts = await mapWide(holding, pool.threads + 1, async (group) => {
    checkCancelled(signal);
    const read = await readNodeColumns(job.read, group, { attributes: false });
    const chosen = group.flatMap(listOf);
    const columns = new Map(read.map((node) => [node.nodeId, node]));
    const task = { nodes: chosen.map(({ nodeId }) => columns.get(nodeId)!), chosen, quantisation };
    return pool.run('placesOf', task, signal);
  });
  const tiles = spatialTiles(nodes, (node) => boxOf(node, facts), 0, TILE_POINTS);
  const bounds = tiles.map(({ west, south, east, north }) => ({ west, south, east, north }));
  const layTask = { parts, offset: quantisation.offset, tiles: bounds };
  const surface = await pool.run('layThinned', layTask, signal, parts.flatMap(({ x, y, z }) => [x.buffer, y.buffer, z.buffer])); // prettier-ignore
  const sums = newDifferenceSums();
  const map = frame && new Float32Array(frame.columns * frame.rows).fill(NaN);
  let done = 0;
  await mapWide(tiles, pool.threads + 1, async ({ nodes: own, ...tile }, tileAt) => {
    checkCancelled(signal);
    const read = await readNodeColumns(job.read, own, { attributes: false });
    const task = { nodes: read, quantisation, tile, takes, surface, tileAt, kept: own.flatMap(listOf), frame };
    const part = await pool.run('thinnedDifference', task, signal, handOver(read));
    mergeDifferences(sums, part.sums);
    if (map && frame && part.map) layPart(map, frame, part.map);
    report(0.7 + (0.2 * ++done) / tiles.length, 'Comparing surfaces');
  });
  return { difference: summarise(sums), ...(map && { map }) };
}

function layPart(map: Float32Array, frame: GridFrame, part: MapPart): void {
  for (let row = 0, k = 0; row < part.rows; row++)
    for (let column = 0; column < part.columns; column++, k++) {
      const at = (part.row + row) * frame.columns + part.column + column;
      if (!Number.isNaN(part.values[k]!) && isFurther(part.values[k]!, map[at]!)) map[at] = part.values[k]!;
    }
}

/** Cells along the longer side of a map at most. */
const MAP_CELLS = 1500;

/** Cells wide enough for a few points each, on whole multiples of their side. */
function mapFrame({ bounds: { min, max } }: CloudFacts, before: number): GridFrame {
  const extent = Math.max(1e-6, (max[0] - min[0]) * (max[1] - min[1]));
  const wide = Math.max(3 * Math.sqrt(extent / before), Math.max(max[0] - min[0], max[1] - min[1]) / MAP_CELLS, 1e-3);
  const cell = Number(wide.toPrecision(2));
  const [column, row] = [Math.floor(min[0] / cell), Math.floor(min[1] / cell)];
  return {
    east: column * cell,
    north: row * cell,
    cell,
    columns: Math.floor(max[0] / cell) - column + 1,
    rows: Math.floor(max[1] / cell) - row + 1,
  };
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
