import { z } from 'zod';
import { meta } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';
import { selected } from './set-class.js';

export const copyToCloud = {
  id: 'copy-to-cloud',
  stage: 'clean',
  title: 'Copy to a new cloud',
  does: 'Copies the selected points, with all their attributes, to a new cloud.',
  parameters: () =>
    z.strictObject({
      selection: selected,
      name: z
        .string()
        .trim()
        .min(1, 'Give the cloud a name.')
        .max(120)
        .meta(meta({ label: 'Name', help: 'What the new cloud is called.', quantity: 'name' })),
    }),
} as const satisfies OperationDescription;
