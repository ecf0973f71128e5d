import { NOISE_CLASSES } from '@pampero/core/cloud';
import type { OperationDescription } from '@pampero/contract';
import {
  addDistanceSums,
  marginOf,
  outlierThreshold,
  type CleaningFilter,
  type DistanceSums,
} from '@pampero/core/cleaning';
import { PamperoError } from '@pampero/core/task';
import type { RunWork } from '../../runs/run-service.js';
import { quantisationOf, readCloudFacts } from '../../store/cloud-repository.js';
import { listStoredNodes } from '../../store/node-repository.js';
import { replaceMarks } from '../../store/kept-marks.js';
import { classNames, readJobClasses } from '../../store/pin-repository.js';
import type { CleanTask, FoundPoints } from '../../tasks/cleaning-tasks.js';
import type { TaskPool } from '../../tasks/task-pool.js';
import { formatCount, formatCounted, formatNumber } from '@pampero/core/wording';
import { overTiles, type CloudPass } from '../../passes/cloud-pass.js';
import { eachCloud } from '../../passes/each-cloud.js';
import { byNode, changeMarks, handOver } from '../../passes/node-groups.js';
import { serverOperation, type ServerOperation } from '../server-operation.js';
import type { Marks } from '../../store/mark-difference.js';
import { boxOf } from '../../passes/select-points.js';
import { spatialTiles } from '../../passes/spatial-tiles.js';

/** Large tiles have little margin for their size; a thread holds about a hundred bytes a point of one. */
const TILE_POINTS = 1_200_000;
/** Fewer points than this are no harm, whatever their share of a small cloud. */
const LEAST_TO_STOP = 1000;

/** Finds points that are not real, tile by tile with margins, and gives them a class. */
function cleanCloud(
  pool: TaskPool,
  cloudId: number,
  filter: CleaningFilter,
  toClass: number,
  mostShare: number,
): RunWork {
  return async ({ job, signal, historyId, report }) => {
    const facts = await readCloudFacts(job.read, cloudId);
    const nameOf = classNames(await readJobClasses(job.read));
    const quantisation = quantisationOf(facts);
    // What is noise already takes no part: it would keep each other company.
    const takes = new Uint8Array(256).fill(1);
    for (const code of [...NOISE_CLASSES, toClass]) takes[code] = 0;
    const needsConfidence = filter.kind === 'unreliable';
    if (needsConfidence && !facts.confidence)
      throw new PamperoError('no-confidence', {
        what: `The cloud ${facts.name} has no confidence values.`,
        fix: 'Import it from a format with a confidence or quality for each point: PLY, text, or LAS with extra bytes.',
      });
    const margin = marginOf(filter);
    const nodes = await listStoredNodes(job.read, cloudId);
    const tiles = spatialTiles(nodes, (node) => boxOf(node, facts), margin, TILE_POINTS);
    const pass: CloudPass = { pool, job, signal };
    const passOptions = {
      attributes: needsConfidence,
      onShare: (share: number) => report(0.95 * share, 'Looking at points'),
    };
    const confidence = needsConfidence && {
      confidence: { dimension: facts.confidence!, columns: facts.columns, attributeNames: facts.attributeNames },
    };
    const over: OverTiles = (look) =>
      overTiles(pass, tiles, passOptions, (columns, tile) =>
        look({ nodes: columns, quantisation, tile, margin, filter, takes, ...confidence }),
      );
    const { found, judged } = await search(pool, filter, signal, over);
    const count = found.reduce((sum, { indices }) => sum + indices.length, 0);
    // Noise is rare; a search that finds more took branches, walls or a sparse edge for it.
    if (count > Math.max(LEAST_TO_STOP, mostShare * judged))
      throw new PamperoError('too-much-noise', {
        what: `${facts.name}: ${formatCounted(count, 'point')} of ${formatCount(judged)}, ${formatNumber((100 * count) / judged, 1)} %, would become ${toClass} ${nameOf(toClass)}. Nothing was changed.`,
        fix: 'Look at them in the preview. Search more narrowly, or raise Stop above where so many are right.',
      });
    const before = new Float64Array(256);
    const lists = byNode(found);
    const change = (nodeId: number, { classification }: Marks): void => {
      for (const { indices } of lists.get(nodeId) ?? [])
        for (const i of indices) {
          before[classification[i]!]!++;
          classification[i] = toClass;
        }
    };
    const changes = await changeMarks(pool, job.read, [...lists.keys()], change, signal);
    const total = before.reduce((sum, n) => sum + n, 0);
    report(0.97, 'Storing classes');
    return {
      outcome: total === 0 ? 'Nothing found.' : `${formatCounted(total, 'point')} to ${toClass} ${nameOf(toClass)}`,
      figures: [
        { label: 'Found', value: total, quantity: 'count' },
        { label: 'Looked at', value: judged, quantity: 'count' },
        ...[...before.entries()]
          .filter(([, n]) => n > 0)
          .map(([code, n]) => ({ label: `From ${code} ${nameOf(code)}`, value: n, quantity: 'count' as const })),
      ],
      store: async (models) => ({
        effects: changes.length === 0 ? [] : [await replaceMarks(models, historyId, cloudId, changes)],
      }),
    };
  };
}

/** Runs a task over every tile. */
type OverTiles = <R>(work: (task: CleanTask) => Promise<R>) => Promise<R[]>;

async function search(
  pool: TaskPool,
  filter: CleaningFilter,
  signal: AbortSignal,
  over: OverTiles,
): Promise<{ found: FoundPoints[]; judged: number }> {
  if (filter.kind !== 'outliers') {
    const results = await over((task) => pool.run('cleanTile', task, signal, handOver(task.nodes)));
    return {
      found: results.flatMap(({ found }) => found),
      judged: results.reduce((sum, { judged }) => sum + judged, 0),
    };
  }
  // What is usual is known only when all have been looked at: four bytes a point are kept till then.
  const results = await over((task) =>
    pool.run('neighbourDistances', { ...task, filter }, signal, handOver(task.nodes)),
  );
  const sums = results.reduce<DistanceSums>((sum, part) => addDistanceSums(sum, part.sums), {
    count: 0,
    sum: 0,
    squares: 0,
  });
  const threshold = outlierThreshold(sums, filter.deviations);
  const found = results.flatMap(({ distances, own }) => {
    let k = 0;
    return own.flatMap(({ nodeId, indices }) => {
      const out = indices.filter(() => distances[k++]! > threshold);
      return out.length > 0 ? [{ nodeId, indices: out }] : [];
    });
  });
  return { found, judged: sums.count };
}

type SearchParameters<K extends CleaningFilter['kind']> = Omit<Extract<CleaningFilter, { kind: K }>, 'kind'> & {
  readonly clouds: readonly number[];
  readonly toClass: number;
  /** Per cent of the points. */
  readonly stopAbove: number;
};

/** A search of Clean as an operation: its parameters are those of the filter, the clouds and the class. */
export function cleaningOperation<K extends CleaningFilter['kind'], D extends OperationDescription>(
  description: D,
  kind: K,
  propose?: ServerOperation['propose'],
): ServerOperation {
  const operation = serverOperation(description, (given, { pool }) => {
    const { clouds, toClass, stopAbove, ...options } = given as unknown as SearchParameters<K>;
    const filter = { kind, ...options } as unknown as CleaningFilter;
    return eachCloud(clouds, (cloudId) => cleanCloud(pool, cloudId, filter, toClass, stopAbove / 100));
  });
  return propose ? { ...operation, propose } : operation;
}
