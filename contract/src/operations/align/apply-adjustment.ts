import { z } from 'zod';
import { one, words } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const applyAdjustment = {
  id: 'apply-adjustment',
  stage: 'align',
  title: 'Apply the corrections',
  does: 'Moves the points of the cloud by an adjustment. The positions they had stay in the job; classes and edits stay on the points.',
  parameters: () =>
    z.strictObject({
      adjustment: one('adjustment', { label: 'Adjustment', help: 'Its corrections are applied.' }),
      as: words({ default: '', label: 'Name', help: 'What the new positions are called.' }),
    }),
} as const satisfies OperationDescription;
export type ApplyAdjustmentParameters = z.output<ReturnType<typeof applyAdjustment.parameters>>;
