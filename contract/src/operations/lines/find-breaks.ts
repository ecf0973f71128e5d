import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { figure, lengthIn } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';
import { breakParameters } from './break-parameters.js';

export const findBreaks = {
  id: 'find-breaks',
  stage: 'lines',
  title: 'Find breaks',
  does: 'Looks for every break of a kind in the clouds and proposes lines, each with its fit, to be accepted or refused.',
  method: 'Profiles on a raster, the clearest followed first.',
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      ...breakParameters(unit),
      leastLength: lengthIn(unit)({
        label: 'Minimum length',
        help: 'Shorter lines are not proposed.',
        metres: { default: 5, min: 0, max: 10_000 },
      }),
      leastAgree: figure({
        default: 0.6,
        min: 0,
        max: 1,
        label: 'Share of profiles that must agree',
        help: 'Of the profiles along a line, from 0 to 1.',
        isAdvanced: true,
      }),
    }),
} as const satisfies OperationDescription;
export type FindBreaksParameters = z.output<ReturnType<typeof findBreaks.parameters>>;
