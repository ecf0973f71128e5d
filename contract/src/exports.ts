import { WRITTEN_COLUMNS } from '@pampero/core/formats/text';
import { z } from 'zod';

export const POINT_FILE_FORMATS = ['las', 'laz', 'copc', 'e57', 'ply', 'xyz', 'csv'] as const;
export type PointFileFormat = (typeof POINT_FILE_FORMATS)[number];

/** How each is named and told to be. */
export const POINT_FILES: Readonly<Record<PointFileFormat, { readonly ending: string; readonly mediaType: string }>> = {
  las: { ending: '.las', mediaType: 'application/vnd.las' },
  laz: { ending: '.laz', mediaType: 'application/vnd.laszip' },
  copc: { ending: '.copc.laz', mediaType: 'application/vnd.laszip+copc' },
  e57: { ending: '.e57', mediaType: 'model/e57' },
  ply: { ending: '.ply', mediaType: 'application/octet-stream' },
  xyz: { ending: '.xyz', mediaType: 'text/plain' },
  csv: { ending: '.csv', mediaType: 'text/csv' },
};

/** Commas between the items of a query's value. */
const listOf = <S extends z.ZodType>(item: S) =>
  z.preprocess((given) => (typeof given === 'string' ? given.split(',') : given), z.array(item).min(1));

/** What of a cloud goes into a file, and which. */
export const pointExportSchema = z
  .strictObject({
    format: z.enum(POINT_FILE_FORMATS).default('las'),
    /** LAS and LAZ only; 1.2 holds the classes 0 to 31. */
    version: z.enum(['1.4', '1.2']).default('1.4'),
    /** Comma-separated class codes; all when left out. */
    classes: listOf(
      z.coerce
        .number({ error: 'Give class codes with commas between them: 2,9.' })
        .int()
        .min(0)
        .max(255, 'Class codes go up to 255.'),
    ).optional(),
    withheld: z.enum(['kept', 'left-out']).default('kept'),
    /** One point of every cube of this side, in the job's unit; all points when left out. */
    spacing: z.coerce.number().positive().max(100_000).optional(),
    /** XYZ and CSV only: what each line holds, in this order. */
    columns: listOf(z.enum(WRITTEN_COLUMNS))
      .refine((names) => new Set(names).size === names.length, 'Each column is given once.')
      .optional(),
  })
  .refine((given) => given.columns === undefined || given.format === 'xyz' || given.format === 'csv', {
    path: ['columns'],
    message: 'Columns are chosen for XYZ and CSV; the other formats have their own.',
  });
export type PointExport = z.input<typeof pointExportSchema>;
