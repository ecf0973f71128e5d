import { PointFlag } from '@pampero/core/cloud';
import type { SceneCloud } from './level-of-detail';
import type { NodeCache } from './node-cache';
import type { CachedNode } from './point-cache';

import type { GroundAround, ViewerQuestions } from './viewer-questions';

/** Points of nodes that are looked through at most. */
const MOST_LOOKED_AT = 4_000_000;

/**
 * What the points of some classes say about a place: the nearest in plan, the lowest and the middle one within a circle. All points of
 * the land are asked, whatever the view draws of them.
 */
export async function groundAround(
  cache: NodeCache,
  clouds: readonly SceneCloud[],
  { at: [x, y], radius, classes }: ViewerQuestions['around']['ask'],
): Promise<GroundAround | undefined> {
  const wanted = clouds.flatMap(({ cloud, nodes }) =>
    nodes
      .filter(({ low, high }) => reaches(x, low[0], high[0], radius) && reaches(y, low[1], high[1], radius))
      .map((node) => ({ cloud, node })),
  );
  if (wanted.reduce((sum, { node }) => sum + node.count, 0) > MOST_LOOKED_AT) return undefined;
  const present = await Promise.all(wanted.map(({ cloud, node }) => cache.load(cloud, node)));
  const takes = new Uint8Array(256);
  for (const code of classes) takes[code] = 1;
  const heights: number[] = [];
  let nearest: GroundAround['nearest'] | undefined;
  let least = radius * radius;
  for (const cached of present) {
    if (!cached) continue;
    const { count } = cached.node;
    const [cx, cy, cz] = cached.centre;
    const { points, classes: of, flags } = cached;
    for (let i = 0; i < count; i++) {
      const [dx, dy] = [points.x[i]! + cx - x, points.y[i]! + cy - y];
      const square = dx * dx + dy * dy;
      if (square > radius * radius || takes[of[i]!] === 0 || (flags[i]! & PointFlag.withheld) !== 0) continue;
      heights.push(points.z[i]! + cz);
      if (square > least) continue;
      least = square;
      nearest = placeOf(cached, i);
    }
  }
  if (!nearest) return undefined;
  heights.sort((a, b) => a - b);
  return { nearest, lowest: heights[0]!, median: heights[heights.length >> 1]!, count: heights.length };
}

function reaches(at: number, low: number, high: number, radius: number): boolean {
  return at >= low - radius && at <= high + radius;
}

function placeOf({ centre, points }: CachedNode, i: number): [number, number, number] {
  return [points.x[i]! + centre[0], points.y[i]! + centre[1], points.z[i]! + centre[2]];
}
