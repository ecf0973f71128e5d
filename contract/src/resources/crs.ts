import { z } from 'zod';

export const lengthUnitSchema = z.enum(['metre', 'us-survey-foot', 'international-foot']);

export const crsSchema = z.strictObject({
  epsg: z.int().positive().optional(),
  /** A PROJ string, where the system is the surveyor's own. */
  definition: z.string().optional(),
  name: z.string().optional(),
  horizontalUnit: lengthUnitSchema.optional(),
  verticalUnit: lengthUnitSchema.optional(),
  isGeographic: z.boolean().optional(),
});
export type Crs = z.infer<typeof crsSchema>;

/** A found entry of the EPSG list. */
export const crsEntrySchema = z.strictObject({
  epsg: z.int(),
  name: z.string(),
  area: z.string(),
  unit: lengthUnitSchema,
});
export type CrsEntry = z.infer<typeof crsEntrySchema>;
