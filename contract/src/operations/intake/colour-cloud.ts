import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { lengthIn, lengthOrNone, one, oneOrNone } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';
import { colouredPoints } from './coloured-points.js';

export const colourCloud = {
  id: 'colour-cloud',
  stage: 'intake',
  title: 'Colour cloud',
  does: 'Gives points the colour that a picture has at their place, after a look at whether it lies right. Undone in one step.',
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      picture: one('picture', { label: 'Picture', help: 'Where colours are taken from.' }),
      cloud: one('cloud', { label: 'Cloud', help: 'What is coloured.' }),
      ...colouredPoints,
      surface: oneOrNone('surface', {
        label: 'Not over',
        help: 'A surface over which high points are left as they are: trees and roofs lean in a picture.',
        none: 'all heights are coloured',
      }),
      height: lengthIn(unit)({
        label: 'Height',
        help: 'Points higher than this over the surface are left as they are.',
        metres: { default: 1, min: 0.05, max: 100 },
      }),
      shiftLimit: lengthOrNone(unit)({
        label: 'Largest shift',
        help: 'A picture that surely lies further off is refused. Left out: two pixels, and no less than the points lie apart.',
        metres: { min: 0, max: 1000 },
        isAdvanced: true,
      }),
    }),
} as const satisfies OperationDescription;
export type ColourCloudParameters = z.output<ReturnType<typeof colourCloud.parameters>>;
