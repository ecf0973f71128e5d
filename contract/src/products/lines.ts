import { LINE_ROLE_NAMES, LINE_ROLES } from '@pampero/core/lines';
import { formatCounted } from '@pampero/core/wording';
import { z } from 'zod';
import { productKind } from './product-kind.js';

/** The lines of one feature code. */
export const lines = productKind({
  id: 'lines',
  name: { one: 'Lines', many: 'Lines' },
  facts: z.strictObject({
    code: z.string(),
    role: z.enum(LINE_ROLES),
    lines: z.int(),
    vertices: z.int(),
    withElevation: z.int(),
    /** In plan, all together. */
    length: z.number(),
    lowest: z.number().optional(),
    highest: z.number().optional(),
  }),
  layer: { unit: 'lines', count: ({ lines: count }) => count },
  describe: ({ lines: count, role }) => `${formatCounted(count, 'line')}, ${LINE_ROLE_NAMES[role]}`,
  formats: [
    { id: 'dxf', label: 'DXF', ending: '.dxf', mediaType: 'image/vnd.dxf', suits: ['cad'] },
    { id: 'landxml', label: 'LandXML', ending: '.xml', mediaType: 'application/xml' },
    { id: 'gpkg', label: 'GeoPackage', ending: '.gpkg', mediaType: 'application/geopackage+sqlite3', suits: ['gis'] },
    { id: 'shp', label: 'Shapefile', ending: '.zip', mediaType: 'application/zip' },
    { id: 'geojson', label: 'GeoJSON', ending: '.geojson', mediaType: 'application/geo+json' },
    { id: 'csv', label: 'coded list', ending: '.csv', mediaType: 'text/csv' },
  ],
});
