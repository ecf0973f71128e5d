import { z } from 'zod';
import { figureSchema } from '../figures.js';
import { productKind } from './product-kind.js';

const spread = z.strictObject({
  count: z.int(),
  mean: z.number(),
  median: z.number(),
  standardDeviation: z.number(),
  rmse: z.number(),
  worst: z.number(),
  percentile95: z.number(),
});

export const accuracy = productKind({
  id: 'accuracy',
  name: { one: 'Statement of accuracy', many: 'Statements of accuracy' },
  facts: z.strictObject({
    /** See `AccuracyStatement` in the core. */
    statement: z.strictObject({
      open: spread.optional(),
      vegetated: spread.optional(),
      nva: z.number().optional(),
      vva: z.number().optional(),
      rmseV: z.number().optional(),
      interval: z.number().optional(),
      intervalNmas: z.number().optional(),
      hasEnough: z.boolean(),
    }),
    figures: z.array(figureSchema),
    surveyError: z.number(),
    surfaceName: z.string(),
    points: z.array(
      z.strictObject({
        number: z.string(),
        easting: z.number(),
        northing: z.number(),
        elevation: z.number(),
        code: z.string(),
        /** Elevation of the surface there; missing beside it. */
        surface: z.number().optional(),
        excluded: z.string().optional(),
        isVegetated: z.boolean(),
      }),
    ),
  }),
  describe: () => 'Statement of accuracy',
  formats: [
    { id: 'pdf', label: 'PDF', ending: '.pdf', mediaType: 'application/pdf', suits: ['cad', 'gis', 'client'] },
    { id: 'csv', label: 'CSV', ending: '.csv', mediaType: 'text/csv' },
  ],
});
