import { editPoints, type EditPointsParameters, type SpotPoint } from '@pampero/contract';
import { PamperoError } from '@pampero/core/task';
import { formatCount } from '@pampero/core/wording';
import type { RunWork } from '../../runs/run-service.js';
import { readProduct, readShownPart, storeProduct } from '../../store/product-repository.js';
import { serverOperation } from '../server-operation.js';

/** Numbers and codes as the surveyor wants them; the list takes the place of the one before, and can be taken back. */
function work({ spotsId, changes }: EditPointsParameters): RunWork {
  return async ({ job }) => {
    const product = await readProduct(job.read, spotsId, 'spots');
    const text = (await readShownPart(job.read, 'spots', spotsId, 'points')).toString();
    const points = JSON.parse(text) as SpotPoint[];
    const leftOut = new Set<number>();
    for (const { index, number, code, isLeftOut } of changes) {
      const point = points[index];
      if (!point)
        throw new PamperoError('no-such-point', {
          what: `The list has ${formatCount(points.length)} points; there is no point ${index + 1}.`,
          fix: 'Read the list again.',
        });
      points[index] = { ...point, ...(number !== undefined && { number }), ...(code !== undefined && { code }) };
      if (isLeftOut) leftOut.add(index);
    }
    const kept = points.filter((_, index) => !leftOut.has(index));
    if (kept.length === 0)
      throw new PamperoError('nothing-left', { what: 'No point would be left.', fix: 'Undo to restore the list.' });
    const seen = new Set<string>();
    for (const { number } of kept) {
      if (seen.has(number))
        throw new PamperoError('number-twice', {
          what: `The number ${number} would be used twice.`,
          fix: 'Give each point its own number.',
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
          operation: product.operation,
          inputs: product.inputs,
          parameters: product.parameters,
          facts: {
            ...product.facts,
            count: kept.length,
            first: kept[0]!.number,
            last: kept.at(-1)!.number,
            isEdited: true,
          },
          blobs: { points: new TextEncoder().encode(JSON.stringify(kept)) },
          replaces: spotsId,
        }),
    };
  };
}

export const operation = serverOperation(editPoints, work);
