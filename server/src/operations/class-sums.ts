import type { RasterFrame } from '@pampero/core/ground';
import { mergeGround, newGroundSums, type GroundSums } from '@pampero/core/objects';
import { checkCancelled } from '@pampero/core/task';
import type { JobFile } from '../jobs/job-file.js';
import type { CloudFacts } from '../store/cloud-facts.js';
import { quantisationOf, type StoredNode } from '../store/cloud-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { handOver, mapWide, readNodeColumns } from './node-groups.js';
import { partFrame } from './raster-frames.js';

/** Groups under way at once: two threads work while the next is read. */
export const LANES = 3;

/** What a pass over a cloud needs of the run it belongs to. */
export interface CloudPass {
  readonly pool: TaskPool;
  readonly job: JobFile;
  readonly signal: AbortSignal;
}

/**
 * Points and heights of some groups of classes, a raster each, in one pass over a cloud.
 * @param masks - of each group the codes that belong to it; see `classMask`
 * @param onShare - the share of the nodes that is done
 */
export async function sumClasses(
  { pool, job, signal }: CloudPass,
  facts: CloudFacts,
  groups: readonly StoredNode[][],
  frame: RasterFrame,
  masks: readonly Uint8Array[],
  onShare: (share: number) => void = () => undefined,
): Promise<GroundSums[]> {
  const quantisation = quantisationOf(facts);
  const sums = masks.map(() => newGroundSums(frame));
  let done = 0;
  await mapWide(groups, LANES, async (group) => {
    checkCancelled(signal);
    const nodes = await readNodeColumns(job.read, group, { attributes: false });
    const task = { nodes, quantisation, frame: partFrame(frame, group, facts), masks };
    const parts = await pool.run('classSums', task, signal, handOver(nodes));
    parts.forEach((part, k) => mergeGround(sums[k]!, part));
    onShare(++done / groups.length);
  });
  return sums;
}
