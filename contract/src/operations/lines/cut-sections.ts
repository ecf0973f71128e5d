import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { count, lengthIn, lineKey, one, oneOrNone, productName } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const cutSections = {
  id: 'cut-sections',
  stage: 'lines',
  title: 'Cut cross sections',
  does: 'Cuts surfaces square to a line at even stations, with areas and end-area volumes beside the exact ones.',
  method: 'Average end areas; the exact volume over the merged triangulations within the same corridor.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      along: one('lines', { label: 'Along', help: 'The code whose line is the alignment.' }),
      key: lineKey(),
      surfaceId: one('surface', { label: 'Surface', help: 'The ground that is cut.' }),
      otherId: oneOrNone('surface', {
        label: 'Against',
        help: 'A second surface: the design, or an earlier survey.',
        none: 'none',
      }),
      step: length({
        label: 'Step',
        help: 'Between sections along the line.',
        metres: { default: 20, min: 0.1, max: 10_000 },
      }),
      left: length({
        label: 'To the left',
        help: 'How far each section reaches.',
        metres: { default: 20, min: 0, max: 10_000 },
      }),
      right: length({
        label: 'To the right',
        help: 'How far each section reaches.',
        metres: { default: 20, min: 0, max: 10_000 },
      }),
      exaggeration: count({
        default: 2,
        min: 1,
        max: 20,
        label: 'Heights drawn out',
        help: 'On the sheet, how many times taller than wide.',
        isAdvanced: true,
      }),
      name: productName('What the sections are called.'),
    });
  },
} as const satisfies OperationDescription;
export type CutSectionsParameters = z.output<ReturnType<typeof cutSections.parameters>>;
