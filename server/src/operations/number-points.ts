import {
  editPoints,
  numberPoints,
  type EditPointsParameters,
  type NumberPointsParameters,
  type SpotPoint,
} from '@pampero/contract';
import { PointFlag } from '@pampero/core/cloud';
import { checkCancelled, PamperoError } from '@pampero/core/task';
import type { RunWork } from '../runs/run-service.js';
import { listStoredNodes, readCloudFacts } from '../store/cloud-repository.js';
import type { Models } from '../jobs/models.js';
import { readProduct, readShownPart, storeProduct } from '../store/product-repository.js';
import { positionsOf } from '../tasks/node-columns.js';
import { formatCount } from './format-figures.js';
import { groupNodes, readNodeColumns } from './node-groups.js';

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
    const groups = groupNodes(nodes);
    for (const [k, group] of groups.entries()) {
      checkCancelled(signal);
      report((0.9 * k) / groups.length, 'Gathering points');
      for (const node of await readNodeColumns(job.read, group, { attributes: false })) {
        const { x, y, z } = positionsOf(node);
        for (let i = 0; i < node.count; i++)
          if (isTaken(node.flags[i]!, node.classification[i]!))
            places.push([x[i]! * scale[0] + offset[0], y[i]! * scale[1] + offset[1], z[i]! * scale[2] + offset[2]]);
      }
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
    const points = places.map(([easting, northing, elevation], k): SpotPoint => ({
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

export async function readSpots(models: Models, spotsId: number): Promise<SpotPoint[]> {
  return JSON.parse((await readShownPart(models, 'spots', spotsId, 'points')).toString()) as SpotPoint[];
}

/** Numbers and codes as the surveyor wants them; the list takes the place of the one before, and can be taken back. */
export function editPointsWork({ spotsId, changes }: EditPointsParameters): RunWork {
  return async ({ job }) => {
    const product = await readProduct(job.read, spotsId, 'spots');
    const points = await readSpots(job.read, spotsId);
    const leftOut = new Set<number>();
    for (const { index, number, code, isLeftOut } of changes) {
      const point = points[index];
      if (!point)
        throw new PamperoError('no-such-point', {
          what: `The list has ${formatCount(points.length)} points; there is none at place ${index + 1}.`,
          mend: 'Read the list again.',
        });
      points[index] = { ...point, ...(number !== undefined && { number }), ...(code !== undefined && { code }) };
      if (isLeftOut) leftOut.add(index);
    }
    const kept = points.filter((_, index) => !leftOut.has(index));
    if (kept.length === 0)
      throw new PamperoError('nothing-left', { what: 'No point would be left.', mend: 'Take the list back by undo.' });
    const seen = new Set<string>();
    for (const { number } of kept) {
      if (seen.has(number))
        throw new PamperoError('number-twice', {
          what: `The number ${number} would be there twice.`,
          mend: 'Give each point a number of its own.',
        });
      seen.add(number);
    }
    const changed = changes.length - leftOut.size;
    return {
      outcome: [
        changed > 0 && `${formatCount(changed)} changed`,
        leftOut.size > 0 && `${formatCount(leftOut.size)} left out`,
      ]
        .filter(Boolean)
        .join(', '),
      figures: [{ label: 'Points', value: kept.length, quantity: 'count' }],
      store: (models) =>
        storeProduct(models, {
          kind: 'spots',
          name: product.name,
          inputId: product.inputId,
          inputRevision: 0,
          operation: editPoints.id,
          parameters: product.parameters,
          facts: { ...product.facts, count: kept.length, first: kept[0]!.number, last: kept.at(-1)!.number },
          blobs: { points: new TextEncoder().encode(JSON.stringify(kept)) },
          replaces: spotsId,
        }),
    };
  };
}
