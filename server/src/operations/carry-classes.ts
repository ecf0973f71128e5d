import type { CarryClassesParameters } from '@pampero/contract';
import { checkCancelled } from '@pampero/core/task';
import type { RunWork } from '../runs/run-service.js';
import { listStoredNodes, quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import { replaceMarks } from '../store/history-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { formatCount } from './format-figures.js';
import { handOver, mapWide, readNodeColumns, withNewClasses } from './node-groups.js';
import { boxOf } from './select-points.js';
import { spatialTiles } from './spatial-tiles.js';

const TILE_POINTS = 800_000;
const LANES = 3;
/** Classes that say nothing are not carried. */
const SAYS_NOTHING: readonly number[] = [0, 1];

/** Gives the points of a cloud the classes of the nearest points of another, tile by tile with margins. */
export function carryClassesWork(pool: TaskPool, parameters: CarryClassesParameters): RunWork {
  return async ({ job, signal, historyId, report }) => {
    const { fromId, cloudId, distance } = parameters;
    const [source, target] = [await readCloudFacts(job.read, fromId), await readCloudFacts(job.read, cloudId)];
    const sourceNodes = await listStoredNodes(job.read, fromId);
    const targetNodes = await listStoredNodes(job.read, cloudId);
    const takes = new Uint8Array(256).fill(1);
    const said = takes.slice();
    for (const code of SAYS_NOTHING) said[code] = 0;
    const tiles = spatialTiles(targetNodes, (node) => boxOf(node, target), distance, TILE_POINTS);
    let done = 0;
    const parts = await mapWide(tiles, LANES, async ({ nodes: own, ...tile }) => {
      checkCancelled(signal);
      const near = sourceNodes.filter((node) => {
        const { min, max } = boxOf(node, source);
        return (
          max[0] >= tile.west - distance &&
          min[0] <= tile.east + distance &&
          max[1] >= tile.south - distance &&
          min[1] <= tile.north + distance
        );
      });
      const nodes = await readNodeColumns(job.read, own, { attributes: false });
      const given = await readNodeColumns(job.read, near, { attributes: false });
      const result = await pool.run(
        'carryTile',
        {
          nodes,
          quantisation: quantisationOf(target),
          tile,
          margin: 0,
          takes,
          source: { nodes: given, quantisation: quantisationOf(source), takes: said },
          distance,
        },
        signal,
        [...handOver(nodes), ...handOver(given)],
      );
      report((0.9 * ++done) / tiles.length, 'Carrying classes');
      return result;
    });
    const { changes, gained } = await withNewClasses(pool, job.read, parts.flat(), signal);
    const total = gained.reduce((sum, n) => sum + n, 0);
    return {
      outcome: `${formatCount(total)} of ${formatCount(target.pointCount)} points have the class of their nearest in ${source.name}`,
      figures: [
        { label: 'Points that changed', value: total, quantity: 'count' },
        { label: 'Of', value: target.pointCount, quantity: 'count' },
      ],
      store: async (models) => ({
        effects: changes.length === 0 ? [] : [await replaceMarks(models, historyId, cloudId, changes)],
      }),
    };
  };
}
