import { z } from 'zod';

/** A figure of a summary: what it is, its value, its unit. */
export const figureSchema = z.strictObject({
  label: z.string(),
  value: z.union([z.number(), z.string()]),
  quantity: z.enum(['count', 'length', 'area', 'volume', 'share', 'seconds', 'text']),
});
export type Figure = z.infer<typeof figureSchema>;
