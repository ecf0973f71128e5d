import { TARGET_FITS } from '@pampero/core/strips';
import { z } from 'zod';
import { choice, meta, one, words } from '../../parameters/index.js';
import { lineOfText } from '../../text.js';
import type { OperationDescription } from '../operation-description.js';

export const fitToTargets = {
  id: 'fit-to-targets',
  stage: 'align',
  title: 'Fit the cloud to targets',
  does: 'Moves the whole cloud in all three directions, so that targets picked in it lie where they were surveyed. Check points judge the result.',
  method: 'Least squares of distances (Umeyama 1991).',
  readsControl: true,
  parameters: () =>
    z.strictObject({
      cloud: one('cloud', { label: 'Cloud', help: 'The cloud to move.' }),
      targets: z
        .array(z.strictObject({ number: lineOfText(60), at: z.tuple([z.number(), z.number(), z.number()]) }))
        .min(1, 'Pick one target in the cloud at least.')
        .max(1000)
        .refine((list) => new Set(list.map(({ number }) => number)).size === list.length, {
          error: 'A target is picked twice.',
        })
        .meta(meta({ label: 'Targets', help: 'Number of each, and where it lies in the cloud.', isHidden: true })),
      by: choice([...TARGET_FITS], {
        default: 'shift',
        label: 'Correct by',
        help: 'The simplest that does it. A cloud that comes from a scanner is neither too large nor too small.',
        choices: {
          shift: 'a shift',
          level: 'a shift and a turn about the upright',
          turn: 'a shift and any turn',
          scale: 'a shift, any turn and a scale',
        },
      }),
      as: words({ default: '', label: 'Name', help: 'What the new positions are called.' }),
    }),
} as const satisfies OperationDescription;
export type FitToTargetsParameters = z.output<ReturnType<typeof fitToTargets.parameters>>;
