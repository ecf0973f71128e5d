import type { RasterFrame } from '@pampero/core/raster';
import { mergeGround, newGroundSums, type GroundSums } from '@pampero/core/objects';
import type { CloudFacts } from '../store/cloud-facts.js';
import { quantisationOf } from '../store/cloud-repository.js';
import { type StoredNode } from '../store/node-repository.js';
import { overGroups, type CloudPass } from './cloud-pass.js';
import { partFrame } from './raster-frames.js';

/**
 * Points and heights of some groups of classes, a raster each, in one pass over a cloud.
 * @param masks - of each group the codes that belong to it; see `classMask`
 * @param onShare - the share of the nodes that is done
 */
export async function sumClasses(
  pass: CloudPass,
  facts: CloudFacts,
  groups: readonly StoredNode[][],
  frame: RasterFrame,
  masks: readonly Uint8Array[],
  onShare: (share: number) => void = () => undefined,
): Promise<GroundSums[]> {
  const quantisation = quantisationOf(facts);
  const sums = masks.map(() => newGroundSums(frame));
  await overGroups(pass, groups, { onShare }, async (nodes, group, transfer) => {
    const task = { nodes, quantisation, frame: partFrame(frame, group, facts), masks };
    const parts = await pass.pool.run('classSums', task, pass.signal, transfer);
    parts.forEach((part, k) => mergeGround(sums[k]!, part));
  });
  return sums;
}
