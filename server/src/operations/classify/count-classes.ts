import { countClasses, type CountClassesParameters, type FactsOf } from '@pampero/contract';
import { PointFlag } from '@pampero/core/cloud';
import { formatCount, formatCounted } from '@pampero/core/wording';
import { overGroups } from '../../passes/cloud-pass.js';
import { inTurn } from '../../passes/each-cloud.js';
import { nodeGroups } from '../../passes/node-groups.js';
import type { RunContext, RunWork } from '../../runs/run-service.js';
import { readCloudFacts } from '../../store/cloud-repository.js';
import { classNames, readJobClasses } from '../../store/pin-repository.js';
import { storeProduct } from '../../store/product-repository.js';
import { positionsOf } from '../../tasks/node-columns.js';
import type { TaskPool } from '../../tasks/task-pool.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

type ClassRow = FactsOf<'class-table'>['rows'][number];

/** What has been seen of a class so far; elevations in job units. */
interface Tally {
  points: number;
  withheld: number;
  lowest: number;
  highest: number;
}

function work(parameters: CountClassesParameters, { pool, replaces }: Surroundings): RunWork {
  return async (context) => {
    const tallies = new Map<number, Tally>();
    const names = await inTurn(parameters.clouds, context, (id, own) => countCloud(pool, id, own, tallies));
    const nameOf = classNames(await readJobClasses(context.job.read));
    const rows = [...tallies]
      .sort(([a], [b]) => a - b)
      .map(([code, { points, withheld, lowest, highest }]): ClassRow => ({
        code,
        name: nameOf(code),
        points,
        withheld,
        ...(points > 0 && { lowest, highest }),
      }));
    const all = rows.reduce((sum, { points }) => sum + points, 0);
    return {
      outcome: `${formatCount(all)} points in ${formatCounted(rows.length, 'class', 'classes')}`,
      figures: [{ label: 'Points', value: all, quantity: 'count' }],
      store: (models) =>
        storeProduct(models, {
          kind: 'class-table',
          name: parameters.name ?? `Classes of ${names.join(', ')}`,
          operation: countClasses.id,
          parameters,
          facts: {
            rows,
            figures: rows.map(({ code, name, points }) => ({
              label: `${code} ${name}`,
              value: points,
              quantity: 'count' as const,
            })),
          },
          blobs: {},
          replaces,
        }),
    };
  };
}

/** Adds a cloud's points to the tallies; answers with its name. */
async function countCloud(
  pool: TaskPool,
  cloudId: number,
  { job, signal, report }: RunContext,
  tallies: Map<number, Tally>,
): Promise<string> {
  const { name, quantisation } = await readCloudFacts(job.read, cloudId);
  const [scale, offset] = [quantisation.scale[2], quantisation.offset[2]];
  const groups = await nodeGroups(job.read, cloudId);
  const onShare = (share: number): void => report(share, 'Counting');
  await overGroups({ pool, job, signal }, groups, { onShare }, (nodes) => {
    for (const node of nodes) {
      const { z } = positionsOf(node);
      for (let i = 0; i < node.count; i++) {
        const code = node.classification[i]!;
        let tally = tallies.get(code);
        if (!tally) tallies.set(code, (tally = { points: 0, withheld: 0, lowest: Infinity, highest: -Infinity }));
        if ((node.flags[i]! & PointFlag.withheld) !== 0) {
          tally.withheld++;
          continue;
        }
        tally.points++;
        const elevation = z[i]! * scale + offset;
        if (elevation < tally.lowest) tally.lowest = elevation;
        if (elevation > tally.highest) tally.highest = elevation;
      }
    }
    return Promise.resolve();
  });
  return name;
}

export const operation = serverOperation(countClasses, work);
