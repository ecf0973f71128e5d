import { LINE_ROLES } from '@pampero/core/terrain';
import { formatCounted } from '@pampero/core/wording';
import { z } from 'zod';
import { productKind } from './product-kind.js';

export const lines = productKind({
  id: 'lines',
  name: { one: 'Lines', many: 'Lines' },
  facts: z.strictObject({
    role: z.enum(LINE_ROLES),
    lines: z.int(),
    vertices: z.int(),
    withElevation: z.int(),
    length: z.number(),
    lowest: z.number().optional(),
    highest: z.number().optional(),
  }),
  layer: { unit: 'lines', count: ({ lines: count }) => count },
  describe: ({ lines: count }) => formatCounted(count, 'line'),
  formats: [{ id: 'geojson', label: 'GeoJSON', ending: '.geojson', mediaType: 'application/geo+json' }],
});
