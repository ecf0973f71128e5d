import { formatCount } from '@pampero/core/wording';
import { z } from 'zod';
import { productKind } from './product-kind.js';

export const clockSchema = z.enum(['week', 'adjusted', 'standard']);

export const trajectory = productKind({
  id: 'trajectory',
  name: { one: 'Trajectory', many: 'Trajectories' },
  facts: z.strictObject({
    fileName: z.string(),
    records: z.int(),
    /** Seconds, on the clock that is named. */
    start: z.number(),
    end: z.number(),
    clock: clockSchema,
    /** GPS week, where times are seconds of a week and it was given. */
    week: z.int().optional(),
    rate: z.number(),
    length: z.number(),
    speed: z.number(),
    gaps: z.array(z.strictObject({ from: z.number(), to: z.number() })),
    jumps: z.array(z.number()),
    /** Degrees. */
    largestTilt: z.number(),
    lowest: z.number(),
    highest: z.number(),
    hasAccuracies: z.boolean(),
    /** What the surveyor is to know before it is trusted. */
    remarks: z.array(z.string()),
  }),
  layer: { unit: 'records', count: ({ records }) => records },
  describe: ({ records, rate }) => `Trajectory, ${formatCount(records)} records, ${Math.round(rate)} a second`,
  formats: [{ id: 'csv', label: 'Text', ending: '.csv', mediaType: 'text/csv' }],
  cannotRebuild: () => 'it came from a file; import it again',
});
