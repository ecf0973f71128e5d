import { lengthUnits } from '@pampero/core/geodesy';
import { formatCounted, formatNumber } from '@pampero/core/wording';
import { z } from 'zod';
import { placementFields } from './placement-fields.js';
import { productKind } from './product-kind.js';

export const mask = productKind({
  id: 'mask',
  name: { one: 'Mask', many: 'Masks' },
  facts: z.strictObject({
    pictureName: z.string(),
    ...placementFields,
    /** Square job units. */
    area: z.number(),
    pieces: z.int(),
    /** CIE L*a*b*, and how far from the nearest of them a colour is alike. */
    colours: z.array(z.tuple([z.number(), z.number(), z.number()])),
    tolerance: z.number(),
  }),
  layer: { unit: 'pieces', count: ({ pieces }) => pieces },
  describe: ({ area, pieces }, unit) =>
    `Mask, ${formatNumber(area, 0)} ${lengthUnits[unit].short}² in ${formatCounted(pieces, 'piece')}`,
  formats: [
    { id: 'geojson', label: 'GeoJSON', ending: '.geojson', mediaType: 'application/geo+json', suits: ['gis'] },
    { id: 'tif', label: 'GeoTIFF', ending: '.tif', mediaType: 'image/tiff', suits: [] },
  ],
});

/** An edge as the page shows it: eastings and northings one after another. */
export const maskRingSchema = z.strictObject({
  isIsland: z.boolean(),
  places: z.array(z.tuple([z.number(), z.number()])),
});
export type MaskRingResource = z.infer<typeof maskRingSchema>;

/** What a mask would be, seen before it is made. */
export const maskPreviewSchema = z.strictObject({
  rings: z.array(maskRingSchema),
  area: z.number(),
  pieces: z.int(),
  tolerance: z.number(),
  /** Side of a pixel it was looked at with. */
  cell: z.number(),
});
export type MaskPreview = z.infer<typeof maskPreviewSchema>;
