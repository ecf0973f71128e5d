import { flagOverlap, type FlagOverlapParameters } from '@pampero/contract';
import { PointFlag } from '@pampero/core/cloud';
import { formatCount } from '@pampero/core/wording';
import { overTiles } from '../../passes/cloud-pass.js';
import { byNode, changeMarks } from '../../passes/node-groups.js';
import { boxOf } from '../../passes/select-points.js';
import { spatialTiles } from '../../passes/spatial-tiles.js';
import { frameOf } from '../../passes/strip-patches.js';
import { stripCloudOf, stripSite } from '../../passes/strip-site.js';
import type { RunWork } from '../../runs/run-service.js';
import { replaceMarks } from '../../store/kept-marks.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

const TILE_POINTS = 600_000;
/** A cell asks its neighbours, so one row of cells about a tile is enough. */
const BORDER = 1;

function work({ cloud, strips, keep, cell }: FlagOverlapParameters, { pool }: Surroundings): RunWork {
  return async ({ job, signal, report, historyId }) => {
    const pass = { pool, job, signal };
    const site = await stripSite(pass, cloud, strips);
    const tiles = spatialTiles(site.nodes, (node) => boxOf(node, site.facts), 2 * cell, TILE_POINTS);
    const parts = await overTiles(
      pass,
      tiles,
      { attributes: true, onShare: (share) => report(0.8 * share, 'Finding overlap') },
      (nodes, tile, transfer) => {
        const own = frameOf(tile, cell);
        const frame = {
          ...own,
          west: own.west - BORDER * cell,
          south: own.south - BORDER * cell,
          columns: own.columns + 2 * BORDER,
          rows: own.rows + 2 * BORDER,
        };
        return pool.run(
          'overlapOfTile',
          { ...stripCloudOf(site, nodes), frame, keep, border: BORDER },
          signal,
          transfer,
        );
      },
    );
    let [flagged, cleared] = [0, 0];
    const lists = byNode(parts.flat());
    const changes = await changeMarks(
      pool,
      job.read,
      [...lists.keys()],
      (nodeId, { flags }) => {
        for (const { overlap, kept } of lists.get(nodeId) ?? []) {
          for (const i of overlap) {
            flags[i]! |= PointFlag.overlap;
            flagged++;
          }
          for (const i of kept) {
            if ((flags[i]! & PointFlag.overlap) !== 0) cleared++;
            flags[i]! &= ~PointFlag.overlap;
          }
        }
      },
      signal,
    );
    return {
      outcome: `${formatCount(flagged)} of ${formatCount(site.facts.pointCount)} points of ${site.facts.name} are overlap`,
      figures: [
        { label: 'Flagged as overlap', value: flagged, quantity: 'count' },
        { label: 'Share of the cloud', value: flagged / Math.max(1, site.facts.pointCount), quantity: 'share' },
        ...(cleared > 0 ? [{ label: 'No longer overlap', value: cleared, quantity: 'count' as const }] : []),
      ],
      store: async (models) => ({
        effects: changes.length === 0 ? [] : [await replaceMarks(models, historyId, cloud, changes)],
      }),
    };
  };
}

export const operation = serverOperation(flagOverlap, work);
