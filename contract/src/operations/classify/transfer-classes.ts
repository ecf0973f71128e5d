import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { clouds, lengthIn, one } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const transferClasses = {
  id: 'transfer-classes',
  stage: 'classify',
  title: 'Transfer classes',
  does: 'Gives each point the class of the nearest point in another cloud, such as the thinned cloud that was worked on. Noise stays noise.',
  method: 'Nearest neighbour in space, within a distance.',
  parameters: (unit: LengthUnit) =>
    z
      .strictObject({
        fromId: one('cloud', { label: 'From', help: 'The cloud that has the classes.' }),
        clouds: clouds('The clouds that get the classes.', { label: 'To' }),
        distance: lengthIn(unit)({
          label: 'Maximum distance',
          help: 'Points further than this from any classed point stay as they are.',
          metres: { default: 0.5, min: 0.01, max: 50 },
        }),
      })
      .refine(({ fromId, clouds: targets }) => !targets.includes(fromId), {
        path: ['fromId'],
        message: 'Choose two different clouds: the one that has the classes and the one that gets them.',
      }),
} as const satisfies OperationDescription;
export type TransferClassesParameters = z.output<ReturnType<typeof transferClasses.parameters>>;
