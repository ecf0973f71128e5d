import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { choice, meta, one, oneOrNone } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const PICTURE_MOVES = ['shift', 'shift-turn-scale'] as const;

export const movePicture = {
  id: 'move-picture',
  stage: 'intake',
  title: 'Move picture',
  does: 'Takes a shift out of a picture: that of a shift check, or one that is typed. Its pixels stay as they are.',
  parameters: (_unit: LengthUnit) =>
    z.strictObject({
      picture: one('picture', { label: 'Picture', help: 'What is moved.' }),
      check: oneOrNone('shift-check', {
        label: 'By',
        help: 'The shift check whose shift is taken out.',
        none: 'typed numbers',
      }),
      how: choice(PICTURE_MOVES, {
        default: 'shift',
        label: 'Take out',
        help: 'A turn and a scale are worth taking out where the arrows of the check point different ways.',
        choices: { shift: 'the shift alone', 'shift-turn-scale': 'shift, turn and scale' },
      }),
      east: z
        .number({ error: 'East: type a length.' })
        .min(-10_000)
        .max(10_000)
        .default(0)
        .meta(
          meta({
            label: 'East',
            help: 'How far it is moved to the east, where no check is chosen.',
            quantity: 'length',
          }),
        ),
      north: z
        .number({ error: 'North: type a length.' })
        .min(-10_000)
        .max(10_000)
        .default(0)
        .meta(
          meta({
            label: 'North',
            help: 'How far it is moved to the north, where no check is chosen.',
            quantity: 'length',
          }),
        ),
    }),
} as const satisfies OperationDescription;
export type MovePictureParameters = z.output<ReturnType<typeof movePicture.parameters>>;
