import { z } from 'zod';
import { any } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const removeFromJob = {
  id: 'remove-from-job',
  stage: 'deliver',
  title: 'Remove from the job',
  does: 'Takes clouds and products out of the job. Undo brings them back. What was made from them stays, but cannot be rebuilt.',
  isQuick: true,
  parameters: () =>
    z.strictObject({
      clouds: any('cloud', { label: 'Clouds', help: 'The clouds to remove.' }),
      products: any('product', { label: 'Products', help: 'Surfaces, contours, lines and other products to remove.' }),
    }),
} as const satisfies OperationDescription;
export type RemoveFromJobParameters = z.output<ReturnType<typeof removeFromJob.parameters>>;
