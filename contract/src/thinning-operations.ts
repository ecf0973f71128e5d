import type { LengthUnit } from '@pampero/core/geodesy';
import { THINNING_METHODS } from '@pampero/core/thinning';
import { z } from 'zod';
import { lengthIn } from './length.js';
import { cloudChoice, meta, type OperationDescription } from './operation-description.js';

export const thinCloud = {
  id: 'thin-cloud',
  stage: 'thin',
  title: 'Thin',
  does: 'Keeps fewer points of the chosen classes. The others stay in the cloud and can be brought back.',
  method: 'Poisson-disk elimination by lots drawn from the coordinates (Cook 1986), or one point a cell.',
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      cloudId: cloudChoice('The cloud that is thinned.'),
      classes: z
        .array(z.int().min(0).max(255))
        .min(1, 'Choose at least one class.')
        .default([2])
        .meta(
          meta({ label: 'Of classes', help: 'Points of other classes are left as they are.', quantity: 'class-list' }),
        ),
      method: z
        .enum(THINNING_METHODS)
        .default('spacing')
        .meta(
          meta({
            label: 'Keep',
            help: 'By spacing: evenly, no two nearer. Of each cell: the lowest, the highest, the one nearest the mean height, the median. Or a share at random.',
          }),
        ),
      distance: lengthIn(unit)({
        label: 'Spacing, or side of a cell',
        help: 'Least distance between points that stay; for one a cell, its side in plan.',
        metres: { default: 1, min: 0.01, max: 500 },
      }),
      sharePercent: z
        .number()
        .min(0.01, 'The share cannot be under 0.01 %.')
        .max(100, 'The share cannot be over 100 %.')
        .default(10)
        .meta(meta({ label: 'Share, %', help: 'For points at random.', isAdvanced: true })),
      outcome: z
        .enum(['key-point', 'withhold'])
        .default('key-point')
        .meta(
          meta({
            label: 'What becomes of it',
            help: 'Key-point flags those that stay; withhold flags the others, so that nothing is made from them.',
          }),
        ),
    }),
} as const satisfies OperationDescription;
