import { smoothSurfaces, type SmoothSurfacesParameters } from '@pampero/contract';
import { formatCount } from '@pampero/core/wording';
import { overTiles } from '../../passes/cloud-pass.js';
import { averageSpacing } from '../../passes/cloud-spacing.js';
import { movePoints } from '../../passes/move-points.js';
import { byNode } from '../../passes/node-groups.js';
import { boxOf } from '../../passes/select-points.js';
import { spatialTiles } from '../../passes/spatial-tiles.js';
import { planPatches } from '../../passes/strip-patches.js';
import { stripSite } from '../../passes/strip-site.js';
import type { RunWork } from '../../runs/run-service.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

const TILE_POINTS = 400_000;
const SPACINGS = 3;

function work({ cloud, radius: given, limit, as }: SmoothSurfacesParameters, { pool, unit }: Surroundings): RunWork {
  return async ({ job, signal, report, historyId }) => {
    const pass = { pool, job, signal };
    const site = await stripSite(pass, cloud, undefined, { least: 0 });
    const radius = given || SPACINGS * averageSpacing(site.facts);
    report(0.02, 'Looking for smooth ground');
    // Points of all strips together: what they differ by is noise here as well.
    const together = {
      ...site,
      rule: { by: 'source' as const, ids: allIds, strip: allIds.map(() => 0) },
      names: ['all'],
    };
    const { roughness } = await planPatches(pass, together, unit, {
      patch: 2 * radius,
      roughness: 0,
      singleOnly: true,
    });
    const tiles = spatialTiles(site.nodes, (node) => boxOf(node, site.facts), radius, TILE_POINTS);
    const parts = await overTiles(
      pass,
      tiles,
      { onShare: (share) => report(0.1 + 0.6 * share, 'Smoothing') },
      (nodes, { west, south, east, north }, transfer) =>
        pool.run(
          'smoothTile',
          {
            nodes,
            quantisation: site.quantisation,
            tile: { west, south, east, north },
            radius,
            limit,
            roughness: Math.min(limit, roughness),
          },
          signal,
          transfer,
        ),
    );
    const lists = byNode(parts.flat());
    const moved = await movePoints(
      { ...pass, historyId },
      site,
      { name: as || 'Smoothed', because: `within ${limit}` },
      false,
      (nodes, transfer) =>
        pool.run(
          'moveSinglePoints',
          { nodes, quantisation: site.quantisation, moves: nodes.flatMap(({ nodeId }) => lists.get(nodeId) ?? []) },
          signal,
          transfer,
        ),
      (share) => report(0.7 + 0.28 * share, 'Moving the points'),
    );
    const count = site.facts.pointCount - moved.stayed;
    return {
      outcome: `${formatCount(count)} of ${formatCount(site.facts.pointCount)} points of ${site.facts.name} smoothed`,
      figures: moved.figures,
      store: moved.store,
    };
  };
}

const allIds = Array.from({ length: 65_536 }, (_, id) => id);

export const operation = serverOperation(smoothSurfaces, work);
