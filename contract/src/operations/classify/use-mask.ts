import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { choice, classChoice, classList, clouds, lengthIn, one, oneOrNone } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const useMask = {
  id: 'use-mask',
  stage: 'classify',
  title: 'Use mask',
  does: 'Gives the points over and under a mask a class, or withholds them.',
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      mask: one('mask', { label: 'Mask', help: 'Points that lie on it in plan are changed.' }),
      clouds: clouds('The clouds whose points are changed.'),
      change: choice(['class', 'withhold'], {
        default: 'class',
        label: 'Points',
        help: 'Withheld points stay in the job and leave nothing that is made of them.',
        choices: { class: 'get a class', withhold: 'are withheld' },
      }),
      toClass: classChoice(9, {
        label: 'Set class to',
        help: 'The class they get.',
        appliesTo: { name: 'change', is: 'class' },
      }),
      classes: classList({
        label: 'Of classes',
        help: 'Only points of these are changed: what is known to be building or plant stays.',
      }).default([0, 1, 2, 3]),
      surface: oneOrNone('surface', {
        label: 'Not over',
        help: 'A surface over which high points are left as they are: trees that lean over water in a picture.',
        none: 'all heights are changed',
      }),
      height: lengthIn(unit)({
        label: 'Height',
        help: 'Points higher than this over the surface are left as they are.',
        metres: { default: 1, min: 0.05, max: 100 },
      }),
    }),
} as const satisfies OperationDescription;
export type UseMaskParameters = z.output<ReturnType<typeof useMask.parameters>>;
