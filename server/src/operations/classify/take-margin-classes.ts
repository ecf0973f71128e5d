import { takeMarginClasses, type Job, type TakeMarginClassesParameters } from '@pampero/contract';
import { sameIntegers, withMargin } from '@pampero/core/squares';
import { commonPlan, plansOverlap } from '@pampero/core/raster';
import { checkCancelled } from '@pampero/core/task';
import { formatCount, formatCounted } from '@pampero/core/wording';
import { JobError } from '../../errors/job-error.js';
import type { JobLibrary } from '../../jobs/job-library.js';
import { onEachCloud, type OnCloud } from '../../passes/each-cloud.js';
import { byNode, changeMarks } from '../../passes/node-groups.js';
import { reachesInto, readClouds } from '../../passes/read-clouds.js';
import type { RunWork } from '../../runs/run-service.js';
import { listClouds, readCloudFacts } from '../../store/cloud-repository.js';
import { replaceMarks } from '../../store/kept-marks.js';
import type { Models } from '../../store/models.js';
import type { Marks } from '../../store/mark-difference.js';
import type { MatchedMarks } from '../../tasks/margin-tasks.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

/** The jobs whose squares touch a job's margin; all of one site have sides of one length. */
async function neighboursOf({ id, square }: Job, library: JobLibrary): Promise<Job[]> {
  if (!square)
    throw new JobError('bad-request', {
      what: 'This job is no square of a larger site, so it has no margin.',
      fix: 'Large sites are divided into squares with “pampero site”.',
    });
  const reach = withMargin(square.land, square.margin);
  return (await library.list()).filter(
    (job) => job.id !== id && job.square !== undefined && plansOverlap(job.square.land, reach),
  );
}

/** The clouds of a neighbour that came from the same file. */
async function sameFile(models: Models, facts: Awaited<ReturnType<typeof readCloudFacts>>): Promise<number[]> {
  const ids: number[] = [];
  for (const { id } of await listClouds(models)) {
    const other = await readCloudFacts(models, id);
    if (other.source.fileName === facts.source.fileName && sameIntegers(other.quantisation, facts.quantisation))
      ids.push(id);
  }
  return ids;
}

function takeFor(
  { pool, library, job: { square } }: Surroundings,
  neighbours: readonly Job[],
  { cloudId }: OnCloud<TakeMarginClassesParameters>,
): RunWork {
  return async ({ job, signal, historyId, report }) => {
    const facts = await readCloudFacts(job.read, cloudId);
    const reach = withMargin(square!.land, square!.margin);
    const found: MatchedMarks[] = [];
    let [points, missing] = [0, 0];
    for (const [k, neighbour] of neighbours.entries()) {
      checkCancelled(signal);
      report((0.9 * k) / neighbours.length, `Taking classes from ${neighbour.name}`);
      const land = commonPlan(neighbour.square!.land, reach);
      const file = await library.file(neighbour.id);
      const letGo = file.hold();
      try {
        for (const otherId of await sameFile(file.read, facts)) {
          const own = await readClouds(job.read, [cloudId], (box) => reachesInto(box, land));
          const other = await readClouds(file.read, [otherId], (box) => reachesInto(box, land));
          const task = { margin: own.clouds[0]!, neighbour: other.clouds[0]!, land };
          const part = await pool.run('matchMargin', task, signal, [...own.transfer, ...other.transfer]);
          found.push(...part.changes);
          points += part.points;
          missing += part.missing;
        }
      } finally {
        letGo();
      }
    }
    const lists = byNode(found);
    let changed = 0;
    const change = (nodeId: number, marks: Marks): void => {
      for (const { indices, classification, flags } of lists.get(nodeId) ?? [])
        indices.forEach((i, at) => {
          marks.classification[i] = classification[at]!;
          marks.flags[i] = flags[at]!;
          changed++;
        });
    };
    report(0.9, 'Storing classes');
    const changes = await changeMarks(pool, job.read, [...lists.keys()], change, signal);
    return {
      outcome: `${formatCount(changed)} of ${formatCount(points)} points in the margin got the class of ${formatCounted(neighbours.length, 'neighbouring square')}`,
      figures: [
        { label: 'Points that changed', value: changed, quantity: 'count' },
        { label: 'Points in the margin', value: points, quantity: 'count' },
        ...(missing > 0 ? [{ label: 'Not found in their square', value: missing, quantity: 'count' as const }] : []),
      ],
      store: async (models) => ({
        effects: changes.length === 0 ? [] : [await replaceMarks(models, historyId, cloudId, changes)],
      }),
    };
  };
}

export const operation = serverOperation(takeMarginClasses, async (parameters, surroundings) => {
  const neighbours = await neighboursOf(surroundings.job, surroundings.library);
  return onEachCloud(parameters, (own) => takeFor(surroundings, neighbours, own));
});
