import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { choice, lengthIn, one, oneOrNone } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const flagOverlap = {
  id: 'flag-overlap',
  stage: 'align',
  title: 'Flag overlap',
  does: 'Keeps one strip at each place and flags the points of the others as overlap (LAS 1.4), so that products can be made without doubled strips.',
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      cloud: one('cloud', { label: 'Cloud', help: 'The cloud whose overlaps are flagged.' }),
      strips: oneOrNone('strips', {
        label: 'Strips',
        help: 'How the points are told apart by strip.',
        none: 'by point source ID',
      }),
      keep: choice(['nadir', 'densest'], {
        default: 'nadir',
        label: 'Keep the strip',
        help: 'Whose scan angle is least, or that has most points.',
        choices: { nadir: 'nearest to straight down', densest: 'with most points' },
      }),
      cell: lengthIn(unit)({
        metres: { default: 5, min: 0.5, max: 500 },
        label: 'Cell',
        help: 'Side of the places at which one strip is kept. Larger makes tidier seams.',
      }),
    }),
} as const satisfies OperationDescription;
export type FlagOverlapParameters = z.output<ReturnType<typeof flagOverlap.parameters>>;
