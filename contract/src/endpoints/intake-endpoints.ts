import { z } from 'zod';
import { crsChoiceSchema, fileLookSchema, folderSchema, geoidSchema, incomingFileSchema } from '../incoming.js';
import { textLayoutSchema } from '../text-layout.js';
import { job, type Endpoint } from './endpoint.js';

/** Files that are to come in. Bringing them in is an operation like any other. */
export const intakeEndpoints = {
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
    summary: 'What a file says of itself, and what looks wrong, before any of it is imported.',
    params: job,
    body: z.strictObject({
      file: incomingFileSchema,
      layout: textLayoutSchema.optional(),
      leaveOutScans: z.array(z.int().min(1)).max(10_000).default([]),
      crs: crsChoiceSchema.optional(),
    }),
    status: 200,
    response: fileLookSchema,
  },
} as const satisfies Record<string, Endpoint>;
