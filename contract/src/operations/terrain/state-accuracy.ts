import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { lengthIn, one, productName, words } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const stateAccuracy = {
  id: 'state-accuracy',
  stage: 'terrain',
  title: 'State accuracy',
  does: 'Compares a surface with the check points and states its accuracy, for the report that is signed.',
  method:
    'ASPRS Positional Accuracy Standards, edition 1 (2014) for NVA and VVA, edition 2 (2023) for the check points.',
  readsControl: true,
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      surfaceId: one('surface', { label: 'Surface', help: 'The surface to judge.' }),
      surveyError: lengthIn(unit)({
        label: 'Check point accuracy',
        help: 'RMSE of their elevations. It is added in quadrature.',
        metres: { default: 0.01, min: 0, max: 10 },
      }),
      excluded: words({
        default: '',
        max: 2000,
        label: 'Exclude, with reason',
        help: 'Numbers of points that do not count, each with why: K12 on a manhole; K15 moved.',
      }),
      name: productName('What the statement is called.'),
    }),
} as const satisfies OperationDescription;
export type StateAccuracyParameters = z.output<ReturnType<typeof stateAccuracy.parameters>>;
