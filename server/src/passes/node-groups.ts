import type { Models } from '../store/models.js';
import { checkCancelled } from '@pampero/core/task';
import { listStoredNodes, readNodes, type StoredNode } from '../store/node-repository.js';
import type { ChangedMarks, Marks } from '../store/mark-difference.js';
import type { NewClasses } from '../tasks/object-tasks.js';
import type { TaskPool } from '../tasks/task-pool.js';
import type { NodeColumns } from '../tasks/node-columns.js';

/** Points in one tile task: enough to outweigh the hand-over, few enough to keep all threads busy. */
const GROUP_POINTS = 400_000;

/** The nodes of a cloud in groups of about {@link GROUP_POINTS}, in the store's order. */
export async function nodeGroups(models: Models, cloudId: number): Promise<StoredNode[][]> {
  return groupNodes(await listStoredNodes(models, cloudId));
}

export function groupNodes(nodes: readonly StoredNode[]): StoredNode[][] {
  const groups: StoredNode[][] = [];
  let points = Infinity;
  for (const node of nodes) {
    if (points + node.count > GROUP_POINTS) {
      groups.push([]);
      points = 0;
    }
    groups.at(-1)!.push(node);
    points += node.count;
  }
  return groups;
}

/** Nodes of the coarse levels up to so many points: an even sample of the cloud, where nodes come in the store's order. */
export function evenSample(nodes: readonly StoredNode[], most: number): StoredNode[] {
  let points = 0;
  return nodes.filter(({ count }) => points < most && (points += count) > 0);
}

/** Reads the columns a tile task wants. The buffers are fresh and may be transferred. */
export async function readNodeColumns(
  models: Models,
  nodes: readonly StoredNode[],
  { attributes }: { attributes: boolean },
): Promise<NodeColumns[]> {
  const ids = nodes.map(({ id }) => id);
  const rows = attributes
    ? await readNodes(models, ids, 'geometry', 'attributes')
    : await readNodes(models, ids, 'geometry');
  return rows.map((row, k) => ({ ...row, count: nodes[k]!.count }));
}

/** What tiles found, gathered by the node it lies in. */
export function byNode<T extends { readonly nodeId: number }>(parts: readonly T[]): Map<number, T[]> {
  const groups = new Map<number, T[]>();
  for (const part of parts) {
    const list = groups.get(part.nodeId);
    if (list) list.push(part);
    else groups.set(part.nodeId, [part]);
  }
  return groups;
}

/** Nodes whose marks are changed together: a few megabytes. */
const MARKED_TOGETHER = 32;

/**
 * Changes classes and flags of some nodes and packs what differs, in threads.
 * @param change - what a node's marks become; it may write into those it is given
 * @returns the nodes in which something differs, ready to be stored
 */
export async function changeMarks(
  pool: TaskPool,
  models: Models,
  nodeIds: readonly number[],
  change: (nodeId: number, marks: Marks) => void,
  signal: AbortSignal,
): Promise<ChangedMarks[]> {
  const batches: number[][] = [];
  for (let from = 0; from < nodeIds.length; from += MARKED_TOGETHER)
    batches.push(nodeIds.slice(from, from + MARKED_TOGETHER));
  const parts = await mapWide(batches, pool.threads + 1, async (ids) => {
    checkCancelled(signal);
    const nodes = (await readNodes(models, ids)).map(({ nodeId, classification, flags }) => {
      const after = { classification: Uint8Array.from(classification), flags: Uint8Array.from(flags) };
      change(nodeId, after);
      return { nodeId, before: { classification, flags }, after };
    });
    return pool.run('packMarks', { nodes }, signal, [
      ...handOver(nodes.map(({ before }) => before)),
      ...handOver(nodes.map(({ after }) => after)),
    ]);
  });
  return parts.flat();
}

/** Nodes in which tiles found new classes, with these in them; and how many points gained each class. */
export async function withNewClasses(
  pool: TaskPool,
  models: Models,
  parts: readonly NewClasses[],
  signal: AbortSignal,
): Promise<{ changes: ChangedMarks[]; gained: Float64Array }> {
  const gained = new Float64Array(256);
  const lists = byNode(parts);
  const change = (nodeId: number, { classification }: Marks): void => {
    for (const { indices, classes } of lists.get(nodeId) ?? [])
      indices.forEach((i, k) => {
        classification[i] = classes[k]!;
        gained[classes[k]!]!++;
      });
  };
  return { changes: await changeMarks(pool, models, [...lists.keys()], change, signal), gained };
}

/** Runs `work` over all items, at most `width` at once, and gives the results in the items' order. */
export async function mapWide<T, R>(
  items: readonly T[],
  width: number,
  work: (item: T, index: number) => Promise<R>,
): Promise<R[]> {
  const results = new Array<R>(items.length);
  let next = 0;
  const lane = async (): Promise<void> => {
    while (next < items.length) {
      const index = next++;
      results[index] = await work(items[index]!, index);
    }
  };
  await Promise.all(Array.from({ length: Math.min(width, items.length) }, lane));
  return results;
}

/** Buffers of columns that may be handed to a thread for good instead of copied: those that have their memory to themselves. */
export function handOver(
  nodes: readonly {
    readonly geometry?: Uint8Array;
    readonly classification: Uint8Array;
    readonly flags: Uint8Array;
    readonly attributes?: Uint8Array;
  }[],
): ArrayBuffer[] {
  return nodes
    .flatMap(({ geometry, classification, flags, attributes }) => [geometry, classification, flags, attributes])
    .filter((bytes) => bytes !== undefined && bytes.byteOffset === 0 && bytes.byteLength === bytes.buffer.byteLength)
    .map((bytes) => bytes!.buffer as ArrayBuffer);
}
