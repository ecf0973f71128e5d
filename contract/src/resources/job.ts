import { z } from 'zod';
import { crsSchema, lengthUnitSchema } from './crs.js';
import { lineOfText } from '../text.js';

export const jobIdSchema = z
  .string()
  .regex(/^[a-z0-9][a-z0-9-]{0,79}$/, 'A job id is made of small letters, digits and dashes.');

const edge = z.number('Give a coordinate in the job’s units.');

/** The square of a site that a job works on; in the job’s coordinates. */
export const jobSquareSchema = z
  .strictObject({
    land: z.strictObject({ west: edge, south: edge, east: edge, north: edge }),
    side: z.number().positive('The side of a square is longer than 0.'),
    margin: z.number().min(0, 'The margin is 0 or more.'),
  })
  .refine(({ land: { west, south, east, north } }) => east > west && north > south, {
    path: ['land'],
    message: 'East lies beyond west, and north beyond south.',
  })
  .refine(({ side, margin }) => margin <= side / 2, {
    path: ['margin'],
    message: 'The margin is at most half the side.',
  })
  .meta({
    help: 'The part of a large site that the job works on. Its points reach further by the margin; what leaves ends at its edges.',
  });
export type JobSquare = z.infer<typeof jobSquareSchema>;

export const newJobSchema = z.strictObject({
  name: lineOfText(120, 'A job name has at most 120 letters.').min(1, 'Give the job a name.'),
  epsg: z.int().positive().optional().meta({ help: 'EPSG code of a projected system; leave out for a local one.' }),
  /** A system of one's own as a PROJ string, in place of a code. */
  definition: lineOfText(2000).min(6).optional(),
  unit: lengthUnitSchema
    .optional()
    .meta({ help: 'Of a local system; a system with a code or definition has its own. Metres if left out.' }),
  square: jobSquareSchema.optional(),
});
export type NewJob = z.input<typeof newJobSchema>;

export const jobSchema = z.strictObject({
  id: jobIdSchema,
  name: z.string(),
  crs: crsSchema,
  unit: lengthUnitSchema,
  createdAt: z.iso.datetime(),
  changedAt: z.iso.datetime(),
  fileBytes: z.number(),
  cloudCount: z.int(),
  pointCount: z.number(),
  square: jobSquareSchema.optional(),
});
export type Job = z.infer<typeof jobSchema>;

/** Something among the job files that cannot be opened as a job, and why. */
export const unreadableJobSchema = z.strictObject({
  fileName: z.string(),
  what: z.string(),
  fix: z.string().optional(),
});
export type UnreadableJob = z.infer<typeof unreadableJobSchema>;
