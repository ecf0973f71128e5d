import type { WaterLevels } from '@pampero/core/objects';
import { checkCancelled } from '@pampero/core/task';
import { shared } from '../shared-memory.js';
import type { CloudFacts } from '../store/cloud-facts.js';
import { quantisationOf, type StoredNode } from '../store/cloud-repository.js';
import type { AtLevelsTask } from '../tasks/object-tasks.js';
import { LANES, type CloudPass } from './class-sums.js';
import { handOver, mapWide, readNodeColumns, withNewClasses } from './node-groups.js';

/** Gives a class to the points near levels that were found cell by cell: of water, of decks. */
export async function classAtLevels(
  { pool, job, signal }: CloudPass,
  facts: CloudFacts,
  groups: readonly StoredNode[][],
  { level, ...frame }: WaterLevels,
  near: Pick<AtLevelsTask, 'takes' | 'above' | 'below' | 'code'>,
  onShare: (share: number) => void,
): ReturnType<typeof withNewClasses> {
  const quantisation = quantisationOf(facts);
  const levels = { ...frame, level: shared(level) };
  let done = 0;
  const parts = await mapWide(groups, LANES, async (group) => {
    checkCancelled(signal);
    const nodes = await readNodeColumns(job.read, group, { attributes: false });
    const classed = await pool.run('atLevels', { nodes, quantisation, levels, ...near }, signal, handOver(nodes));
    onShare(++done / groups.length);
    return classed;
  });
  return withNewClasses(pool, job.read, parts.flat(), signal);
}
