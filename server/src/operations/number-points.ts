import { numberPoints, type NumberPointsParameters } from '@pampero/contract';
import { PointFlag } from '@pampero/core/cloud';
import type { NumberedPoint } from '@pampero/core/formats/dxf';
import { checkCancelled, PamperoError } from '@pampero/core/task';
import type { RunWork } from '../runs/run-service.js';
import { listStoredNodes, readCloudFacts, readNodeClass } from '../store/cloud-repository.js';
import { storeProduct } from '../store/product-repository.js';
import { positionsOf } from '../tasks/tile-tasks.js';
import { formatCount } from './format-figures.js';
import { readNodeColumns } from './node-groups.js';

/** Lists are looked through by eye and drawn with text; more than this is a cloud. */
const MOST_POINTS = 200_000;

/** Numbered points from a cloud, from north to south, kept as a list. */
export function numberPointsWork(parameters: NumberPointsParameters): RunWork {
  return async ({ job, signal, report }) => {
    const { cloudId, which, classes, start, prefix, code, decimals, layer } = parameters;
    const facts = await readCloudFacts(job.read, cloudId);
    const { scale, offset } = facts.quantisation;
    const isTaken = (flags: number, classCode: number): boolean =>
      classes.includes(classCode) &&
      (flags & PointFlag.withheld) === 0 &&
      (which === 'all' || (flags & PointFlag.keyPoint) !== 0);
    const nodes = await listStoredNodes(job.read, cloudId);
    const places: [number, number, number][] = [];
    for (const [k, node] of nodes.entries()) {
      checkCancelled(signal);
      report((0.9 * k) / nodes.length, 'Gathering points');
      const marks = await readNodeClass(job.read, node.id);
      if (!marks.flags.some((flags, i) => isTaken(flags, marks.classification[i]!))) continue;
      const [columns] = await readNodeColumns(job.read, [node], { attributes: false });
      const { x, y, z } = positionsOf(columns!);
      for (let i = 0; i < node.count; i++)
        if (isTaken(marks.flags[i]!, marks.classification[i]!))
          places.push([x[i]! * scale[0] + offset[0], y[i]! * scale[1] + offset[1], z[i]! * scale[2] + offset[2]]);
      if (places.length > MOST_POINTS)
        throw new PamperoError('too-many-points', {
          what: `More than ${formatCount(MOST_POINTS)} points would be numbered.`,
          mend: 'Thin the cloud first, by key points or by spacing.',
        });
    }
    if (places.length === 0)
      throw new PamperoError('nothing-selected', {
        what:
          which === 'all'
            ? 'The cloud has no points of these classes.'
            : 'No point of these classes is flagged as a key point.',
        mend: 'Thin the cloud first, or number all points.',
      });
    places.sort((a, b) => b[1] - a[1] || a[0] - b[0] || b[2] - a[2]);
    const points = places.map(([easting, northing, elevation], k): NumberedPoint => ({
      number: `${prefix}${start + k}`,
      easting,
      northing,
      elevation,
      code,
    }));
    const last = points.at(-1)!.number;
    return {
      outcome: `${formatCount(points.length)} points, ${points[0]!.number} to ${last}`,
      figures: [{ label: 'Points', value: points.length, quantity: 'count' }],
      store: (models) =>
        storeProduct(models, {
          kind: 'spots',
          name: parameters.name ?? `${facts.name}, points ${points[0]!.number} to ${last}`,
          inputId: 0,
          inputRevision: 0,
          operation: numberPoints.id,
          parameters,
          facts: { count: points.length, first: points[0]!.number, last, layer, decimals },
          blobs: { points: new TextEncoder().encode(JSON.stringify(points)) },
        }),
    };
  };
}
