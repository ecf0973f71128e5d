import { PointFlag } from '@pampero/core/cloud';
import type { CloudPass } from '../../passes/cloud-pass.js';
import type { CloudFacts } from '../../store/cloud-facts.js';
import type { StoredNode } from '../../store/node-repository.js';
import type { Marks } from '../../store/mark-difference.js';

/** Points in a tile of a thinning. */
export const TILE_POINTS = 1_200_000;

/** The cloud that is thinned, and which of its points take part. */
export interface ThinningSite {
  readonly pass: CloudPass;
  readonly report: (share: number, step: string) => void;
  readonly facts: CloudFacts & { readonly name: string };
  readonly nodes: readonly StoredNode[];
  readonly takes: Uint8Array;
}

/** Of a node the points that take part. */
export function takenOf({ classification, flags }: Marks, takes: Uint8Array): Uint32Array {
  const out = new Uint32Array(flags.length);
  let count = 0;
  for (let i = 0; i < flags.length; i++)
    if (takes[classification[i]!] === 1 && (flags[i]! & PointFlag.withheld) === 0) out[count++] = i;
  return out.subarray(0, count);
}
