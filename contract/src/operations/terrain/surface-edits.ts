import { z } from 'zod';

export const placeSchema = z.tuple([z.number(), z.number()]);

/** What was done to a surface by hand, in order; see `SurfaceEdit` in the core. */
export const surfaceEdits = z
  .array(
    z.discriminatedUnion('kind', [
      z.strictObject({ kind: z.literal('take-out'), place: placeSchema }),
      z.strictObject({ kind: z.literal('swap'), place: placeSchema }),
      z.strictObject({ kind: z.literal('drop'), place: placeSchema }),
      z.strictObject({ kind: z.literal('drop-within'), outline: z.array(placeSchema).min(3).max(5000) }),
      z.strictObject({ kind: z.literal('add'), place: placeSchema, elevation: z.number() }),
    ]),
  )
  .max(20_000);
