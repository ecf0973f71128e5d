import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { lengthOrNone, productName, some } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const joinPictures = {
  id: 'join-pictures',
  stage: 'intake',
  title: 'Join pictures',
  does: 'Makes one picture of several. Where they lie over each other, the one that was chosen first is seen.',
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      pictures: some('picture', {
        label: 'Pictures',
        help: 'In the order they are to lie in: the first is on top.',
      }),
      pixel: lengthOrNone(unit)({
        label: 'Pixel size',
        help: 'Side of a pixel. Left out: that of the finest picture.',
        metres: { min: 0.001, max: 1000 },
      }),
      name: productName('What the picture is called in the layers.'),
    }),
} as const satisfies OperationDescription;
export type JoinPicturesParameters = z.output<ReturnType<typeof joinPictures.parameters>>;
