import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { classList, elevation, lengthIn, one, words } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const layFlat = {
  id: 'lay-flat',
  stage: 'classify',
  title: 'Lay points flat',
  does: 'Moves the points over and under a mask to one level, each piece of it to its own. The cloud keeps where they were, and undo is at once.',
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      mask: one('mask', { label: 'Mask', help: 'Points that lie on it in plan are moved.' }),
      cloud: one('cloud', { label: 'Cloud', help: 'The cloud whose points are moved.' }),
      level: elevation({
        label: 'Level',
        help: 'The elevation of all of it. Left out: the middle of the ground points just outside the edge of each piece.',
        none: 'from the ground',
      }),
      classes: classList({
        label: 'Of classes',
        help: 'Only points of these are moved: what is known to be building or plant stays.',
      }).default([0, 1, 2, 3, 7, 9]),
      reach: lengthIn(unit)({
        label: 'No further than',
        help: 'Points that lie further over or under the level stay where they are: birds, and branches over water.',
        metres: { default: 3, min: 0.01, max: 1000 },
      }),
      as: words({
        default: '',
        label: 'Name of the positions',
        help: 'What the moved positions are called. Empty: “Laid flat”.',
        isAdvanced: true,
      }),
    }),
} as const satisfies OperationDescription;
export type LayFlatParameters = z.output<ReturnType<typeof layFlat.parameters>>;
