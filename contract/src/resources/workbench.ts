import { z } from 'zod';
import { jobClassSchema } from '../classes.js';
import { featureCodeSchema } from '../feature-codes.js';
import { pinSchema } from '../pins.js';
import { productKindIds, productSchema } from '../products/index.js';
import { cloudSchema } from './cloud.js';
import { historySchema, runSchema } from './history.js';
import { jobSchema } from './job.js';

/** What the server tells an open page: a run has moved on, or part of the job has changed and is worth reading again. */
export const jobEventSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('run'), run: runSchema }),
  z.strictObject({
    kind: z.literal('changed'),
    parts: z.array(z.enum(['clouds', 'products', 'control', 'history', 'pins', 'sheet-runs'])),
  }),
]);
export type JobEvent = z.infer<typeof jobEventSchema>;

/** What a job holds, and how much room it takes. */
export const holdingsSchema = z.strictObject({
  things: z.array(
    z.strictObject({
      kind: z.enum(['cloud', 'control', ...productKindIds]),
      /** Of survey points: the step that brought them in. */
      id: z.int(),
      name: z.string(),
      bytes: z.int(),
      /** Names of the products that were made from it. */
      usedBy: z.array(z.string()),
    }),
  ),
  /** What nothing but Undo needs: removed and replaced clouds and products, their bytes with those of earlier classes. */
  undo: z.strictObject({ bytes: z.int(), clouds: z.int(), products: z.int() }),
});
export type Holdings = z.infer<typeof holdingsSchema>;

export const workbenchSchema = z.strictObject({
  job: jobSchema,
  clouds: z.array(cloudSchema),
  /** Clouds on their way in, as far as they can be looked at: an even sample, and what is stored by now. */
  comingIn: z.array(cloudSchema),
  products: z.array(productSchema),
  /** Surveyed points there are. */
  controlCount: z.int(),
  history: historySchema,
  runs: z.array(runSchema),
  /** Names and colours that the surveyor gave to classes. */
  classes: z.array(jobClassSchema),
  /** The code list. */
  codes: z.array(featureCodeSchema),
  /** What the surveyor pinned down: places, measures, views and selections by name. */
  pins: z.array(pinSchema),
});
export type Workbench = z.infer<typeof workbenchSchema>;
