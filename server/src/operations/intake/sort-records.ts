import { colourDepth, type ColourDepth } from '@pampero/core/imagery';
import { open, truncate } from 'node:fs/promises';
import { octreeCube, type Bounds, type ColumnName, type OctreeCube, type Quantisation } from '@pampero/core/cloud';
import { checkCancelled } from '@pampero/core/task';
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

/** The extent of sorted records as scaled integers, and the file they lie in. */
export interface SortedExtent {
  readonly path: string;
  readonly min: readonly [number, number, number];
  readonly max: readonly [number, number, number];
}

export interface SortedCloud extends SortedExtent {
  readonly cube: OctreeCube;
  readonly blocks: readonly SortedBlock[];
  readonly blockStarts: readonly number[];
  readonly mixesChannels: boolean;
  readonly colourDepth: ColourDepth;
}

/**
 * Sorts all records by square into a spill file, block by block; once more where the bounds that the source states are not the
 * points'.
 */
export async function sortRecords(
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
