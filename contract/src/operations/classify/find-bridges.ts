import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { clouds, lengthIn } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const findBridges = {
  id: 'find-bridges',
  stage: 'classify',
  title: 'Find bridges',
  does: 'Sets class 17 on bridge decks, also those classed as ground: the land drops on both sides and meets the deck at both ends.',
  method: 'After Sithole and Vosselman 2006, ISPRS Journal of Photogrammetry and Remote Sensing 61(1), 33-46.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      clouds: clouds('The clouds to find bridges in. Find their ground first.'),
      widest: length({
        label: 'Widest deck',
        help: 'From edge to edge, across the road.',
        metres: { default: 30, min: 2, max: 100 },
      }),
      leastDrop: length({
        label: 'Minimum height over the land below',
        help: 'A smaller drop may be a kerb or a ditch.',
        metres: { default: 1.5, min: 0.5, max: 20 },
      }),
    });
  },
} as const satisfies OperationDescription;
export type FindBridgesParameters = z.output<ReturnType<typeof findBridges.parameters>>;
