import type { CloudFacts } from '../store/cloud-facts.js';

/** Distance between neighbouring points if they lay evenly over the cloud's extent in plan, job units. */
export function averageSpacing({
  bounds: { min, max },
  pointCount,
}: CloudFacts & { readonly pointCount: number }): number {
  return Math.sqrt(((max[0] - min[0]) * (max[1] - min[1])) / Math.max(1, pointCount));
}
