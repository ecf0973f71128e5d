import { formatCounted } from '@pampero/core/wording';
import { z } from 'zod';
import { figureSchema } from '../figures.js';
import { productKind } from './product-kind.js';

/** Points of a class, elevations in job units; withheld points are counted apart. */
const classRow = z.strictObject({
  code: z.int(),
  name: z.string(),
  points: z.int(),
  withheld: z.int(),
  /** Of the points that are not withheld; missing where there are none. */
  lowest: z.number().optional(),
  highest: z.number().optional(),
});

export const classTable = productKind({
  id: 'class-table',
  name: { one: 'Class table', many: 'Class tables' },
  facts: z.strictObject({
    rows: z.array(classRow),
    figures: z.array(figureSchema),
  }),
  describe: ({ rows }) => `Class table, ${formatCounted(rows.length, 'class', 'classes')}`,
  formats: [{ id: 'csv', label: 'CSV', ending: '.csv', mediaType: 'text/csv' }],
});
