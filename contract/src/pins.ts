import { z } from 'zod';
import { colourSchema } from './colour.js';
import { linesOfText } from './text.js';

const place = z.tuple([z.number(), z.number(), z.number()]);
const name = linesOfText(200, 'A name has at most 200 letters.').min(1, 'Give it a name.');

/** Something the surveyor keeps in the job beside points and products. */
export const newPinSchema = z.discriminatedUnion('kind', [
  /** Words at a place. */
  z.strictObject({ kind: z.literal('note'), name, place }),
  /** What was measured: the places, in order, and how. */
  z.strictObject({
    kind: z.literal('measure'),
    name,
    how: z.enum(['distance', 'area', 'angle', 'volume']),
    places: z.array(place).min(2).max(2000),
    /** Level of a quick volume. */
    level: z.number().optional(),
  }),
  /** How the job was looked at: cameras, section, colours, as the page has them. */
  z.strictObject({ kind: z.literal('view'), name, look: z.record(z.string(), z.unknown()) }),
  /** A suspect area of the ground that the surveyor has looked at and found right. */
  z.strictObject({ kind: z.literal('accepted'), name, cloudId: z.int().positive() }),
  /** Colours for surfaces, by value. */
  z.strictObject({
    kind: z.literal('ramp'),
    name,
    stops: z
      .array(z.strictObject({ value: z.number(), colour: colourSchema }))
      .min(2)
      .max(40),
  }),
  z.strictObject({ kind: z.literal('selection'), name, steps: z.array(z.unknown()) }),
]);
export type NewPin = z.input<typeof newPinSchema>;

export const pinSchema = z.object({
  id: z.int(),
  kind: z.enum(['note', 'measure', 'view', 'selection', 'accepted', 'ramp']),
  name: z.string(),
  body: z.record(z.string(), z.unknown()),
});
export type Pin = z.infer<typeof pinSchema>;
