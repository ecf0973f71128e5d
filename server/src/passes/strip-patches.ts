import { lengthUnits, metresPer, type LengthUnit } from '@pampero/core/geodesy';
import { smoothRoughness, type PatchFrame } from '@pampero/core/strips';
import { PamperoError } from '@pampero/core/task';
import { overTiles, type CloudPass, type TileBounds } from './cloud-pass.js';
import { averageSpacing } from './cloud-spacing.js';
import { boxOf } from './select-points.js';
import { spatialTiles, type SpatialTile } from './spatial-tiles.js';
import { uncorrected } from './strip-flight.js';
import { stripCloudOf, type StripSite } from './strip-site.js';

const TILE_POINTS = 1_200_000;
/** Smooth patches: so many spacings of one strip's points across. */
const PATCH_SPACINGS = 6;
/** Of the smooth ground's own roughness. */
const ROUGHER = 1.5;
const TILES_SAMPLED = 8;

/** Patches of a site: their size and how rough they may be, and the tiles they lie in. */
export interface PatchPlan {
  readonly cell: number;
  readonly roughness: number;
  readonly singleOnly: boolean;
  readonly margin: number;
  readonly tiles: readonly SpatialTile[];
}

/** @param given - lengths of 0 follow from the cloud */
export async function planPatches(
  pass: CloudPass,
  site: StripSite,
  unit: LengthUnit,
  given: { readonly patch: number; readonly roughness: number; readonly singleOnly: boolean },
): Promise<PatchPlan> {
  const metre = metresPer(unit);
  const spacing = averageSpacing(site.facts) * Math.SQRT2;
  const cell =
    given.patch || Math.max(0.5 / metre, Math.min(20 / metre, Number((PATCH_SPACINGS * spacing).toPrecision(2))));
  const margin = cell + 3 / metre;
  const tiles = spatialTiles(site.nodes, (node) => boxOf(node, site.facts), margin, TILE_POINTS);
  const plan = { cell, singleOnly: given.singleOnly, margin, tiles };
  if (given.roughness) return { ...plan, roughness: given.roughness };
  const stride = Math.max(1, Math.ceil(tiles.length / TILES_SAMPLED));
  const sampled = await overTiles(
    pass,
    tiles.filter((_, k) => k % stride === 0),
    { attributes: true },
    (nodes, tile, transfer) =>
      pass.pool.run(
        'patchRoughness',
        {
          ...stripCloudOf(site, nodes),
          ...uncorrected(site.names.length),
          singleOnly: given.singleOnly,
          frame: frameOf(tile, cell),
          margin,
        },
        pass.signal,
        transfer,
      ),
  );
  const all = new Float64Array(sampled.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const part of sampled) {
    all.set(part, at);
    at += part.length;
  }
  const smooth = smoothRoughness(all);
  if (Number.isNaN(smooth))
    throw new PamperoError('no-patches', {
      what: `No place of ${cell} ${lengthUnits[unit].short} holds enough points of one strip to make a patch.`,
      fix: 'Give a larger patch, or turn off “Single returns only”.',
    });
  return { ...plan, roughness: Math.max(ROUGHER * smooth, 1e-4 / metre) };
}

/** The cells of a size whose middles lie in a tile, on whole multiples of their side. */
export function frameOf({ west, south, east, north }: TileBounds, cell: number): PatchFrame {
  const [column, row] = [Math.ceil(west / cell - 0.5), Math.ceil(south / cell - 0.5)];
  return {
    west: column * cell,
    south: row * cell,
    cell,
    columns: Math.max(0, Math.ceil(east / cell - 0.5) - column),
    rows: Math.max(0, Math.ceil(north / cell - 0.5) - row),
  };
}
