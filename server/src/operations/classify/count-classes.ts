import { countClasses, type CountClassesParameters, type FactsOf } from '@pampero/contract';
import { PointFlag } from '@pampero/core/cloud';
import { checkCancelled } from '@pampero/core/task';
import { formatCount, formatCounted } from '@pampero/core/wording';
import { nodeGroups, readNodeColumns } from '../../passes/node-groups.js';
import type { RunContext, RunWork } from '../../runs/run-service.js';
import { readCloudFacts } from '../../store/cloud-repository.js';
import { readJobClasses } from '../../store/pin-repository.js';
import { storeProduct } from '../../store/product-repository.js';
import { positionsOf } from '../../tasks/node-columns.js';
import { classNames } from '../clean/hand-edits.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

type ClassRow = FactsOf<'class-table'>['rows'][number];

/** What has been seen of a class so far; elevations in job units. */
interface Tally {
  points: number;
  withheld: number;
  lowest: number;
  highest: number;
}

function work(parameters: CountClassesParameters, { replaces }: Surroundings): RunWork {
  return async (context) => {
    const tallies = new Map<number, Tally>();
    const clouds = [...new Set(parameters.clouds)];
    const names: string[] = [];
    for (const [k, id] of clouds.entries()) {
      const report = (share: number, step: string): void => context.report((k + share) / clouds.length, step);
      names.push(await countCloud(id, { ...context, report }, tallies));
    }
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
  cloudId: number,
  { job, signal, report }: RunContext,
  tallies: Map<number, Tally>,
): Promise<string> {
  const { name, quantisation } = await readCloudFacts(job.read, cloudId);
  const [scale, offset] = [quantisation.scale[2], quantisation.offset[2]];
  const groups = await nodeGroups(job.read, cloudId);
  for (const [k, group] of groups.entries()) {
    checkCancelled(signal);
    report(k / groups.length, 'Counting');
    for (const node of await readNodeColumns(job.read, group, { attributes: false })) {
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
  }
  return name;
}

export const operation = serverOperation(countClasses, work);
