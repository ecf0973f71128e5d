import { CORNER_SOURCES, LINE_ROLES, LINE_STYLES } from '@pampero/core/lines';
import { z } from 'zod';
import { colourSchema } from './colour.js';
import { lineOfText } from './text.js';

export const codeNameSchema = lineOfText(40, 'A code has at most 40 letters.').min(1, 'Give the code a name.');

/** A feature code of the job: what its lines are, and how they are drawn and handed over. */
export const featureCodeSchema = z.strictObject({
  code: codeNameSchema,
  meaning: lineOfText(120, 'A meaning has at most 120 letters.'),
  role: z.enum(LINE_ROLES),
  colour: colourSchema,
  style: z.enum(LINE_STYLES),
  opacity: z.number().min(0.1, 'An opacity is 10 to 100 %.').max(1, 'An opacity is 10 to 100 %.').optional(),
  layer: lineOfText(60, 'A layer has at most 60 letters.').min(1, 'Give the layer a name.'),
});

const coordinate = z.number().min(-1e9).max(1e9);

/** A line as it is handed in: corners as columns, each elevation with where it comes from. */
export const putLineSchema = z
  .strictObject({
    /** The line that gets this shape; left out for a new one. */
    key: z.int().positive().optional(),
    code: codeNameSchema,
    isClosed: z.boolean().default(false),
    easting: z.array(coordinate).min(2, 'A line has two vertices at least.').max(200_000),
    northing: z.array(coordinate),
    /** null where a corner has none. */
    elevation: z.array(coordinate.nullable()),
    /** One for every corner; "typed" where left out. */
    source: z.array(z.enum(CORNER_SOURCES)).optional(),
  })
  .refine(({ easting, northing, elevation, source }) => [northing, elevation, source ?? easting].every(({ length }) => length === easting.length), {
    error: 'Easting, northing, elevation and source of a line must be lists of the same length.',
  })
  .refine(({ isClosed, easting }) => !isClosed || easting.length > 2, { error: 'A closed line has three vertices at least.' }); // prettier-ignore
export type PutLineRequest = z.input<typeof putLineSchema>;
