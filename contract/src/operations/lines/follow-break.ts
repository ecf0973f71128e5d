import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { flag, lengthIn } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';
import { breakParameters, guideSchema } from './break-parameters.js';

export const followBreak = {
  id: 'follow-break',
  stage: 'lines',
  title: 'Follow a break',
  does: 'Follows a kerb, a bank or another break along a guide, profile by profile, and makes lines of what the points show.',
  method: 'Cross profiles: two straight sides with a step, or straight pieces that meet, by least squares.',
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      ...breakParameters(unit),
      reach: lengthIn(unit)({
        label: 'Distance from the guide',
        help: 'How far from the guide the break may lie.',
        metres: { default: 1, min: 0.05, max: 100 },
      }),
      goesOn: flag({
        default: false,
        label: 'Go on beyond the guide',
        help: 'Follows the break further, until it ends.',
      }),
      guide: guideSchema,
    }),
} as const satisfies OperationDescription;
export type FollowBreakParameters = z.output<ReturnType<typeof followBreak.parameters>>;
