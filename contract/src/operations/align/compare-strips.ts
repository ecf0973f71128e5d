import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { productName } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';
import { patchParameters, stripCloud } from './strip-parameters.js';

export const compareStrips = {
  id: 'compare-strips',
  stage: 'align',
  title: 'Compare strips',
  does: 'Measures how strips differ in height where they overlap, on smooth patches, and each strip against the surveyed points.',
  method: 'Swath-to-swath differences on smooth patches (ASPRS Positional Accuracy Standards 2014).',
  readsControl: true,
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      ...stripCloud(),
      ...patchParameters(unit, 10),
      name: productName('What the comparison is called.'),
    }),
} as const satisfies OperationDescription;
export type CompareStripsParameters = z.output<ReturnType<typeof compareStrips.parameters>>;
