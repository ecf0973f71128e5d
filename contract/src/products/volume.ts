import { z } from 'zod';
import { figureSchema } from '../figures.js';
import { productKind } from './product-kind.js';

export const volume = productKind({
  id: 'volume',
  name: { one: 'Volume', many: 'Volumes' },
  facts: z.strictObject({
    cut: z.number(),
    fill: z.number(),
    cutArea: z.number(),
    fillArea: z.number(),
    /** Area that the second surface does not cover: left out. */
    uncovered: z.number(),
    /** Vertices of the outline of a heap that do not lie on the surface. */
    outlineOff: z.int(),
    figures: z.array(figureSchema),
  }),
  describe: () => 'Volume',
  formats: [{ id: 'csv', label: 'CSV', ending: '.csv', mediaType: 'text/csv', suits: ['cad', 'client'] }],
});
