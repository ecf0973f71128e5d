import { z } from 'zod';
import { jobIdSchema } from '../resources/job.js';
import { acceptStepSchema, newSheetRunSchema, sheetRunSchema } from '../run-sheets/sheet-run.js';
import { runSheetSchema } from '../run-sheets/run-sheet.js';
import { lineOfText } from '../text.js';
import { job, ofJob, type Endpoint } from './endpoint.js';

const sheet = z.strictObject({
  sheetId: z
    .string()
    .regex(/^[a-z0-9][a-z0-9-]{0,79}$/, 'A run sheet’s id is made of small letters, digits and dashes.'),
});

const keptSheetSchema = z.strictObject({
  id: z.string(),
  /** It came with Pampero: it is not changed, a copy is. */
  isShipped: z.boolean(),
  changedAt: z.iso.datetime().optional(),
  sheet: runSheetSchema,
});
export type KeptSheet = z.output<typeof keptSheetSchema>;

/** Any JSON: it is checked by hand, so that the answer names the field in words. */
const sheetBody = z.strictObject({ sheet: z.unknown() });

/** Run sheets, and their runs through jobs. */
export const runSheetEndpoints = {
  listRunSheets: {
    method: 'get',
    path: '/run-sheets',
    summary: 'The run sheets that are kept, and files among them that cannot be read.',
    status: 200,
    response: z.strictObject({
      sheets: z.array(keptSheetSchema),
      unreadable: z.array(z.strictObject({ fileName: z.string(), what: z.string() })),
    }),
  },
  readRunSheet: {
    method: 'get',
    path: '/run-sheets/{sheetId}',
    summary: 'A run sheet.',
    params: sheet,
    status: 200,
    response: keptSheetSchema,
  },
  keepRunSheet: {
    method: 'post',
    path: '/run-sheets',
    summary:
      'Keeps a new run sheet, also one that was written elsewhere. One that does not hold together is refused, field by field.',
    body: sheetBody,
    status: 201,
    response: keptSheetSchema,
  },
  changeRunSheet: {
    method: 'put',
    path: '/run-sheets/{sheetId}',
    summary: 'Keeps a run sheet in the place of the one of this id.',
    params: sheet,
    body: sheetBody,
    status: 200,
    response: keptSheetSchema,
  },
  removeRunSheet: {
    method: 'delete',
    path: '/run-sheets/{sheetId}',
    summary: 'Removes a run sheet.',
    params: sheet,
    status: 204,
  },
  sheetFromHistory: {
    method: 'post',
    path: '/jobs/{jobId}/run-sheet',
    summary:
      'Makes a run sheet of steps of the field book, without keeping it. Says which steps do not go into one, and why.',
    params: job,
    body: z.strictObject({ name: lineOfText(120).min(1), entries: z.array(z.int().positive()).min(1).max(200) }),
    status: 200,
    response: z.strictObject({
      sheet: runSheetSchema.optional(),
      leftOut: z.array(z.strictObject({ id: z.int(), because: z.string() })),
    }),
  },
  listSheetRuns: {
    method: 'get',
    path: '/jobs/{jobId}/sheet-runs',
    summary: 'Runs of sheets through a job, the newest first.',
    params: job,
    status: 200,
    response: z.array(sheetRunSchema),
  },
  startSheetRun: {
    method: 'post',
    path: '/jobs/{jobId}/sheet-runs',
    summary: 'Runs a sheet through a job, with what is given for its places.',
    params: job,
    body: newSheetRunSchema,
    status: 202,
    response: sheetRunSchema,
  },
  readSheetRun: {
    method: 'get',
    path: '/jobs/{jobId}/sheet-runs/{sheetRunId}',
    summary: 'How far a run of a sheet is.',
    params: ofJob('sheetRunId'),
    status: 200,
    response: sheetRunSchema,
  },
  acceptSheetStep: {
    method: 'post',
    path: '/jobs/{jobId}/sheet-runs/{sheetRunId}/accept',
    summary: 'Lets a run go on through a gate at which it waits, with the reason for the report.',
    params: ofJob('sheetRunId'),
    body: acceptStepSchema,
    status: 202,
    response: sheetRunSchema,
  },
  goOnWithSheetRun: {
    method: 'post',
    path: '/jobs/{jobId}/sheet-runs/{sheetRunId}/go-on',
    summary: 'Goes on with a run that stopped, at the first step that is not done; gates are asked again.',
    params: ofJob('sheetRunId'),
    status: 202,
    response: sheetRunSchema,
  },
  cancelSheetRun: {
    method: 'delete',
    path: '/jobs/{jobId}/sheet-runs/{sheetRunId}',
    summary: 'Ends a run. Steps that are done stay and can be undone.',
    params: z.strictObject({ jobId: jobIdSchema, sheetRunId: z.coerce.number().int().positive() }),
    status: 200,
    response: sheetRunSchema,
  },
} as const satisfies Record<string, Endpoint>;
