import { TEXT_COLUMNS, type TextLayout } from '@pampero/core/formats/text';
import { z } from 'zod';

export const textColumnSchema = z.enum(TEXT_COLUMNS);

/** How a text file is to be read; sent as JSON beside the file. */
export const textLayoutSchema = z.strictObject({
  delimiter: z.enum([',', ';', '\t', ' ']),
  hasDecimalComma: z.boolean(),
  skippedLines: z.int().min(0).max(10_000),
  columns: z.array(textColumnSchema).min(3, 'Three columns at least: easting, northing, elevation.').max(64),
}) satisfies z.ZodType<TextLayout>;
