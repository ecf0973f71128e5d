import type { PlanBounds } from '@pampero/core/raster';
import { checkCancelled } from '@pampero/core/task';
import type { CloudFacts } from '../store/cloud-facts.js';
import { quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import type { Models } from '../store/models.js';
import { listStoredNodes, type StoredNode } from '../store/node-repository.js';
import type { CloudColumns } from '../tasks/chosen-points.js';
import type { LandTile } from '../tasks/land-tasks.js';
import type { CloudPass } from './cloud-pass.js';
import { handOver, mapWide, readNodeColumns } from './node-groups.js';
import { boxOf } from './select-points.js';

/** Few enough that several tiles at once are no more than a part of the memory. */
const TILE_POINTS = 2_000_000;

export interface LandTiles {
  /** Whole cells make a tile, so that what is computed cell by cell comes out as over the whole. */
  readonly cell: number;
  /** Cells that stay together in one tile along each side: those of a block. */
  readonly blockCells?: number;
  /** Points in a tile, about. */
  readonly tilePoints?: number | undefined;
}

/** A tile with the nodes that reach into it: of each cloud, in the store's order. */
export interface TileOfClouds {
  readonly tile: LandTile;
  readonly clouds: readonly { readonly facts: CloudFacts; readonly nodes: readonly StoredNode[] }[];
}

/** The land of some clouds in squares of whole cells, and the box about it. */
export async function landTiles(
  models: Models,
  cloudIds: readonly number[],
  { cell, blockCells = 1, tilePoints = TILE_POINTS }: LandTiles,
): Promise<{ tiles: TileOfClouds[]; land: PlanBounds }> {
  const clouds = await Promise.all(
    [...new Set(cloudIds)].map(async (id) => {
      const facts = await readCloudFacts(models, id);
      const nodes = (await listStoredNodes(models, id)).map((node) => ({ node, box: boxOf(node, facts) }));
      return { facts, nodes };
    }),
  );
  let [west, south, east, north, points] = [Infinity, Infinity, -Infinity, -Infinity, 0];
  for (const { nodes } of clouds)
    for (const { box, node } of nodes) {
      [west, south] = [Math.min(west, box.min[0]), Math.min(south, box.min[1])];
      [east, north] = [Math.max(east, box.max[0]), Math.max(north, box.max[1])];
      points += node.count;
    }
  const land = { west, south, east, north };
  if (points === 0) return { tiles: [], land };
  const side = Math.sqrt(((east - west) * (north - south) * tilePoints) / points);
  const cells = blockCells * Math.max(1, Math.ceil(side / (blockCells * cell)));
  const first = (value: number): number => Math.floor(Math.floor(value / cell) / cells) * cells;
  const tiles: TileOfClouds[] = [];
  for (let row = first(south); row * cell <= north; row += cells)
    for (let column = first(west); column * cell <= east; column += cells) {
      // A cell more on every side: which cell a place on an edge falls into is decided point by point.
      const [fromE, fromN] = [(column - 1) * cell, (row - 1) * cell];
      const [toE, toN] = [(column + cells + 1) * cell, (row + cells + 1) * cell];
      const own = clouds.map(({ facts, nodes }) => ({
        facts,
        nodes: nodes
          .filter(({ box: { min, max } }) => max[0] >= fromE && min[0] <= toE && max[1] >= fromN && min[1] <= toN)
          .map(({ node }) => node),
      }));
      if (own.some(({ nodes }) => nodes.length > 0)) tiles.push({ tile: { column, row, cells }, clouds: own });
    }
  return { tiles, land };
}

/** Reads the clouds tile by tile and has each worked on; results in the order of the tiles. */
export function overLand<R>(
  { pool, job, signal }: CloudPass,
  tiles: readonly TileOfClouds[],
  onTile: () => void,
  work: (clouds: CloudColumns[], tile: LandTile, transfer: ArrayBuffer[]) => Promise<R>,
): Promise<R[]> {
  return mapWide(tiles, pool.threads + 1, async ({ tile, clouds }) => {
    checkCancelled(signal);
    const read: CloudColumns[] = [];
    for (const { facts, nodes } of clouds)
      read.push({
        nodes: await readNodeColumns(job.read, nodes, { attributes: false }),
        quantisation: quantisationOf(facts),
      });
    const transfer = read.flatMap(({ nodes }) => handOver(nodes));
    const result = await work(read, tile, transfer);
    onTile();
    return result;
  });
}
