import { z } from 'zod';
import { colourSchema } from './colour.js';
import { lineOfText } from './text.js';

/** The codes of ASPRS LAS 1.4 R15, table 17, and the room it leaves to users; what lies between is reserved. */
const HIGHEST_STANDARD = 22;
const FIRST_OWN = 64;

export const classCodeSchema = z.coerce
  .number({ error: 'A class is a number from 0 to 255.' })
  .int('A class is a whole number.')
  .min(0, 'A class is a number from 0 to 255.')
  .max(255, 'A class is a number from 0 to 255.')
  .refine((code) => code <= HIGHEST_STANDARD || code >= FIRST_OWN, {
    error: (issue) =>
      `Class ${String(issue.input)} is reserved by the standard. Choose 0 to ${HIGHEST_STANDARD}, or one of your own from ${FIRST_OWN} to 255.`,
  });

/** A class of the surveyor's own, or another name and colour for one of the standard's. */
export const jobClassSchema = z.strictObject({
  code: classCodeSchema,
  name: lineOfText(60, 'A class name has at most 60 letters.').min(1, 'Give the class a name.'),
  colour: colourSchema,
  /** The key that sets it, if the surveyor gave it one. */
  key: z
    .string()
    .regex(/^[a-zA-Z0-9]$/, 'A key is one letter from a to z or one digit.')
    .optional(),
});
export type JobClass = z.infer<typeof jobClassSchema>;
