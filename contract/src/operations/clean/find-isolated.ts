import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { count, lengthIn } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';
import { classFor, cleanedClouds, stopAbove } from './cleaning-parameters.js';

export const findIsolated = {
  id: 'find-isolated',
  stage: 'clean',
  title: 'Find isolated points',
  does: 'Finds points with too few neighbours.',
  method: 'Neighbours counted within a radius; common practice.',
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      clouds: cleanedClouds,
      radius: lengthIn(unit)({
        label: 'Search radius',
        help: 'Counts neighbours this near, in every direction.',
        metres: { default: 1, min: 0.02, max: 50 },
      }),
      leastNeighbours: count({
        default: 4,
        min: 1,
        max: 200,
        label: 'Minimum neighbours',
        help: 'A point with fewer neighbours is isolated.',
      }),
      toClass: classFor(7),
      stopAbove,
    }),
} as const satisfies OperationDescription;
