import { z } from 'zod';
import type { OperationDescription } from '../operation-description.js';
import { selected } from './set-class.js';

export const restore = {
  id: 'restore',
  stage: 'clean',
  title: 'Restore withheld',
  does: 'Takes the withheld flag off the selected points.',
  isQuick: true,
  parameters: () => z.strictObject({ selection: selected }),
} as const satisfies OperationDescription;
