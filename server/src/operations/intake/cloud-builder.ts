import { type ColourDepth } from '@pampero/core/imagery';
import { rm } from 'node:fs/promises';
import {
  buildSquares,
  mergeStatistics,
  newCloudStatistics,
  SQUARE_COUNT,
  type CloudStatistics,
  type OctreeCube,
} from '@pampero/core/cloud';
import { checkCancelled } from '@pampero/core/task';
import type { MemoryPlan } from '../../memory-plan.js';
import type { JobFile } from '../../store/job-file.js';
import { reserveNodeIds, type NewNode } from '../../store/node-repository.js';
import { packNode, type RecordLayout, type SharedPart } from '../../tasks/import/build-square.js';
import type { TaskPool } from '../../tasks/task-pool.js';
import { NodeWriter } from './node-writer.js';
import { sortRecords, type RecordSource, type SortedCloud, type SortedExtent } from './sort-records.js';
import { mapWide } from '../../passes/node-groups.js';

export interface BuiltCloud {
  readonly cube: OctreeCube;
  /** Points of each square of level 7, in Z-order. */
  readonly squareCounts: Float64Array;
  readonly statistics: CloudStatistics;
  /** Some compressed chunk mixes scanner channels, so that its colours are in doubt. */
  readonly mixesChannels: boolean;
  readonly colourDepth: ColourDepth;
  readonly min: readonly [number, number, number];
  readonly max: readonly [number, number, number];
}

const MOST_NODE_POINTS = 65_535;

/**
 * Builds a cloud out of core: blocks of records are sorted by square into a spill file, then square by square becomes
 * nodes. Memory is bounded by the size of a block and a square a thread, whatever the size of the cloud.
 */
export async function buildCloud(
  {
    job,
    pool,
    cloudId,
    source,
    spillPath,
    memory,
    onSorted,
  }: {
    job: JobFile;
    pool: TaskPool;
    cloudId: number;
    source: RecordSource;
    spillPath: string;
    memory: MemoryPlan;
    /** Told where the sorted records lie before the first of them is stored. */
    onSorted?: (sorted: SortedExtent) => Promise<void>;
  },
  signal: AbortSignal,
  report: (share: number, step: string) => void,
): Promise<BuiltCloud> {
  try {
    const sorted = await sortRecords(source, pool, { spillPath, lanes: memory.lanes }, signal, report);
    await onSorted?.(sorted);
    return await buildAll({ job, pool, cloudId, source, memory }, sorted, signal, report);
  } finally {
    await rm(spillPath, { force: true });
    await rm(`${spillPath}.again`, { force: true });
  }
}

async function buildAll(
  {
    job,
    pool,
    cloudId,
    source,
    memory,
  }: { job: JobFile; pool: TaskPool; cloudId: number; source: RecordSource; memory: MemoryPlan },
  sorted: SortedCloud,
  signal: AbortSignal,
  report: (share: number, step: string) => void,
): Promise<BuiltCloud> {
  const { recordLength } = source;
  const totals = new Float64Array(SQUARE_COUNT);
  for (const { counts } of sorted.blocks) for (let s = 0; s < SQUARE_COUNT; s++) totals[s]! += counts[s]!;
  const total = totals.reduce((sum, count) => sum + count, 0);
  const squares = buildSquares(totals, memory.squarePoints(recordLength));
  // Where each block's records of each square begin: running sums, one row a block.
  const starts = sorted.blocks.map(({ counts }) => {
    const sums = new Uint32Array(SQUARE_COUNT + 1);
    for (let s = 0; s < SQUARE_COUNT; s++) sums[s + 1] = sums[s]! + counts[s]!;
    return sums;
  });
  const layout: RecordLayout = {
    pointFormat: source.pointFormat,
    recordLength,
    cube: sorted.cube,
    attributeNames: source.attributeNames,
    colourDepth: sorted.colourDepth,
  };
  const statistics = newCloudStatistics();
  const shared = new Map<string, { index: number; part: SharedPart }[]>();
  const writer = new NodeWriter(job, cloudId);
  // A node has at least one point: ids by the points that come before are free, and no thread's pace decides them.
  const firstId = await job.write((models) => reserveNodeIds(models, 2 * total), { isPromised: false });
  const before = runningSums(squares.map(({ count }) => count));
  let done = 0;
  await mapWide(squares, memory.lanes, async (square, index) => {
    let nextId = firstId + before[index]!;
    checkCancelled(signal);
    const runs = starts.flatMap((sums, block) => {
      const from = sums[square.first]!;
      const length = (sums[square.end]! - from) * recordLength;
      return length > 0 ? [{ at: sorted.blockStarts[block]! + from * recordLength, length }] : [];
    });
    const result = await pool.runWatched(
      'buildSquare',
      { spillPath: sorted.path, runs, level: square.level, layout, lowZ: sorted.min[2], highZ: sorted.max[2] },
      signal,
      (node, port) => writer.write(nextId++, node as NewNode, () => port.postMessage('stored')),
    );
    mergeStatistics(statistics, result.statistics);
    for (const part of result.shared) {
      const key = `${part.level}/${part.cell.join('/')}`;
      shared.set(key, [...(shared.get(key) ?? []), { index, part }]);
    }
    done += square.count;
    report(0.4 + (0.58 * done) / total, 'Storing points');
  });
  // In a fixed order, so that the same file always gives the same job.
  let nextId = firstId + total;
  for (const key of [...shared.keys()].sort()) {
    const parts = shared.get(key)!.sort((a, b) => a.index - b.index);
    for (const node of joinParts(
      parts.map(({ part }) => part),
      layout,
    ))
      writer.write(nextId++, node, () => undefined);
  }
  await writer.finished();
  return {
    statistics,
    cube: sorted.cube,
    squareCounts: totals,
    min: sorted.min,
    max: sorted.max,
    mixesChannels: sorted.mixesChannels,
    colourDepth: sorted.colourDepth,
  };
}

/** Puts the squares' shares of a node together, in the squares' order; more than a node may hold become several of the same cell. */
function* joinParts(parts: readonly SharedPart[], layout: RecordLayout): Generator<NewNode> {
  const all = new Uint8Array(parts.reduce((sum, part) => sum + part.records.length, 0));
  let at = 0;
  for (const part of parts) {
    all.set(part.records, at);
    at += part.records.length;
  }
  const most = MOST_NODE_POINTS * layout.recordLength;
  for (let from = 0; from < all.length; from += most)
    yield packNode(all.slice(from, from + most), parts[0]!, parts[0]!.spacing, layout);
}

/** How much comes before each. */
function runningSums(counts: readonly number[]): number[] {
  let sum = 0;
  return counts.map((count) => (sum += count) - count);
}
