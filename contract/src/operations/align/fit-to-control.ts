import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { choice, count, lengthIn, one, words } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const fitToControl = {
  id: 'fit-to-control',
  stage: 'align',
  title: 'Fit the cloud to control',
  does: 'Moves the whole cloud in height so that it fits the control points: one shift, a tilted plane, or a smooth surface of corrections.',
  readsControl: true,
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      cloud: one('cloud', { label: 'Cloud', help: 'The cloud to move.' }),
      method: choice(['shift', 'tilt', 'surface'], {
        default: 'shift',
        label: 'Correct by',
        help: 'The simplest that does it. Check points judge the result.',
        choices: { shift: 'one shift', tilt: 'a tilted plane', surface: 'a smooth surface' },
      }),
      smoothing: lengthIn(unit)({
        metres: { default: 0.02, min: 0, max: 10 },
        label: 'Control may be off by',
        help: 'A smooth surface passes the points within about this much.',
        appliesTo: { name: 'method', is: 'surface' },
      }),
      keepOut: count({
        default: 0,
        min: 0,
        max: 1000,
        label: 'Keep out every n-th control point',
        help: 'Kept to judge the result by. 0: none but the check points.',
        isAdvanced: true,
      }),
      as: words({ default: '', label: 'Name', help: 'What the new positions are called.' }),
    }),
} as const satisfies OperationDescription;
export type FitToControlParameters = z.output<ReturnType<typeof fitToControl.parameters>>;
