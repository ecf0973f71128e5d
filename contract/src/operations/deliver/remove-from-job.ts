import { z } from 'zod';
import { any, meta } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const removeFromJob = {
  id: 'remove-from-job',
  stage: 'deliver',
  title: 'Remove from the job',
  does: 'Takes clouds, survey points and products out of the job. Undo brings them back. What was made from them stays, but cannot be rebuilt.',
  isQuick: true,
  parameters: () =>
    z.strictObject({
      clouds: any('cloud', { label: 'Clouds', help: 'The clouds to remove.' }),
      control: z
        .array(z.int().positive())
        .max(200)
        .default([])
        .meta(
          meta({
            label: 'Survey points',
            help: 'Lists of control or check points, each by the number of the step that brought it in.',
            isHidden: true,
          }),
        ),
      products: any('product', { label: 'Products', help: 'Surfaces, contours, lines and other products to remove.' }),
    }),
} as const satisfies OperationDescription;
export type RemoveFromJobParameters = z.output<ReturnType<typeof removeFromJob.parameters>>;
