import { z } from 'zod';
import { jobIdSchema } from '../resources/job.js';

/** One call of the API: the server routes by it, OpenAPI is written from it, tests hold answers against it. */
export interface Endpoint {
  readonly method: 'get' | 'post' | 'put' | 'delete';
  /** Below /api, with {parameters}. */
  readonly path: string;
  readonly summary: string;
  readonly params?: z.ZodObject;
  readonly query?: z.ZodObject;
  readonly body?: z.ZodType;
  /** Set where the body is the bytes of a file. */
  readonly bodyType?: 'application/octet-stream';
  readonly status: 200 | 201 | 202 | 204;
  readonly response?: z.ZodType;
  /** Set where the answer is not JSON. */
  readonly responseType?: string;
}

export const id = z.coerce.number().int().positive();
export const job = z.strictObject({ jobId: jobIdSchema });
export const ofJob = <K extends string>(name: K) =>
  z.strictObject({ jobId: jobIdSchema, [name]: id } as { jobId: typeof jobIdSchema } & Record<K, typeof id>);
export const BYTES = 'application/octet-stream';
