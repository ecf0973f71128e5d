import { ANGLE_CONVENTIONS } from '@pampero/core/photographs';
import { formatCounted, formatNumber } from '@pampero/core/wording';
import { z } from 'zod';
import { productKind } from './product-kind.js';

/** A camera, all lengths in pixels. */
export const cameraSchema = z.strictObject({
  focal: z.number(),
  /** Of the principal point from the middle of the picture, to the right and down. */
  principalRight: z.number(),
  principalDown: z.number(),
  k1: z.number(),
  k2: z.number(),
  k3: z.number(),
  p1: z.number(),
  p2: z.number(),
});

/** One of the photographs, as it is kept beside the facts. */
export const photographSchema = z.strictObject({
  fileName: z.string(),
  columns: z.int(),
  rows: z.int(),
  levels: z.int(),
  east: z.number(),
  north: z.number(),
  up: z.number(),
  /** Radians, as the convention has them. */
  angles: z.tuple([z.number(), z.number(), z.number()]),
  /** Right, down and along the axis of the picture: east, north, up of each. */
  axes: z.array(z.number()).length(9),
});
export type Photograph = z.infer<typeof photographSchema>;

export const photographs = productKind({
  id: 'photographs',
  name: { one: 'Photographs', many: 'Photographs' },
  facts: z.strictObject({
    count: z.int(),
    pixels: z.number(),
    camera: cameraSchema,
    angles: z.enum(ANGLE_CONVENTIONS),
    /** Lowest and highest place they were taken from. */
    lowest: z.number(),
    highest: z.number(),
    fileName: z.string(),
    remarks: z.array(z.string()),
  }),
  layer: { unit: 'photographs', count: ({ count }) => count },
  describe: ({ count, pixels }) =>
    `${formatCounted(count, 'photograph')} of ${formatNumber(pixels / count / 1e6, 1)} megapixels`,
  formats: [{ id: 'csv', label: 'List of photographs', ending: '.csv', mediaType: 'text/csv' }],
  cannotRebuild: () => 'they came from files; import them again',
});
