import { numberPoints, type NumberPointsParameters, type SpotPoint } from '@pampero/contract';
import { PointFlag } from '@pampero/core/cloud';
import type { PlanBounds } from '@pampero/core/raster';
import { ownsPlace } from '@pampero/core/squares';
import { PamperoError } from '@pampero/core/task';
import { formatCount, formatCounted } from '@pampero/core/wording';
import { overGroups } from '../../passes/cloud-pass.js';
import { inTurn } from '../../passes/each-cloud.js';
import { nodeGroups } from '../../passes/node-groups.js';
import type { RunContext, RunWork } from '../../runs/run-service.js';
import { readCloudFacts } from '../../store/cloud-repository.js';
import { storeProduct } from '../../store/product-repository.js';
import { positionsOf } from '../../tasks/node-columns.js';
import type { TaskPool } from '../../tasks/task-pool.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

/** Lists are looked through by eye and drawn with text; more than this is a cloud. */
const MOST_POINTS = 200_000;

type Place = readonly [easting: number, northing: number, elevation: number];

/** Numbered points from clouds, from north to south, kept as a list. */
function work(parameters: NumberPointsParameters, { pool, job: { square }, replaces }: Surroundings): RunWork {
  return async (context) => {
    const { which, start, prefix, code, decimals, layer } = parameters;
    const places: Place[] = [];
    const names = await inTurn(parameters.clouds, context, (id, own) =>
      gather(pool, id, parameters, own, places, square?.land),
    );
    if (places.length === 0)
      throw new PamperoError('nothing-selected', {
        what:
          which === 'all'
            ? 'There are no points of these classes.'
            : 'No point of these classes is flagged as a key point.',
        fix: 'Thin the cloud first, or number all points.',
      });
    places.sort((a, b) => b[1] - a[1] || a[0] - b[0] || b[2] - a[2]);
    const points = places.map(([easting, northing, elevation], k): SpotPoint => ({
      number: `${prefix}${start + k}`,
      easting,
      northing,
      elevation,
      code,
    }));
    const [first, last] = [points[0]!.number, points.at(-1)!.number];
    return {
      outcome: `${formatCounted(points.length, 'point')}, ${first} to ${last}`,
      figures: [{ label: 'Points', value: points.length, quantity: 'count' }],
      store: (models) =>
        storeProduct(models, {
          kind: 'spots',
          name: parameters.name ?? `${names.join(', ')}, points ${first} to ${last}`,
          operation: numberPoints.id,
          parameters,
          facts: { count: points.length, first, last, layer, decimals },
          blobs: { points: new TextEncoder().encode(JSON.stringify(points)) },
          replaces,
        }),
    };
  };
}

/** Adds the places of a cloud's points that get a number; answers with its name. */
async function gather(
  pool: TaskPool,
  cloudId: number,
  { which, classes }: NumberPointsParameters,
  { job, signal, report }: RunContext,
  places: Place[],
  square: PlanBounds | undefined,
): Promise<string> {
  const facts = await readCloudFacts(job.read, cloudId);
  const { scale, offset } = facts.quantisation;
  const isTaken = (flags: number, classCode: number): boolean =>
    classes.includes(classCode) &&
    (flags & PointFlag.withheld) === 0 &&
    (which === 'all' || (flags & PointFlag.keyPoint) !== 0);
  const groups = await nodeGroups(job.read, cloudId);
  const onShare = (share: number): void => report(0.9 * share, 'Gathering points');
  await overGroups({ pool, job, signal }, groups, { onShare }, (nodes) => {
    for (const node of nodes) {
      const { x, y, z } = positionsOf(node);
      for (let i = 0; i < node.count; i++)
        if (isTaken(node.flags[i]!, node.classification[i]!)) {
          const [e, n] = [x[i]! * scale[0] + offset[0], y[i]! * scale[1] + offset[1]];
          if (!square || ownsPlace(square, e, n)) places.push([e, n, z[i]! * scale[2] + offset[2]]);
        }
    }
    if (places.length > MOST_POINTS)
      throw new PamperoError('too-many-points', {
        what: `More than ${formatCount(MOST_POINTS)} points would be numbered.`,
        fix: 'Thin the cloud first, by key points or by spacing.',
      });
    return Promise.resolve();
  });
  return facts.name;
}

export const operation = serverOperation(numberPoints, work);
