import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { clouds, lengthIn } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const findWater = {
  id: 'find-water',
  stage: 'classify',
  title: 'Find water',
  does: 'Sets class 9 on returns from standing or slow water: level, lower than its banks, and where many pulses have no return.',
  method: 'After the signs of Höfle et al. 2009, IEEE Transactions on Geoscience and Remote Sensing 47(10), 3323-3333.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      clouds: clouds('The clouds to find water in. Find their ground first.'),
      smallest: length({
        label: 'Smallest water, side',
        help: 'A piece of water covers at least a square with this side.',
        metres: { default: 5, min: 1, max: 1000 },
      }),
      tolerance: length({
        label: 'Level tolerance',
        help: 'How far neighbouring cells of water may differ. Twice the ranging noise or more.',
        metres: { default: 0.1, min: 0.01, max: 1 },
      }),
    });
  },
} as const satisfies OperationDescription;
export type FindWaterParameters = z.output<ReturnType<typeof findWater.parameters>>;
