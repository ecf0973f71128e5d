import { z } from 'zod';
import { fileLookSchema, folderSchema, geoidSchema, importRequestSchema, incomingFileSchema } from '../incoming.js';
import { importControl, importGrid, importLines, importSurface } from '../intake-operations.js';
import { runSchema } from '../resources.js';
import { textLayoutSchema } from '../text-layout.js';
import { BYTES, job, type Endpoint } from './endpoint.js';

/** What comes into a job by file. */
export const intakeEndpoints = {
  importCloud: {
    method: 'post',
    path: '/jobs/{jobId}/clouds',
    summary: 'Sends a LAS, LAZ, COPC, PLY or text file and starts its import.',
    params: job,
    query: z.strictObject({
      fileName: z.string().min(1).max(255),
      name: z.string().trim().min(1).max(120).optional(),
      /** Where the file states another system than the job's: its points are moved, or their coordinates kept as they are. */
      coordinates: z.enum(['moved', 'kept']).default('moved'),
      /** For text files: how to read them, as JSON; guessed where left out. */
      layout: z
        .string()
        .transform((text, context) => {
          try {
            return JSON.parse(text) as unknown;
          } catch {
            context.addIssue({ code: 'custom', message: 'The layout is no JSON.' });
            return z.NEVER;
          }
        })
        .pipe(textLayoutSchema)
        .optional(),
    }),
    bodyType: BYTES,
    status: 202,
    response: runSchema,
  },
  listFolder: {
    method: 'get',
    path: '/folder',
    summary: 'Files of points in the folder that the server’s settings name, or in one below it.',
    query: z.strictObject({ path: z.string().max(1000).default('') }),
    status: 200,
    response: folderSchema,
  },
  listGeoids: {
    method: 'get',
    path: '/geoids',
    summary: 'Geoid grids (GTX files) in the data folder.',
    status: 200,
    response: z.array(geoidSchema),
  },
  lookAtFile: {
    method: 'post',
    path: '/jobs/{jobId}/look',
    summary: 'What a file says of itself, and what looks wrong, before any of it comes in.',
    params: job,
    body: z.strictObject({
      file: incomingFileSchema,
      layout: textLayoutSchema.optional(),
      crs: importRequestSchema.shape.crs,
    }),
    status: 200,
    response: fileLookSchema,
  },
  importFile: {
    method: 'post',
    path: '/jobs/{jobId}/imports',
    summary: 'Starts the import of a file that was sent in pieces (tus 1.0, under /api/uploads) or lies in the folder.',
    params: job,
    body: importRequestSchema,
    status: 202,
    response: runSchema,
  },
  importControl: {
    method: 'post',
    path: '/jobs/{jobId}/control',
    summary: 'Takes control or check points from a list.',
    params: job,
    body: z.strictObject({ ...importControl.parameters().shape, text: z.string().max(4_000_000) }),
    status: 202,
    response: runSchema,
  },
  importLines: {
    method: 'post',
    path: '/jobs/{jobId}/lines',
    summary: 'Takes breaklines, boundaries or water outlines from a text.',
    params: job,
    body: z.strictObject({ ...importLines.parameters().shape, text: z.string().max(60_000_000) }),
    status: 202,
    response: runSchema,
  },
  importSurface: {
    method: 'post',
    path: '/jobs/{jobId}/surfaces',
    summary: 'Takes a surface from a text: LandXML, DXF with 3D faces, ASCII grid.',
    params: job,
    body: z.strictObject({ ...importSurface.parameters().shape, text: z.string().max(60_000_000) }),
    status: 202,
    response: runSchema,
  },
  importGrid: {
    method: 'post',
    path: '/jobs/{jobId}/grids',
    summary: 'Takes an elevation grid from the bytes of a file: GeoTIFF, ASCII grid.',
    params: job,
    query: importGrid.parameters(),
    bodyType: BYTES,
    status: 202,
    response: runSchema,
  },
} as const satisfies Record<string, Endpoint>;
