import { lengthUnits } from '@pampero/core/geodesy';
import { formatNumber } from '@pampero/core/wording';
import { z } from 'zod';
import { productKind } from './product-kind.js';

export const shiftCheck = productKind({
  id: 'shift-check',
  name: { one: 'Shift check', many: 'Shift checks' },
  facts: z.strictObject({
    pictureName: z.string(),
    cloudName: z.string(),
    /** How far the picture lies off: what the cloud has at a place the picture has that much further. Job units. */
    east: z.number(),
    north: z.number(),
    /** Standard deviation of what single tiles say, and of the mean; null where nothing was found. */
    spread: z.number().nullable(),
    standardError: z.number().nullable(),
    tiles: z.int(),
    agreeing: z.int(),
    sureness: z.enum(['sure', 'doubtful', 'unknown']),
    because: z.string(),
    /** What of the cloud told most: its intensity, heights or own colours. */
    witness: z.string().optional(),
    /** Shift, turn (radians, counter-clockwise) and scale together, about a centre. */
    similarity: z.strictObject({
      east: z.number(),
      north: z.number(),
      turn: z.number(),
      scale: z.number(),
      centre: z.tuple([z.number(), z.number()]),
    }),
    cell: z.number(),
  }),
  describe: ({ east, north, sureness, because }, unit) =>
    sureness === 'unknown'
      ? `Shift unknown: ${because}`
      : `Shift ${formatNumber(Math.hypot(east, north), 3)} ${lengthUnits[unit].short}, ${sureness}`,
  formats: [{ id: 'csv', label: 'CSV', ending: '.csv', mediaType: 'text/csv' }],
});

/** A tile of a shift check. */
export const tileShiftSchema = z.strictObject({
  e: z.number(),
  n: z.number(),
  east: z.number(),
  north: z.number(),
  agrees: z.boolean(),
});
