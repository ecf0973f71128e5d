import type { Models } from '../jobs/models.js';
import {
  listStoredNodes,
  readNodeAttributes,
  readNodeClass,
  readNodeGeometry,
  type StoredNode,
} from '../store/cloud-repository.js';
import type { NewClasses } from '../tasks/object-tasks.js';
import type { NodeColumns } from '../tasks/tile-tasks.js';

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

/** Reads the columns a tile task wants. The buffers are fresh and may be transferred. */
export async function readNodeColumns(
  models: Models,
  nodes: readonly StoredNode[],
  { attributes }: { attributes: boolean },
): Promise<NodeColumns[]> {
  const out: NodeColumns[] = [];
  for (const node of nodes) {
    const marks = await readNodeClass(models, node.id);
    out.push({
      nodeId: node.id,
      count: node.count,
      geometry: await readNodeGeometry(models, node.id),
      classification: marks.classification,
      flags: marks.flags,
      ...(attributes && { attributes: await readNodeAttributes(models, node.id) }),
    });
  }
  return out;
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

/** Class columns of the nodes in which tiles found new classes, with these in them; and how many points gained each class. */
export async function withNewClasses(
  models: Models,
  parts: readonly NewClasses[],
): Promise<{ changes: { nodeId: number; classification: Uint8Array }[]; gained: Float64Array }> {
  const gained = new Float64Array(256);
  const changes: { nodeId: number; classification: Uint8Array }[] = [];
  for (const [nodeId, lists] of byNode(parts)) {
    const classification = Uint8Array.from((await readNodeClass(models, nodeId)).classification);
    for (const { indices, classes } of lists)
      indices.forEach((i, k) => {
        classification[i] = classes[k]!;
        gained[classes[k]!]!++;
      });
    changes.push({ nodeId, classification });
  }
  return { changes, gained };
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
