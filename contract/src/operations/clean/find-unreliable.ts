import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { figure, lengthIn } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';
import { classFor, cleanedClouds, stopAbove } from './cleaning-parameters.js';

export const findUnreliable = {
  id: 'find-unreliable',
  stage: 'clean',
  title: 'Find unreliable points',
  does: 'Finds points with low confidence where better points of the same surface are near.',
  method: 'Confidence against a limit, with a better neighbour within a distance; common practice.',
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      clouds: cleanedClouds,
      below: figure({
        default: 2,
        label: 'Confidence below',
        help: 'In the numbers of the source. Colour by confidence to see them.',
      }),
      radius: lengthIn(unit)({
        label: 'Better points within',
        help: 'Where none is this near, the point stays: a poor point is better than a hole.',
        metres: { default: 0.5, min: 0.01, max: 20 },
      }),
      toClass: classFor(7),
      stopAbove,
    }),
} as const satisfies OperationDescription;
