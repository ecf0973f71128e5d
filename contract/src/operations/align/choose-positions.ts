import { z } from 'zod';
import { count, one } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const choosePositions = {
  id: 'choose-positions',
  stage: 'align',
  title: 'Show other positions',
  does: 'Shows a cloud at the positions it came with, or at those it was moved to.',
  isQuick: true,
  parameters: () =>
    z.strictObject({
      cloud: one('cloud', { label: 'Cloud', help: 'The cloud to show elsewhere.' }),
      positions: count({
        default: 0,
        min: 0,
        max: 1_000_000_000,
        label: 'Positions',
        help: '0 for those it came with; the cloud lists the others.',
      }),
    }),
} as const satisfies OperationDescription;
export type ChoosePositionsParameters = z.output<ReturnType<typeof choosePositions.parameters>>;
