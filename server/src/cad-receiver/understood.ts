import { PamperoError } from '@pampero/core/task';
import { z } from 'zod';

const place = z.tuple([z.number(), z.number(), z.number()]);

/** What a drawing office's program says it has read of a file. */
export const understoodSchema = z.object({
  fileName: z.string(),
  format: z.enum(['DXF', 'LandXML']),
  /** As the file states it; none where it says nothing. */
  unit: z.enum(['metre', 'international-foot', 'us-survey-foot']).optional(),
  layers: z.array(z.object({ name: z.string(), lines: z.int(), faces: z.int(), points: z.int(), texts: z.int() })),
  surfaces: z.array(z.object({ name: z.string(), points: z.int(), triangles: z.int() })),
  /** Easting, northing, elevation of the least and the greatest; none where nothing was read. */
  extent: z.object({ min: place, max: place }).optional(),
});
export type Understood = z.infer<typeof understoodSchema>;

/** Why a file was not taken. */
export const refusalSchema = z.object({ error: z.string().max(2000) });

/** A file that was not taken, with the reason in whose words it may be. */
export const refusedDrawing = (fileName: string, reason: string): PamperoError =>
  new PamperoError('cad-refuses', {
    what: `${fileName} was not taken: ${reason}`,
    fix: 'Put that right there, and send it again.',
  });
