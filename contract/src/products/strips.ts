import { z } from 'zod';
import { productKind } from './product-kind.js';

export const stripSchema = z.strictObject({
  number: z.int(),
  name: z.string(),
  /** Point source ID, where strips are told by it. */
  sourceId: z.int().optional(),
  /** First and last time of its points; missing where points carry no times. */
  from: z.number().optional(),
  to: z.number().optional(),
  points: z.number(),
  /** Of the trajectory over it, where there is one: way flown, heading in degrees, speed, height over the points. */
  length: z.number().optional(),
  heading: z.number().optional(),
  speed: z.number().optional(),
  heightOverGround: z.number().optional(),
  isLeftOut: z.boolean(),
});
export type Strip = z.infer<typeof stripSchema>;

export const strips = productKind({
  id: 'strips',
  name: { one: 'Strips', many: 'Strips' },
  facts: z.strictObject({
    cloudId: z.int(),
    by: z.enum(['source', 'time']),
    strips: z.array(stripSchema),
    /** Points that are of no strip. */
    unassigned: z.number(),
  }),
  describe: ({ strips: list }) => `${list.length} strips`,
  formats: [{ id: 'csv', label: 'CSV', ending: '.csv', mediaType: 'text/csv' }],
});
