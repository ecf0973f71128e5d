import { takeMarginClasses, type Job, type TakeMarginClassesParameters } from '@pampero/contract';
import { commonPlan, plansOverlap, type PlanBounds } from '@pampero/core/raster';
import { sameIntegers, squareOf, squaresAbout, withMargin, type JobSquare } from '@pampero/core/squares';
import { checkCancelled } from '@pampero/core/task';
import { formatCount, formatCounted } from '@pampero/core/wording';
import { JobError } from '../../errors/job-error.js';
import type { JobLibrary } from '../../jobs/job-library.js';
import { onEachCloud, type OnCloud } from '../../passes/each-cloud.js';
import { byNode, changeMarks } from '../../passes/node-groups.js';
import { reachesInto, readClouds } from '../../passes/read-clouds.js';
import type { RunWork } from '../../runs/run-service.js';
import { readMarks, type EdgeMarks } from '../../passes/edge-marks.js';
import { listClouds, readCloudFacts } from '../../store/cloud-repository.js';
import { replaceMarks } from '../../store/kept-marks.js';
import type { Marks } from '../../store/mark-difference.js';
import type { CloudColumns } from '../../tasks/chosen-points.js';
import type { MatchedMarks, MatchMarginTask } from '../../tasks/margin-tasks.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

type CloudFacts = Awaited<ReturnType<typeof readCloudFacts>>;

/** A square beside, with its points that a margin has too. */
interface Neighbour {
  readonly name: string;
  readonly land: PlanBounds;
  /** Its points that came from the same file, and what of them can be handed over. */
  readonly points: (
    of: CloudFacts,
    within: PlanBounds,
  ) => Promise<{ readonly points: MatchMarginTask['neighbour']; readonly transfer: ArrayBuffer[] }[]>;
}

/** Squares whose land reaches into a job's margin: those that told their edges, and those that have a job here. */
async function neighboursOf({ id, square }: Job, library: JobLibrary): Promise<Neighbour[]> {
  if (!square)
    throw new JobError('bad-request', {
      what: 'This job is no square of a larger site, so it has no margin.',
      fix: 'Large sites are divided into squares with “pampero site”.',
    });
  const reach = withMargin(square.land, square.margin);
  const told: EdgeMarks[] = [];
  for (const { name } of squaresAbout(square, squareOf(square))) {
    const marks = await readMarks(library.edges, name);
    if (marks && plansOverlap(marks.land, reach)) told.push(marks);
  }
  // What was told is the latest: a job here may be left from before another machine took the square.
  const isTold = (of: JobSquare): boolean => told.some(({ name }) => name === squareOf(of).name);
  const jobs = (await library.list()).filter(
    (job) => job.id !== id && job.square && plansOverlap(job.square.land, reach) && !isTold(job.square),
  );
  const all = [...jobs.map((job) => jobNeighbour(job, library)), ...told.map(toldNeighbour)];
  return all.sort((a, b) => (a.name < b.name ? -1 : 1));
}

function jobNeighbour({ id, name, square }: Job, library: JobLibrary): Neighbour {
  return {
    name,
    land: square!.land,
    points: async ({ source, quantisation }, within) => {
      const file = await library.file(id);
      const letGo = file.hold();
      try {
        const found: { points: CloudColumns; transfer: ArrayBuffer[] }[] = [];
        for (const cloud of await listClouds(file.read)) {
          const other = await readCloudFacts(file.read, cloud.id);
          if (other.source.fileName !== source.fileName || !sameIntegers(other.quantisation, quantisation)) continue;
          const { clouds, transfer } = await readClouds(file.read, [cloud.id], (box) => reachesInto(box, within));
          found.push({ points: clouds[0]!, transfer });
        }
        return found;
      } finally {
        letGo();
      }
    },
  };
}

function toldNeighbour({ name, land, points }: EdgeMarks): Neighbour {
  return {
    name,
    land,
    points: ({ source, quantisation }) =>
      Promise.resolve(
        points(source.fileName, (of) => sameIntegers(of, quantisation)).map((told) => ({ points: told, transfer: [] })),
      ),
  };
}

function takeFor(
  { pool, job: { square } }: Surroundings,
  neighbours: readonly Neighbour[],
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
      const land = commonPlan(neighbour.land, reach);
      for (const theirs of await neighbour.points(facts, land)) {
        const own = await readClouds(job.read, [cloudId], (box) => reachesInto(box, land));
        const task = { margin: own.clouds[0]!, neighbour: theirs.points, land };
        const part = await pool.run('matchMargin', task, signal, [...own.transfer, ...theirs.transfer]);
        found.push(...part.changes);
        points += part.points;
        missing += part.missing;
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
