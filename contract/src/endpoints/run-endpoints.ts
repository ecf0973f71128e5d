import { z } from 'zod';
import { operations } from '../operations.js';
import { historySchema, jobIdSchema, runSchema } from '../resources.js';
import { job, type Endpoint } from './endpoint.js';

/** Operations, their runs and the field book. */
export const runEndpoints = {
  startOperation: {
    method: 'post',
    path: '/jobs/{jobId}/operations/{operation}',
    summary: 'Starts an operation with its parameters; lengths may be typed with a unit.',
    params: z.strictObject({
      jobId: jobIdSchema,
      operation: z.enum(operations.map((o) => o.id) as [string, ...string[]]),
    }),
    body: z.record(z.string(), z.unknown()),
    status: 202,
    response: runSchema,
  },
  rebuildStale: {
    method: 'post',
    path: '/jobs/{jobId}/rebuild',
    summary: 'Builds every stale product again with its own parameters.',
    params: job,
    status: 202,
    response: z.array(runSchema),
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
