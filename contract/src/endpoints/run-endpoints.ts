import { z } from 'zod';
import { incomingFileSchema } from '../incoming.js';
import { operations } from '../operations/index.js';
import { historySchema, runSchema } from '../resources/history.js';
import { jobIdSchema } from '../resources/job.js';
import { lineOfText } from '../text.js';
import { BYTES, job, type Endpoint } from './endpoint.js';

const ofOperation = z.strictObject({
  jobId: jobIdSchema,
  operation: z.enum(operations.map((o) => o.id) as [string, ...string[]]),
});

/** Operations, their runs and the field book. */
export const runEndpoints = {
  startOperation: {
    method: 'post',
    path: '/jobs/{jobId}/operations/{operation}',
    summary:
      'Starts an operation with its parameters; lengths may be typed with a unit. One that works from a file also takes "file": a file that was sent in pieces (tus 1.0, under /api/uploads) or lies in the server’s folder.',
    params: ofOperation,
    body: z.looseObject({ file: incomingFileSchema.optional() }),
    status: 202,
    response: runSchema,
  },
  startWithFile: {
    method: 'post',
    path: '/jobs/{jobId}/operations/{operation}/file',
    summary: 'Starts an operation that works from a file, with the file as the body of the request.',
    params: ofOperation,
    query: z.strictObject({
      fileName: lineOfText(255).min(1),
      /** The operation's parameters as JSON. */
      parameters: z
        .string()
        .max(20_000)
        .default('{}')
        .transform((text, context) => {
          try {
            return JSON.parse(text) as unknown;
          } catch {
            context.addIssue({ code: 'custom', message: 'The parameters are not JSON.' });
            return z.NEVER;
          }
        })
        .pipe(z.record(z.string(), z.unknown())),
    }),
    bodyType: BYTES,
    status: 202,
    response: runSchema,
  },
  rebuildStale: {
    method: 'post',
    path: '/jobs/{jobId}/rebuild',
    summary: 'Builds every stale product again with its own parameters, in the order in which they hang on each other.',
    params: job,
    status: 202,
    response: z.strictObject({
      runs: z.array(runSchema),
      /** Stale products that cannot be built again by themselves, and why. */
      left: z.array(z.strictObject({ productId: z.int(), name: z.string(), because: z.string() })),
    }),
  },
  readRun: {
    method: 'get',
    path: '/jobs/{jobId}/runs/{runId}',
    summary: 'How far a run is.',
    params: z.strictObject({ jobId: jobIdSchema, runId: z.string() }),
    status: 200,
    response: runSchema,
  },
  cancelRun: {
    method: 'delete',
    path: '/jobs/{jobId}/runs/{runId}',
    summary: 'Cancels a run; nothing of it is kept.',
    params: z.strictObject({ jobId: jobIdSchema, runId: z.string() }),
    status: 200,
    response: runSchema,
  },
  readHistory: {
    method: 'get',
    path: '/jobs/{jobId}/history',
    summary: 'The field book.',
    params: job,
    status: 200,
    response: historySchema,
  },
  undo: {
    method: 'post',
    path: '/jobs/{jobId}/undo',
    summary: 'Takes back the last operation.',
    params: job,
    status: 200,
    response: historySchema,
  },
  redo: {
    method: 'post',
    path: '/jobs/{jobId}/redo',
    summary: 'Does again what was last taken back.',
    params: job,
    status: 200,
    response: historySchema,
  },
} as const satisfies Record<string, Endpoint>;
