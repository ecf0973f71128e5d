import { z } from 'zod';

export const lasExportSchema = z.strictObject({
  version: z.enum(['1.4', '1.2']).default('1.4'),
  /** LAZ; in point formats 0 to 3 only, so with version 1.2. */
  compressed: z.enum(['yes', 'no']).default('no'),
  /** Comma-separated class codes; all when left out. */
  classes: z
    .string()
    .regex(/^\d{1,3}(,\d{1,3})*$/, 'Give class codes with commas between them: 2,9.')
    .transform((text) => text.split(',').map(Number))
    .optional(),
});
export type LasExport = z.input<typeof lasExportSchema>;
