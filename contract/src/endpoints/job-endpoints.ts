import { z } from 'zod';
import { newPinSchema, pinSchema } from '../pins.js';
import { crsEntrySchema, lengthUnitSchema } from '../resources/crs.js';
import { holdingsSchema, workbenchSchema } from '../resources/workbench.js';
import { jobSchema, newJobSchema, unreadableJobSchema } from '../resources/job.js';
import { lineOfText } from '../text.js';
import { BYTES, job, ofJob, type Endpoint } from './endpoint.js';

/** Jobs, and what is kept in them beside points and products. */
export const jobEndpoints = {
  searchCrs: {
    method: 'get',
    path: '/crs',
    summary: 'Projected coordinate systems whose code, name or area holds all the words.',
    query: z.strictObject({
      search: z.string().trim().max(200).default(''),
      limit: z.coerce.number().int().min(1).max(100).default(20),
    }),
    status: 200,
    response: z.array(crsEntrySchema),
  },
  listOperations: {
    method: 'get',
    path: '/operations',
    summary:
      'Every operation with its parameters as a JSON schema: defaults, least and most in the unit that each states. Where "isProposed" is true, what is left out is proposed from the cloud in place of the default.',
    query: z.strictObject({ unit: lengthUnitSchema.default('metre') }),
    status: 200,
    response: z.array(
      z.object({
        id: z.string(),
        stage: z.string(),
        title: z.string(),
        does: z.string(),
        isProposed: z.boolean(),
        parameters: z.unknown(),
      }),
    ),
  },
  listJobs: {
    method: 'get',
    path: '/jobs',
    summary: 'All jobs, the last changed first.',
    status: 200,
    response: z.array(jobSchema),
  },
  listUnreadableJobs: {
    method: 'get',
    path: '/unreadable-jobs',
    summary: 'What lies among the job files and cannot be opened as a job, and why.',
    status: 200,
    response: z.array(unreadableJobSchema),
  },
  moveJobAside: {
    method: 'post',
    path: '/unreadable-jobs/aside',
    summary: 'Moves a file that cannot be opened out of the folder of jobs into one of its own; nothing of it is lost.',
    body: z.strictObject({ fileName: lineOfText(255).min(1) }),
    status: 204,
  },
  createJob: {
    method: 'post',
    path: '/jobs',
    summary: 'Makes a job.',
    body: newJobSchema,
    status: 201,
    response: jobSchema,
  },
  restoreJob: {
    method: 'post',
    path: '/jobs/file',
    summary: 'Takes a job file that was downloaded and makes it a job again, under a new id where its own is taken.',
    bodyType: BYTES,
    status: 201,
    response: jobSchema,
  },
  readJob: {
    method: 'get',
    path: '/jobs/{jobId}',
    summary: 'A job with its clouds, products, field book and runs.',
    params: job,
    status: 200,
    response: workbenchSchema,
  },
  readHoldings: {
    method: 'get',
    path: '/jobs/{jobId}/holdings',
    summary:
      'Clouds and products of a job with the room that each takes and what was made from it, and the room of what is kept for Undo alone.',
    params: job,
    status: 200,
    response: holdingsSchema,
  },
  removeJob: {
    method: 'delete',
    path: '/jobs/{jobId}',
    summary: 'Removes a job and its file for good.',
    params: job,
    status: 204,
  },
  downloadJob: {
    method: 'get',
    path: '/jobs/{jobId}/file',
    summary: 'The whole job as one file.',
    params: job,
    status: 200,
    responseType: 'application/vnd.sqlite3',
  },
  watchJob: {
    method: 'get',
    path: '/jobs/{jobId}/events',
    summary: 'Server-sent events: progress of runs, and what changed.',
    params: job,
    status: 200,
    responseType: 'text/event-stream',
  },
  exportCodes: {
    method: 'get',
    path: '/jobs/{jobId}/codes',
    summary: 'The code list of a job as CSV: code, meaning, use, colour, style, opacity in percent, layer.',
    params: job,
    status: 200,
    responseType: 'text/csv',
  },
  pin: {
    method: 'post',
    path: '/jobs/{jobId}/pins',
    summary: 'Keeps a note, a measure, a view or a selection in the job.',
    params: job,
    body: newPinSchema,
    status: 201,
    response: pinSchema,
  },
  unpin: {
    method: 'delete',
    path: '/jobs/{jobId}/pins/{pinId}',
    summary: 'Removes what was kept.',
    params: ofJob('pinId'),
    status: 204,
  },
} as const satisfies Record<string, Endpoint>;
