import { z } from 'zod';
import { classCodeSchema } from '../../classes.js';
import { selectionSchema } from '../../selections.js';
import type { OperationDescription } from '../operation-description.js';

/** What a hand edit is done to. */
export const selected = selectionSchema.min(1, 'Nothing is selected.');

export const setClass = {
  id: 'set-class',
  stage: 'clean',
  title: 'Set class',
  does: 'Sets the class of the selected points.',
  isQuick: true,
  parameters: () => z.strictObject({ selection: selected, classCode: classCodeSchema }),
} as const satisfies OperationDescription;
