import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { choice, clouds, count, lengthOrNone, meta, productName } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

/** What a picture made of points can show. */
export const PICTURE_SHOWS = ['colour', 'intensity', 'elevation'] as const;
/** Noise, low and high. */
const NOISE = [7, 18];

export const drawPicture = {
  id: 'draw-picture',
  stage: 'deliver',
  title: 'Draw picture of cloud',
  does: 'Makes a picture of the points as seen from straight above: it lies in Plan, can be draped, and leaves as GeoTIFF.',
  method: 'In each pixel the mean of the points within 0.3 m of the highest one; gaps closed from their edges.',
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      clouds: clouds('The clouds that are seen, together.'),
      shows: choice(PICTURE_SHOWS, {
        default: 'intensity',
        label: 'Shows',
        help: 'The points’ own colours, their intensity, or their elevation in tints with light and shade.',
        choices: { colour: 'colours', intensity: 'intensity', elevation: 'elevation' },
      }),
      pixel: lengthOrNone(unit)({
        label: 'Pixel size',
        help: 'On the ground. Left out: as far as points lie apart.',
        metres: { min: 0.005, max: 100 },
      }),
      gaps: count({
        default: 3,
        min: 0,
        max: 20,
        label: 'Close gaps up to',
        help: 'Pixels. Wider gaps stay empty.',
      }),
      leftOut: z
        .array(z.int().min(0).max(255))
        .default(NOISE)
        .meta(meta({ label: 'Leave out', help: 'Points of these classes are not seen.', quantity: 'class-list' })),
      name: productName('What the picture is called.'),
    }),
} as const satisfies OperationDescription;
export type DrawPictureParameters = z.output<ReturnType<typeof drawPicture.parameters>>;
