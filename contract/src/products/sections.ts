import { formatCounted, formatNumber } from '@pampero/core/wording';
import { lengthUnits } from '@pampero/core/geodesy';
import { z } from 'zod';
import { figureSchema } from '../figures.js';
import { productKind } from './product-kind.js';

/** Cross sections along a line, as they are kept. */
export const sectionsSchema = z.strictObject({
  surfaces: z.array(z.string()),
  sections: z.array(
    z.strictObject({
      station: z.number(),
      easting: z.number(),
      northing: z.number(),
      bearing: z.number(),
      /** One each surface: offsets and elevations, null where there is none. */
      profiles: z.array(z.strictObject({ offset: z.array(z.number()), elevation: z.array(z.number().nullable()) })),
      /** Against the second surface, where there is one. */
      cut: z.number().optional(),
      fill: z.number().optional(),
    }),
  ),
});
export type SectionsResource = z.infer<typeof sectionsSchema>;

export const sections = productKind({
  id: 'sections',
  name: { one: 'Cross sections', many: 'Cross sections' },
  facts: z.strictObject({ count: z.int(), length: z.number(), figures: z.array(figureSchema) }),
  describe: ({ count, length }, unit) =>
    `${formatCounted(count, 'section')} along ${formatNumber(length, 1)} ${lengthUnits[unit].short}`,
  formats: [
    { id: 'pdf', label: 'PDF sheet', ending: '.pdf', mediaType: 'application/pdf', suits: ['client'] },
    { id: 'csv', label: 'CSV', ending: '.csv', mediaType: 'text/csv', suits: ['cad'] },
  ],
});
