import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { lengthOrNone, one } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const checkPictureShift = {
  id: 'check-shift',
  stage: 'intake',
  title: 'Check shift',
  does: 'Holds a picture against a cloud, tile by tile, and tells how far it lies off, how much that scatters and how sure it is.',
  method:
    'Phase correlation (Kuglin and Hines, 1975) of the edges of both (orientation correlation: Fitch, Kadyrov, Christmas and Kittler, 2002), first of all tiles together, then of each.',
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      picture: one('picture', { label: 'Picture', help: 'What is held against the cloud.' }),
      cloud: one('cloud', {
        label: 'Cloud',
        help: 'Its intensity, heights and own colours are what the picture is held against.',
      }),
      cell: lengthOrNone(unit)({
        label: 'Cell',
        help: 'How finely the two are compared. Left out: as fine as the points of the cloud are, and no finer than the pixels.',
        metres: { min: 0.01, max: 100 },
        isAdvanced: true,
      }),
    }),
} as const satisfies OperationDescription;
export type CheckShiftParameters = z.output<ReturnType<typeof checkPictureShift.parameters>>;
