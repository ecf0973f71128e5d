import { handOverSchema } from '../hand-over.js';
import { reportOptionsSchema } from '../report.js';
import { BYTES, job, type Endpoint } from './endpoint.js';

/** What leaves together. */
export const handOverEndpoints = {
  handOver: {
    method: 'post',
    path: '/jobs/{jobId}/hand-over',
    summary:
      'Chosen products and clouds as a zip, with a README, metadata by ISO 19115 and SHA-256 sums. A file that cannot be written is named in the README with the reason.',
    params: job,
    body: handOverSchema,
    status: 200,
    responseType: BYTES,
  },
  writeReport: {
    method: 'post',
    path: '/jobs/{jobId}/report',
    summary:
      'The report of a job as PDF or as one HTML file: chosen parts, the surveyor’s words, every figure read from the job.',
    params: job,
    body: reportOptionsSchema,
    status: 200,
    responseType: BYTES,
  },
} as const satisfies Record<string, Endpoint>;
