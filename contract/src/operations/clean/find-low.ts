import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { count, lengthIn } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';
import { classFor, cleanedClouds, stopAbove } from './cleaning-parameters.js';

export const findLow = {
  id: 'find-low',
  stage: 'clean',
  title: 'Find low points',
  does: 'Finds points below the land, alone or in small clusters.',
  method: 'Fewer than a cluster of points at their level, the land all higher; common practice.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      clouds: cleanedClouds,
      drop: length({
        label: 'Low-point depth',
        help: 'At least this far below the land. The land itself may fall by three in ten.',
        metres: { default: 0.4, min: 0.02, max: 50 },
      }),
      radius: length({
        label: 'Search radius',
        help: 'Compares each point with the land this near, in plan.',
        metres: { default: 4, min: 0.1, max: 50 },
      }),
      largestCluster: count({
        default: 8,
        min: 1,
        max: 500,
        label: 'Largest cluster',
        help: 'More points together are a pit, not low points.',
      }),
      toClass: classFor(7),
      stopAbove,
    });
  },
} as const satisfies OperationDescription;
