import { colourDepth, type ColourDepth } from '@pampero/core/imagery';
import { open, rm, truncate } from 'node:fs/promises';
import {
  buildSquares,
  mergeStatistics,
  newCloudStatistics,
  octreeCube,
  SQUARE_COUNT,
  type Bounds,
  type CloudStatistics,
  type ColumnName,
  type OctreeCube,
  type Quantisation,
} from '@pampero/core/cloud';
import { checkCancelled } from '@pampero/core/task';
import type { MemoryPlan } from '../../memory-plan.js';
import type { JobFile } from '../../store/job-file.js';
import { insertNode, reserveNodeIds, type NewNode } from '../../store/node-repository.js';
import { packNode, type RecordLayout, type SharedPart } from '../../tasks/import/build-square.js';
import type { SortedBlock } from '../../tasks/import/record-blocks.js';
import type { TaskPool } from '../../tasks/task-pool.js';
import { mapWide } from '../../passes/node-groups.js';

/** Records on their way into a cloud, wherever they come from. */
export interface RecordSource {
  readonly pointFormat: number;
  readonly recordLength: number;
  readonly quantisation: Quantisation;
  readonly attributeNames: readonly ColumnName[];
  /** Bounds as scaled integers, if the source states any; they are not trusted. */
  readonly statedBounds: Bounds | undefined;
  /** Points of each block, in the order of the source. */
  readonly blockCounts: readonly number[];
  /** Reads one block, sorts it by square of `cube` and writes it to the spill file. */
  sortBlock(index: number, to: { cube: OctreeCube; spillPath: string; spillAt: number }): Promise<SortedBlock>;
}

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
    const sorted = await sortAll(source, pool, { spillPath, lanes: memory.lanes }, signal, report);
    await onSorted?.(sorted);
    return await buildAll({ job, pool, cloudId, source, memory }, sorted, signal, report);
  } finally {
    await rm(spillPath, { force: true });
    await rm(`${spillPath}.again`, { force: true });
  }
}

/** The extent of sorted records as scaled integers, and the file they lie in. */
export interface SortedExtent {
  readonly path: string;
  readonly min: readonly [number, number, number];
  readonly max: readonly [number, number, number];
}

interface SortedCloud extends SortedExtent {
  readonly cube: OctreeCube;
  readonly blocks: readonly SortedBlock[];
  readonly blockStarts: readonly number[];
  readonly mixesChannels: boolean;
  readonly colourDepth: ColourDepth;
}

async function sortAll(
  source: RecordSource,
  pool: TaskPool,
  { spillPath, lanes }: { spillPath: string; lanes: number },
  signal: AbortSignal,
  report: (share: number, step: string) => void,
): Promise<SortedCloud> {
  const { blockCounts, recordLength, quantisation } = source;
  const total = blockCounts.reduce((sum, count) => sum + count, 0);
  const blockStarts: number[] = [];
  let at = 0;
  for (const count of blockCounts) {
    blockStarts.push(at);
    at += count * recordLength;
  }
  const pass = async (
    path: string,
    cube: OctreeCube,
    sort: (index: number) => Promise<SortedBlock>,
  ): Promise<SortedCloud> => {
    await (await open(path, 'w')).close();
    await truncate(path, total * recordLength);
    let done = 0;
    const blocks = await mapWide(blockCounts, lanes, async (count, index) => {
      checkCancelled(signal);
      const block = await sort(index);
      done += count;
      report((0.4 * done) / total, 'Reading points');
      return block;
    });
    const of = (end: 'min' | 'max', pick: (...values: number[]) => number): [number, number, number] =>
      [0, 1, 2].map((axis) => blocks.reduce((best, block) => pick(best, block[end][axis]!), pick())) as [
        number,
        number,
        number,
      ];
    const mixesChannels = blocks.some((block) => block.mixesChannels === true);
    const depth = colourDepth(blocks.reduce((bits, block) => bits | block.colourBits, 0));
    return {
      path,
      cube,
      blocks,
      blockStarts,
      mixesChannels,
      colourDepth: depth,
      min: of('min', Math.min),
      max: of('max', Math.max),
    };
  };
  const guess = octreeCube(source.statedBounds ?? { min: [0, 0, 0], max: [0, 0, 0] }, quantisation);
  const first = await pass(spillPath, guess, (index) =>
    source.sortBlock(index, { cube: guess, spillPath, spillAt: blockStarts[index]! }),
  );
  const real = octreeCube({ min: [...first.min], max: [...first.max] }, quantisation);
  const isInside = [0, 1, 2].every(
    (axis) =>
      first.min[axis]! >= guess.low[axis]! && (first.max[axis]! - guess.low[axis]!) * guess.steps[axis]! < 2 ** 21,
  );
  if (isInside && real.side > guess.side * 0.6) return first;
  // The stated bounds were not the points': sort once more, from the records already read.
  const path = `${spillPath}.again`;
  const again = await pass(path, real, (index) =>
    pool.run(
      'sortBlock',
      {
        block: { path: spillPath, at: blockStarts[index]!, count: blockCounts[index]! },
        recordLength,
        cube: real,
        spillPath: path,
        spillAt: blockStarts[index]!,
      },
      signal,
    ),
  );
  return { ...again, mixesChannels: first.mixesChannels, colourDepth: first.colourDepth };
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

/** Stores nodes as they come, several in a transaction; the first failure stops all. */
class NodeWriter {
  private waiting: { id: number; node: NewNode; done: () => void }[] = [];
  private writing: Promise<void> | undefined;
  private failure: unknown;

  constructor(
    private readonly job: JobFile,
    private readonly cloudId: number,
  ) {}

  write(id: number, node: NewNode, done: () => void): void {
    // After a failure nothing is stored any more, and who waits for a turn gets it at once.
    if (this.failure !== undefined) {
      done();
      return;
    }
    this.waiting.push({ id, node, done });
    this.writing ??= this.drain();
  }

  async finished(): Promise<void> {
    await this.writing;
    if (this.failure !== undefined) throw this.failure as Error;
  }

  private async drain(): Promise<void> {
    while (this.waiting.length > 0) {
      const batch = this.waiting;
      this.waiting = [];
      if (this.failure === undefined) {
        await this.job
          .write(
            async (models) => {
              for (const { id, node } of batch) await insertNode(models, this.cloudId, id, node);
            },
            { isPromised: false },
          )
          .catch((error: unknown) => (this.failure = error));
      }
      for (const { done } of batch) done();
    }
    this.writing = undefined;
  }
}
