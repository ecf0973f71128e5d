import { z } from 'zod';
import { clientViewOptionsSchema } from '../client-view.js';
import { jobIdSchema } from '../resources/job.js';
import { BYTES, job, type Endpoint } from './endpoint.js';

/** A link lives so long at most. */
const LONGEST_DAYS = 366;

export const shareSchema = z.strictObject({
  /** Also the last part of its address: whoever knows it can open it. */
  id: z.string(),
  title: z.string(),
  /** Below the server's own. */
  address: z.string(),
  madeAt: z.iso.datetime(),
  until: z.iso.datetime(),
  hasEnded: z.boolean(),
  hasPassword: z.boolean(),
  bytes: z.number(),
});
export type Share = z.output<typeof shareSchema>;

/** What a client without the trade opens: as one file, or by a link. */
export const shareEndpoints = {
  writeClientView: {
    method: 'post',
    path: '/jobs/{jobId}/client-view',
    summary:
      'One HTML file that works without a server or network: the land with picture, contours, lines, points and places, to turn and measure.',
    params: job,
    body: clientViewOptionsSchema,
    status: 200,
    responseType: BYTES,
  },
  listShares: {
    method: 'get',
    path: '/jobs/{jobId}/shares',
    summary: 'Links under which something of a job can be opened by others.',
    params: job,
    status: 200,
    response: z.array(shareSchema),
  },
  share: {
    method: 'post',
    path: '/jobs/{jobId}/shares',
    summary:
      'Shares the page for clients under an address that cannot be guessed, until a day, with a password if wanted.',
    params: job,
    body: z.strictObject({
      view: clientViewOptionsSchema,
      days: z
        .number()
        .int()
        .min(1, 'A link lives a day at least.')
        .max(LONGEST_DAYS, 'A link lives a year at most.')
        .default(30),
      password: z.string().min(6, 'A password has 6 letters at least.').max(200).optional(),
    }),
    status: 201,
    response: shareSchema,
  },
  endShare: {
    method: 'delete',
    path: '/jobs/{jobId}/shares/{shareId}',
    summary: 'Takes a link back: nothing is found under it any more.',
    params: z.strictObject({
      jobId: jobIdSchema,
      shareId: z.string().regex(/^[\w-]{20,60}$/, 'That is no link of this server.'),
    }),
    status: 204,
  },
} as const satisfies Record<string, Endpoint>;
