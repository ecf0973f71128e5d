import { z } from 'zod';
import { classCodeSchema } from '../../classes.js';
import { selectionSchema } from '../../selections.js';
import { meta } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

/** What a hand edit is done to. */
export const selected = selectionSchema
  .min(1, 'Nothing is selected.')
  .meta(meta({ label: 'Selection', help: 'The steps that select the points.', isHidden: true }));

export const setClass = {
  id: 'set-class',
  stage: 'clean',
  title: 'Set class',
  does: 'Sets the class of the selected points.',
  isQuick: true,
  parameters: () =>
    z.strictObject({
      selection: selected,
      classCode: classCodeSchema.meta(
        meta({ label: 'Class', help: 'The new class of the points.', quantity: 'class' }),
      ),
    }),
} as const satisfies OperationDescription;
