import type { Box } from '@pampero/core/selection';
import { quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import { listStoredNodes } from '../store/node-repository.js';
import type { Models } from '../store/models.js';
import type { CloudColumns } from '../tasks/chosen-points.js';
import { handOver, readNodeColumns } from './node-groups.js';
import { boxOf } from './select-points.js';

/** Some clouds read whole, or what of them lies in a window, ready to be handed to a thread. */
export interface ReadClouds {
  readonly clouds: readonly CloudColumns[];
  readonly names: readonly string[];
  readonly transfer: ArrayBuffer[];
}

/** Reads places and classes of clouds, each once; with a window only nodes that reach into it, in plan. */
export async function readClouds(
  models: Models,
  ids: readonly number[],
  isWanted: (box: Box) => boolean = () => true,
  { attributes = false }: { readonly attributes?: boolean } = {},
): Promise<ReadClouds> {
  const clouds: CloudColumns[] = [];
  const names: string[] = [];
  for (const id of new Set(ids)) {
    const facts = await readCloudFacts(models, id);
    const nodes = (await listStoredNodes(models, id)).filter((node) => isWanted(boxOf(node, facts)));
    clouds.push({
      nodes: await readNodeColumns(models, nodes, { attributes }),
      quantisation: quantisationOf(facts),
      ...(attributes && { attributes: { names: facts.attributeNames, columns: facts.columns } }),
    });
    names.push(facts.name);
  }
  return { clouds, names, transfer: clouds.flatMap(({ nodes }) => handOver(nodes)) };
}

/** Whether a box reaches into a rectangle in plan, with a margin about it. */
export function reachesInto(
  { min, max }: Box,
  { west, south, east, north }: { west: number; south: number; east: number; north: number },
  margin = 0,
): boolean {
  return max[0] >= west - margin && min[0] <= east + margin && max[1] >= south - margin && min[1] <= north + margin;
}
