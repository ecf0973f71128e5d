import { pixelSize } from '@pampero/core/imagery';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { lengthUnits } from '@pampero/core/geodesy';
import { z } from 'zod';
import { placementFields } from './placement-fields.js';
import { productKind } from './product-kind.js';

/** Runs of tiles of a picture. */
export const TILE_PARTS = ['colour', 'mask', 'infrared'] as const;
export type TilePart = (typeof TILE_PARTS)[number];
export { PICTURE_TILE } from '@pampero/core/imagery';

export const picture = productKind({
  id: 'picture',
  name: { one: 'Picture', many: 'Pictures' },
  facts: z.strictObject({
    ...placementFields,
    /** Level 0 is the picture itself, each next one half of it. */
    levels: z.int(),
    bands: z.enum(['grey', 'colour', 'colour-infrared']),
    /** Some of it is no picture. */
    hasMask: z.boolean(),
    /** Colours that stand for a table: nothing lies between two of them. */
    isPaletted: z.boolean(),
    fileName: z.string(),
    /** The product that holds the tiles; 0 for itself. */
    tilesOf: z.int(),
    /** What moved it since it came in, one line. */
    moved: z.string().optional(),
  }),
  layer: { unit: 'pixels', count: ({ columns, rows }) => columns * rows },
  describe: ({ columns, rows, ...placement }, unit) =>
    `Picture, ${formatCount(columns)} by ${formatCount(rows)} pixels of ${formatNumber(pixelSize(placement), 3)} ${lengthUnits[unit].short}`,
  formats: [
    { id: 'tif', label: 'GeoTIFF', ending: '.tif', mediaType: 'image/tiff', suits: ['gis'] },
    { id: 'jpg', label: 'JPEG', ending: '-jpg.zip', mediaType: 'application/zip', suits: ['cad'] },
    { id: 'png', label: 'PNG', ending: '-png.zip', mediaType: 'application/zip' },
  ],
});
