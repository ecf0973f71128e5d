import { transferClasses, type TransferClassesParameters } from '@pampero/contract';
import type { RunWork } from '../../runs/run-service.js';
import { quantisationOf, readCloudFacts } from '../../store/cloud-repository.js';
import { listStoredNodes } from '../../store/node-repository.js';
import { replaceMarks } from '../../store/kept-marks.js';
import type { TaskPool } from '../../tasks/task-pool.js';
import { NOISE_CLASSES } from '@pampero/core/cloud';
import { formatCount } from '@pampero/core/wording';
import { overTiles, type CloudPass } from '../../passes/cloud-pass.js';
import { onEachCloud, type OnCloud } from '../../passes/each-cloud.js';
import { serverOperation } from '../server-operation.js';
import { handOver, readNodeColumns, withNewClasses } from '../../passes/node-groups.js';
import { reachesInto } from '../../passes/read-clouds.js';
import { boxOf } from '../../passes/select-points.js';
import { spatialTiles } from '../../passes/spatial-tiles.js';

const TILE_POINTS = 800_000;
/** Classes that say nothing are not carried. */
const SAYS_NOTHING: readonly number[] = [0, 1];

/** Gives the points of a cloud the classes of the nearest points of another, tile by tile with margins. */
function transferTo(pool: TaskPool, parameters: OnCloud<TransferClassesParameters>): RunWork {
  return async ({ job, signal, historyId, report }) => {
    const { fromId, cloudId, distance } = parameters;
    const [source, target] = [await readCloudFacts(job.read, fromId), await readCloudFacts(job.read, cloudId)];
    const sourceNodes = await listStoredNodes(job.read, fromId);
    const targetNodes = await listStoredNodes(job.read, cloudId);
    const takes = new Uint8Array(256).fill(1);
    const said = takes.slice();
    // What was found to be noise stays noise, whatever lies beside it.
    for (const code of NOISE_CLASSES) takes[code] = 0;
    for (const code of SAYS_NOTHING) said[code] = 0;
    const tiles = spatialTiles(targetNodes, (node) => boxOf(node, target), distance, TILE_POINTS);
    const pass: CloudPass = { pool, job, signal };
    const passOptions = { onShare: (share: number) => report(0.9 * share, 'Transferring classes') };
    const parts = await overTiles(pass, tiles, passOptions, async (nodes, tile, transfer) => {
      const near = sourceNodes.filter((node) => reachesInto(boxOf(node, source), tile, distance));
      const given = await readNodeColumns(job.read, near, { attributes: false });
      return pool.run(
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
        [...transfer, ...handOver(given)],
      );
    });
    const { changes, gained } = await withNewClasses(pool, job.read, parts.flat(), signal);
    const total = gained.reduce((sum, n) => sum + n, 0);
    return {
      outcome: `${formatCount(total)} of ${formatCount(target.pointCount)} points got the class of the nearest point in ${source.name}`,
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

export const operation = serverOperation(transferClasses, (parameters, { pool }) =>
  onEachCloud(parameters, (own) => transferTo(pool, own)),
);
