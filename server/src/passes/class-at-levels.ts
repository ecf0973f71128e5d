import type { WaterLevels } from '@pampero/core/objects';
import { shared } from '../shared-memory.js';
import type { CloudFacts } from '../store/cloud-facts.js';
import { quantisationOf } from '../store/cloud-repository.js';
import { type StoredNode } from '../store/node-repository.js';
import type { AtLevelsTask } from '../tasks/object-tasks.js';
import { overGroups, type CloudPass } from './cloud-pass.js';
import { withNewClasses } from './node-groups.js';

/** Gives a class to the points near levels that were found cell by cell: of water, of decks. */
export async function classAtLevels(
  pass: CloudPass,
  facts: CloudFacts,
  groups: readonly StoredNode[][],
  { level, ...frame }: WaterLevels,
  near: Pick<AtLevelsTask, 'takes' | 'above' | 'below' | 'code'>,
  onShare: (share: number) => void,
): ReturnType<typeof withNewClasses> {
  const quantisation = quantisationOf(facts);
  const levels = { ...frame, level: shared(level) };
  const parts = await overGroups(pass, groups, { onShare }, (nodes, _, transfer) =>
    pass.pool.run('atLevels', { nodes, quantisation, levels, ...near }, pass.signal, transfer),
  );
  return withNewClasses(pass.pool, pass.job.read, parts.flat(), pass.signal);
}
