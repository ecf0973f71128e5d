import type { RasterFrame } from '@pampero/core/raster';
import { mergeDifferences, newDifferenceSums, summarise, type SurfaceDifference } from '@pampero/core/thinning';
import { overGroups, overTiles } from '../../passes/cloud-pass.js';
import { groupNodes } from '../../passes/node-groups.js';
import { boxOf } from '../../passes/select-points.js';
import { spatialTiles } from '../../passes/spatial-tiles.js';
import type { CloudFacts } from '../../store/cloud-facts.js';
import { quantisationOf } from '../../store/cloud-repository.js';
import { type StoredNode } from '../../store/node-repository.js';
import type { FoundPoints } from '../../tasks/cleaning-tasks.js';
import { isFurther, type MapPart } from '../../tasks/thinning-tasks.js';
import { TILE_POINTS, type ThinningSite } from './thinning-site.js';

/** The thinned surface against all the points, tile by tile; and a map of it where one is wanted. */
export async function compareThinned(
  { pass, report, facts, nodes, takes }: ThinningSite,
  keptOf: ReadonlyMap<number, readonly Uint32Array[]>,
  frame: RasterFrame | undefined,
): Promise<{ difference: SurfaceDifference; map?: Float32Array<ArrayBuffer> }> {
  const { pool, signal } = pass;
  const quantisation = quantisationOf(facts);
  const listOf = ({ id }: StoredNode): FoundPoints[] =>
    (keptOf.get(id) ?? []).map((indices) => ({ nodeId: id, indices }));
  const holding = groupNodes(nodes.filter(({ id }) => keptOf.has(id)));
  const parts = await overGroups(pass, holding, {}, (read, group) => {
    const chosen = group.flatMap(listOf);
    const columns = new Map(read.map((node) => [node.nodeId, node]));
    const task = { nodes: chosen.map(({ nodeId }) => columns.get(nodeId)!), chosen, quantisation };
    return pool.run('placesOf', task, signal);
  });
  const tiles = spatialTiles(nodes, (node) => boxOf(node, facts), 0, TILE_POINTS);
  const bounds = tiles.map(({ west, south, east, north }) => ({ west, south, east, north }));
  const layTask = { parts, offset: quantisation.offset, tiles: bounds };
  const surface = await pool.run('layThinned', layTask, signal, parts.flatMap(({ x, y, z }) => [x.buffer, y.buffer, z.buffer])); // prettier-ignore
  const sums = newDifferenceSums();
  const map = frame && new Float32Array(frame.columns * frame.rows).fill(NaN);
  const onShare = (share: number): void => report(0.7 + 0.2 * share, 'Comparing surfaces');
  await overTiles(pass, tiles, { onShare }, async (read, tile, transfer, own, tileAt) => {
    const task = { nodes: read, quantisation, tile, takes, surface, tileAt, kept: own.flatMap(listOf), frame };
    const part = await pool.run('thinnedDifference', task, signal, transfer);
    mergeDifferences(sums, part.sums);
    if (map && frame && part.map) layPart(map, frame, part.map);
  });
  return { difference: summarise(sums), ...(map && { map }) };
}

function layPart(map: Float32Array, frame: RasterFrame, part: MapPart): void {
  for (let row = 0, k = 0; row < part.rows; row++)
    for (let column = 0; column < part.columns; column++, k++) {
      const at = (part.row + row) * frame.columns + part.column + column;
      if (!Number.isNaN(part.values[k]!) && isFurther(part.values[k]!, map[at]!)) map[at] = part.values[k]!;
    }
}

/** Cells along the longer side of a map at most. */
const MAP_CELLS = 1500;

/** Cells wide enough for a few points each, on whole multiples of their side. */
export function mapFrame({ bounds: { min, max } }: CloudFacts, before: number): RasterFrame {
  const extent = Math.max(1e-6, (max[0] - min[0]) * (max[1] - min[1]));
  const wide = Math.max(3 * Math.sqrt(extent / before), Math.max(max[0] - min[0], max[1] - min[1]) / MAP_CELLS, 1e-3);
  const cell = Number(wide.toPrecision(2));
  const [column, row] = [Math.floor(min[0] / cell), Math.floor(min[1] / cell)];
  return {
    east: column * cell,
    north: row * cell,
    cell,
    columns: Math.floor(max[0] / cell) - column + 1,
    rows: Math.floor(max[1] / cell) - row + 1,
  };
}
