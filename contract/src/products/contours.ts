import { z } from 'zod';
import { formatCount } from '@pampero/core/wording';
import { productKind } from './product-kind.js';

export const contours = productKind({
  id: 'contours',
  name: { one: 'Contours', many: 'Contours' },
  facts: z.strictObject({
    lines: z.int(),
    indexLines: z.int(),
    vertices: z.int(),
    levels: z.int(),
    lowest: z.number().optional(),
    highest: z.number().optional(),
    length: z.number(),
    /** Of it where few points stand behind the lines. */
    obscured: z.number().optional(),
    depressions: z.int().optional(),
    /** How far smoothing has moved them; see `Departure` in the core. */
    departure: z.strictObject({ worst: z.number(), p95: z.number(), planP95: z.number() }).optional(),
  }),
  layer: { unit: 'lines', count: ({ lines }) => lines },
  describe: ({ lines }) => `${formatCount(lines)} contours as 3D polylines`,
  formats: [
    { id: 'dxf', label: 'DXF', ending: '.dxf', mediaType: 'image/vnd.dxf', suits: ['cad'] },
    { id: 'gpkg', label: 'GeoPackage', ending: '.gpkg', mediaType: 'application/geopackage+sqlite3', suits: ['gis'] },
    { id: 'shp', label: 'Shapefile', ending: '.zip', mediaType: 'application/zip' },
    { id: 'geojson', label: 'GeoJSON', ending: '.geojson', mediaType: 'application/geo+json' },
    { id: 'bands', label: 'Bands', ending: '-bands.geojson', mediaType: 'application/geo+json' },
  ],
});
