import { checkCancelled } from '@pampero/core/task';
import type { JobFile } from '../store/job-file.js';
import type { StoredNode } from '../store/node-repository.js';
import type { NodeColumns } from '../tasks/node-columns.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { handOver, mapWide, readNodeColumns } from './node-groups.js';
import type { SpatialTile } from './spatial-tiles.js';

/** What a pass over a cloud needs of the run it belongs to. */
export interface CloudPass {
  readonly pool: TaskPool;
  readonly job: JobFile;
  readonly signal: AbortSignal;
}

interface PassOptions {
  /** Reads the other attributes too, not places and classes alone. */
  readonly attributes?: boolean;
  /** How much is done, 0 to 1. */
  readonly onShare?: (share: number) => void;
}

/** One more than threads work at once: while they compute, the next is read. */
const lanes = ({ pool }: CloudPass): number => pool.threads + 1;

/** Reads a cloud group of nodes by group of nodes and has each worked on; results in the order of the groups. */
export function overGroups<R>(
  pass: CloudPass,
  groups: readonly (readonly StoredNode[])[],
  { attributes = false, onShare }: PassOptions,
  work: (nodes: NodeColumns[], group: readonly StoredNode[], transfer: ArrayBuffer[]) => Promise<R>,
): Promise<R[]> {
  let done = 0;
  return mapWide(groups, lanes(pass), async (group) => {
    checkCancelled(pass.signal);
    const nodes = await readNodeColumns(pass.job.read, group, { attributes });
    const result = await work(nodes, group, handOver(nodes));
    onShare?.(++done / groups.length);
    return result;
  });
}

/** A tile of land without its nodes: what a task is told of where it is. */
export type TileBounds = Omit<SpatialTile, 'nodes'>;

/** Reads a cloud tile by tile, each with the nodes of its margin, and has each worked on; results in the order of the tiles. */
export function overTiles<R>(
  pass: CloudPass,
  tiles: readonly SpatialTile[],
  { attributes = false, onShare }: PassOptions,
  work: (
    nodes: NodeColumns[],
    tile: TileBounds,
    transfer: ArrayBuffer[],
    own: readonly StoredNode[],
    index: number,
  ) => Promise<R>,
): Promise<R[]> {
  let done = 0;
  return mapWide(tiles, lanes(pass), async ({ nodes: own, ...tile }, index) => {
    checkCancelled(pass.signal);
    const nodes = await readNodeColumns(pass.job.read, own, { attributes });
    const result = await work(nodes, tile, handOver(nodes), own, index);
    onShare?.(++done / tiles.length);
    return result;
  });
}

/** A signal for what is asked and answered at once, and never cancelled. */
export const never: AbortSignal = new AbortController().signal;
