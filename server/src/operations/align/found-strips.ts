import type { Strip } from '@pampero/contract';
import { formatCount, formatCounted } from '@pampero/core/wording';
import type { RunResult } from '../../runs/run-service.js';
import type { CloudFacts } from '../../store/cloud-facts.js';
import { storeProduct } from '../../store/product-repository.js';
import type { Surroundings } from '../server-operation.js';

/** The strips of a cloud as a product, however they were told apart. */
export function foundStrips(
  facts: CloudFacts & { readonly name: string; readonly pointCount: number },
  {
    by,
    strips,
    operation,
    parameters,
    replaces,
  }: {
    readonly by: 'source' | 'time';
    readonly strips: readonly Strip[];
    readonly operation: string;
    readonly parameters: { readonly cloud: number; readonly name?: string | undefined };
    readonly replaces: Surroundings['replaces'];
  },
): RunResult {
  const assigned = strips.reduce((sum, strip) => sum + (strip.isLeftOut ? 0 : strip.points), 0);
  const unassigned = Math.max(0, facts.pointCount - assigned);
  return {
    outcome: `${formatCounted(strips.length, 'strip')} in ${facts.name}${unassigned > 0 ? `; ${formatCount(unassigned)} points are of none` : ''}`,
    figures: [
      { label: 'Strips', value: strips.length, quantity: 'count' },
      { label: 'Points of no strip', value: unassigned, quantity: 'count' },
    ],
    store: (models) =>
      storeProduct(models, {
        kind: 'strips',
        name: parameters.name ?? `Strips of ${facts.name}`,
        operation,
        parameters,
        facts: { cloudId: parameters.cloud, by, strips: [...strips], unassigned },
        blobs: {},
        replaces,
      }),
  };
}
