import type { LengthUnit } from '@pampero/core/geodesy';
import { THINNING_METHODS } from '@pampero/core/thinning';
import { z } from 'zod';
import { lengthIn } from './length.js';
import { cloudChoice, meta, productName, type OperationDescription } from './operation-description.js';

/** Besides those that look at points near each other, some that look at each alone or at all together. */
export const THINNING_CHOICES = [...THINNING_METHODS, 'key-points', 'count', 'intensity'] as const;

export const thinCloud = {
  id: 'thin-cloud',
  stage: 'thin',
  title: 'Thin',
  does: 'Keeps fewer points of the chosen classes. The others stay in the cloud and can be brought back.',
  method:
    'Spacing: Poisson-disk elimination by lots drawn from the coordinates (Cook 1986). Key points: greedy insertion (Garland and Heckbert 1995).',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      cloudId: cloudChoice('The cloud that is thinned.'),
      classes: z
        .array(z.int().min(0).max(255))
        .min(1, 'Choose at least one class.')
        .default([2])
        .meta(
          meta({ label: 'Of classes', help: 'Points of other classes are left as they are.', quantity: 'class-list' }),
        ),
      method: z
        .enum(THINNING_CHOICES)
        .default('spacing')
        .meta(
          meta({
            label: 'Keep',
            help: 'Which points stay.',
            choices: {
              spacing: 'an even spacing',
              'key-points': 'key points: dense where the land curves',
              lowest: 'the lowest of each cell',
              highest: 'the highest of each cell',
              'nearest-mean': 'the one nearest the mean of each cell',
              median: 'the middle one of each cell',
              random: 'a share at random',
              count: 'a number at random',
              intensity: 'a range of intensity',
            },
          }),
        ),
      distance: length({
        label: 'Spacing',
        help: 'No two points that stay are nearer in space.',
        metres: { default: 1, min: 0.01, max: 500 },
        appliesTo: { name: 'method', is: 'spacing' },
      }),
      tolerance: length({
        label: 'Within',
        help: 'The surface of the points that stay lies this near every point, above or below, everywhere.',
        metres: { default: 0.1, min: 0.005, max: 50 },
        appliesTo: { name: 'method', is: 'key-points' },
      }),
      cell: length({
        label: 'Side of a cell',
        help: 'In plan; of each cell one point stays.',
        metres: { default: 1, min: 0.01, max: 500 },
        appliesTo: { name: 'method', is: ['lowest', 'highest', 'nearest-mean', 'median'] },
      }),
      sharePercent: z
        .number()
        .min(0.01, 'The share cannot be under 0.01 %.')
        .max(100, 'The share cannot be over 100 %.')
        .default(10)
        .meta(meta({ label: 'Share, %', help: 'Of the points.', appliesTo: { name: 'method', is: 'random' } })),
      count: z
        .int()
        .min(1, 'At least one point has to stay.')
        .default(100_000)
        .meta(
          meta({
            label: 'Number',
            help: 'So many stay.',
            quantity: 'count',
            appliesTo: { name: 'method', is: 'count' },
          }),
        ),
      intensityFrom: z
        .int()
        .min(0)
        .max(65_535)
        .default(0)
        .meta(
          meta({
            label: 'Intensity from',
            help: 'Points darker than this do not stay.',
            quantity: 'count',
            appliesTo: { name: 'method', is: 'intensity' },
          }),
        ),
      intensityTo: z
        .int()
        .min(0)
        .max(65_535)
        .default(65_535)
        .meta(
          meta({
            label: 'To',
            help: 'Points brighter than this do not stay.',
            quantity: 'count',
            appliesTo: { name: 'method', is: 'intensity' },
          }),
        ),
      outcome: z
        .enum(['key-point', 'withhold', 'new-cloud'])
        .default('key-point')
        .meta(
          meta({
            label: 'What becomes of it',
            help: 'Flags only, or a cloud of its own; nothing is deleted.',
            choices: {
              'key-point': 'flag those that stay as key points',
              withhold: 'withhold the others',
              'new-cloud': 'a new cloud of those that stay',
            },
          }),
        ),
      differenceMap: z
        .boolean()
        .default(false)
        .meta(
          meta({
            label: 'Map the difference',
            help: 'A grid of how far the surface of those that stay lies off the points, the worst of each cell.',
          }),
        ),
    });
  },
} as const satisfies OperationDescription;

export const numberPoints = {
  id: 'number-points',
  stage: 'thin',
  title: 'Number points',
  does: 'Makes numbered spot points of what thinning has kept, to be handed over as a list or a drawing.',
  parameters: () =>
    z.strictObject({
      cloudId: cloudChoice('The cloud whose points are numbered.'),
      which: z
        .enum(['key-points', 'all'])
        .default('key-points')
        .meta(
          meta({
            label: 'Of the points',
            help: 'Those flagged as key points, or all that are not withheld.',
            choices: { 'key-points': 'the key points', all: 'all' },
          }),
        ),
      classes: z
        .array(z.int().min(0).max(255))
        .min(1, 'Choose at least one class.')
        .default([2])
        .meta(meta({ label: 'Of classes', help: 'Points of other classes get no number.', quantity: 'class-list' })),
      start: z
        .int()
        .min(0)
        .default(1)
        .meta(meta({ label: 'First number', help: 'They are numbered from north to south.', quantity: 'count' })),
      prefix: z
        .string()
        .trim()
        .max(20)
        .default('')
        .meta(meta({ label: 'Before the number', help: 'Letters, or nothing.', quantity: 'name' })),
      code: z
        .string()
        .trim()
        .max(40)
        .default('GND')
        .meta(meta({ label: 'Code', help: 'Feature code of every point.', quantity: 'name' })),
      layer: z
        .string()
        .trim()
        .min(1, 'Name the layer.')
        .max(40)
        .default('SPOTS')
        .meta(
          meta({
            label: 'Layer',
            help: 'In the drawing; numbers and elevations get layers of their own.',
            quantity: 'name',
          }),
        ),
      decimals: z
        .int()
        .min(0)
        .max(4)
        .default(3)
        .meta(meta({ label: 'Decimals', help: 'To which coordinates are rounded.', quantity: 'count' })),
      name: productName('Name', 'What the points are called.'),
    }),
} as const satisfies OperationDescription;

/** What a surveyor changes in a list of numbered points. */
export const editPoints = {
  id: 'edit-points',
  stage: 'thin',
  title: 'Edit points',
  does: 'Changes numbers and codes of numbered points, or leaves some out; where they were measured stays.',
  isQuick: true,
  parameters: () =>
    z.strictObject({
      spotsId: z.int().positive(),
      changes: z
        .array(
          z.strictObject({
            /** Place in the list, from 0. */
            index: z.int().nonnegative(),
            number: z.string().trim().min(1, 'A point needs a number.').max(40).optional(),
            code: z.string().trim().max(40).optional(),
            isLeftOut: z.boolean().optional(),
          }),
        )
        .min(1, 'Nothing was changed.')
        .max(200_000),
    }),
} as const satisfies OperationDescription;
