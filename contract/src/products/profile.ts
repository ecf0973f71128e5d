import { lengthUnits } from '@pampero/core/geodesy';
import { formatNumber } from '@pampero/core/wording';
import { z } from 'zod';
import { figureSchema } from '../figures.js';
import { productKind } from './product-kind.js';

/** Surfaces cut along a line, and points of a cloud near it. Null where there is no surface. */
export const profileSchema = z.strictObject({
  surfaces: z.array(
    z.strictObject({
      id: z.int(),
      name: z.string(),
      station: z.array(z.number()),
      easting: z.array(z.number()),
      northing: z.array(z.number()),
      elevation: z.array(z.number().nullable()),
    }),
  ),
  points: z.strictObject({ station: z.array(z.number()), elevation: z.array(z.number()) }),
});
export type ProfileResource = z.infer<typeof profileSchema>;

export const profile = productKind({
  id: 'profile',
  name: { one: 'Profile', many: 'Profiles' },
  facts: z.strictObject({ length: z.number(), figures: z.array(figureSchema) }),
  describe: ({ length }, unit) => `Profile, ${formatNumber(length, 1)} ${lengthUnits[unit].short}`,
  formats: [{ id: 'csv', label: 'CSV', ending: '.csv', mediaType: 'text/csv', suits: ['cad'] }],
});
