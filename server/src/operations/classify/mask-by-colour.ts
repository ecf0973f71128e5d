import { maskByColour, type MaskByColourParameters } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { pixelSize } from '@pampero/core/imagery';
import { PamperoError } from '@pampero/core/task';
import { formatCounted, formatNumber } from '@pampero/core/wording';
import { maskOf } from '../../passes/picture-mask.js';
import type { RunWork } from '../../runs/run-service.js';
import { keptMask, shownRings } from '../../store/mask-cells.js';
import { readProduct, storeProduct } from '../../store/product-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

function work(parameters: MaskByColourParameters, { pool, unit, replaces }: Surroundings): RunWork {
  return async ({ job, signal, report }) => {
    const picture = await readProduct(job.read, parameters.picture, 'picture');
    const made = await maskOf({ pool, job, signal }, picture, parameters, (share) =>
      report(0.9 * share, 'Comparing colours'),
    );
    const { mask, rings, frame, area, pieces, colours, tolerance } = made;
    if (pieces === 0)
      throw new PamperoError('mask-empty', {
        what: 'No land is left in the mask.',
        fix: 'Give a larger colour tolerance, soften less, drop smaller pieces only, or pick other places.',
      });
    const { short } = lengthUnits[unit];
    const name = parameters.name ?? `Mask of ${picture.name}`;
    return {
      outcome: `${name}: ${formatNumber(area, 0)} ${short}² in ${formatCounted(pieces, 'piece')}`,
      figures: [
        { label: 'Area', value: area, quantity: 'area' },
        { label: 'Pieces', value: pieces, quantity: 'count' },
        { label: 'Pixel', value: pixelSize(frame), quantity: 'length' },
        { label: 'Colour tolerance', value: formatNumber(tolerance, 1), quantity: 'text' },
      ],
      store: (models) =>
        storeProduct(models, {
          kind: 'mask',
          name,
          operation: maskByColour.id,
          parameters,
          facts: {
            ...frame,
            pictureName: picture.name,
            area,
            pieces,
            colours: colours.map(([l, a, b]): [number, number, number] => [l, a, b]),
            tolerance,
          },
          blobs: { cells: keptMask(mask), rings: Buffer.from(JSON.stringify(shownRings(rings))) },
          replaces,
        }),
    };
  };
}

export const operation = serverOperation(maskByColour, work);
