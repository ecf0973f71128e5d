import { z } from 'zod';
import { productKind } from './product-kind.js';

/** Heights of the later strip less those of the earlier, over smooth patches; lengths in job units. */
export const differenceSummarySchema = z.strictObject({
  count: z.int(),
  median: z.number(),
  mean: z.number(),
  rmsd: z.number(),
  percentile95: z.number(),
  largest: z.number(),
});
export type DifferenceFigures = z.infer<typeof differenceSummarySchema>;

export const pairDifferenceSchema = differenceSummarySchema.extend({ one: z.string(), two: z.string() });

/** Everything that is told of how strips lie to each other. */
export const stripAgreementSchema = z.strictObject({
  all: differenceSummarySchema,
  pairs: z.array(pairDifferenceSchema),
  /** Bins of equal width about zero; the outermost hold what lies beyond. */
  histogram: z.strictObject({ halfWidth: z.number(), bins: z.array(z.int()) }),
});
export type StripAgreement = z.infer<typeof stripAgreementSchema>;

export const stripDifferences = productKind({
  id: 'strip-differences',
  name: { one: 'Strip differences', many: 'Strip differences' },
  facts: z.strictObject({
    cloudId: z.int(),
    agreement: stripAgreementSchema,
    patch: z.number(),
    roughnessLimit: z.number(),
    /** Degrees. */
    slopeLimit: z.number(),
    /** Median roughness of the patches: how well a strip repeats itself on smooth ground. */
    within: z.number(),
    /** Patches flatter than 5 degrees, and the others by the side they fall to: north, east, south, west. */
    facing: z.strictObject({ flat: z.int(), sides: z.array(z.int()).length(4), isEnough: z.boolean() }),
    /** The vertical accuracy class that is held against, and its limits. */
    accuracyClass: z.number(),
    limits: z.strictObject({ within: z.number(), between: z.number(), largest: z.number() }),
    /** Each strip against the surveyed points on it. */
    control: z.array(
      z.strictObject({ strip: z.string(), count: z.int(), mean: z.number(), rmse: z.number(), worst: z.number() }),
    ),
    map: z.strictObject({ east: z.number(), north: z.number(), cell: z.number(), columns: z.int(), rows: z.int() }),
  }),
  describe: ({ agreement }) => `Differences of ${agreement.pairs.length} pairs of strips`,
  formats: [
    { id: 'csv', label: 'CSV', ending: '.csv', mediaType: 'text/csv' },
    { id: 'tif', label: 'Map, GeoTIFF', ending: '.tif', mediaType: 'image/tiff' },
  ],
});
