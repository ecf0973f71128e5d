import type { Box } from '@pampero/core/selection';
import type { StoredNode } from '../store/node-repository.js';

/** A square of land with the nodes that have points in it or in the margin about it. */
export interface SpatialTile {
  /** Half-open in plan: a point on the line between two tiles belongs to the one east or north of it. */
  readonly west: number;
  readonly south: number;
  readonly east: number;
  readonly north: number;
  readonly nodes: readonly StoredNode[];
}

/**
 * Cuts the land of a cloud into squares of about `points` points each, on whole multiples of their side, so that the same land
 * is cut alike whatever else there is.
 */
export function spatialTiles(
  nodes: readonly StoredNode[],
  boxOf: (node: StoredNode) => Box,
  margin: number,
  points: number,
): SpatialTile[] {
  if (nodes.length === 0) return [];
  const boxes = nodes.map((node) => ({ node, box: boxOf(node) }));
  const reach = (axis: 0 | 1, end: 'min' | 'max'): number =>
    boxes.reduce(
      (best, { box }) => (end === 'min' ? Math.min(best, box.min[axis]) : Math.max(best, box.max[axis])),
      end === 'min' ? Infinity : -Infinity,
    );
  const [west, south, east, north] = [reach(0, 'min'), reach(1, 'min'), reach(0, 'max'), reach(1, 'max')];
  const total = nodes.reduce((sum, { count }) => sum + count, 0);
  const area = Math.max(1e-6, (east - west) * (north - south));
  // Below a few margins across, the margins would be most of the work.
  const side = Math.max(4 * margin, Math.sqrt((area * points) / total), 1e-3);
  const tiles: SpatialTile[] = [];
  for (let row = Math.floor(south / side); row * side <= north; row++)
    for (let column = Math.floor(west / side); column * side <= east; column++) {
      const tile = { west: column * side, south: row * side, east: (column + 1) * side, north: (row + 1) * side };
      const own = boxes.filter(
        ({ box }) =>
          box.max[0] >= tile.west - margin &&
          box.min[0] <= tile.east + margin &&
          box.max[1] >= tile.south - margin &&
          box.min[1] <= tile.north + margin,
      );
      if (own.length > 0) tiles.push({ ...tile, nodes: own.map(({ node }) => node) });
    }
  return tiles;
}
