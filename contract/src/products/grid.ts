import { formatCount } from '@pampero/core/wording';
import { z } from 'zod';
import { productKind } from './product-kind.js';

export const grid = productKind({
  id: 'grid',
  name: { one: 'Grid', many: 'Grids' },
  facts: z.strictObject({
    east: z.number(),
    north: z.number(),
    cell: z.number(),
    columns: z.int(),
    rows: z.int(),
    lowest: z.number(),
    highest: z.number(),
    /** Cells that have a value. */
    filled: z.int(),
    /** Numbers of points, no heights. */
    isCount: z.boolean(),
    /** One thing minus another: told by colours to either side of nothing. */
    isDifference: z.boolean(),
  }),
  layer: { unit: 'cells', count: ({ columns, rows }) => columns * rows },
  describe: ({ columns, rows }) => `Grid, ${formatCount(columns)} by ${formatCount(rows)} cells`,
  formats: [
    { id: 'tif', label: 'GeoTIFF', ending: '.tif', mediaType: 'image/tiff', suits: ['gis'] },
    { id: 'tint', label: 'Tints', ending: '-tint.tif', mediaType: 'image/tiff' },
    { id: 'hillshade', label: 'Hillshade', ending: '-hillshade.tif', mediaType: 'image/tiff' },
    { id: 'slope', label: 'Slope', ending: '-slope.tif', mediaType: 'image/tiff' },
    { id: 'asc', label: 'ASCII grid', ending: '.asc', mediaType: 'text/plain' },
    { id: 'xyz', label: 'XYZ', ending: '.xyz', mediaType: 'text/plain' },
  ],
});
