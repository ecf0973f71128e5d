import { z } from 'zod';
import type { OperationDescription } from '../operation-description.js';

export const giveBackSpace = {
  id: 'give-back-space',
  stage: 'deliver',
  title: 'Give back space',
  does: 'Deletes for good what the job keeps for Undo alone: removed and replaced clouds and products, and earlier classes. Steps before this one can no longer be undone.',
  parameters: () => z.strictObject({}),
} as const satisfies OperationDescription;
