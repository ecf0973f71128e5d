import { z } from 'zod';
import type { OperationDescription } from '../operation-description.js';
import { selected } from './set-class.js';

export const withhold = {
  id: 'withhold',
  stage: 'clean',
  title: 'Withhold',
  does: 'Flags the selected points as withheld: they stay in the cloud and are left out of everything made from it.',
  isQuick: true,
  parameters: () => z.strictObject({ selection: selected }),
} as const satisfies OperationDescription;
