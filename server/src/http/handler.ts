import type { endpoints, Endpoint, EndpointId } from '@pampero/contract';
import type { Request, Response } from 'express';
import type { z } from 'zod';
import type { IncomingFiles } from '../incoming/incoming-files.js';
import type { JobLibrary } from '../jobs/job-library.js';
import type { OperationService } from '../operations/operation-service.js';
import type { ProductCatalogue } from '../products/product-catalogue.js';
import type { SheetLibrary } from '../run-sheets/sheet-library.js';
import type { SheetRunner } from '../run-sheets/sheet-runner.js';
import type { ShareStore } from '../sharing/share-store.js';
import type { RunService } from '../runs/run-service.js';
import { asBuffer } from '../store/cloud-repository.js';
import type { Models } from '../store/models.js';
import type { TaskDesk } from '../queue/task-desk.js';
import type { TaskPool } from '../tasks/task-pool.js';
import type { WritingPool } from '../writing/writing-pool.js';

/** What the handlers of requests call. */
export interface Services {
  readonly library: JobLibrary;
  readonly runs: RunService;
  readonly operations: OperationService;
  readonly products: ProductCatalogue;
  readonly incoming: IncomingFiles;
  readonly pool: TaskPool;
  /** The pool, where it hands tasks to other machines too. */
  readonly desk?: TaskDesk | undefined;
  readonly writing: WritingPool;
  readonly sheets: SheetLibrary;
  readonly sheetRunner: SheetRunner;
  readonly shares: ShareStore;
}

type Parsed<S> = S extends z.ZodType ? z.output<S> : Record<string, never>;
export interface Call<E extends Endpoint> {
  readonly params: Parsed<E['params']>;
  readonly query: Parsed<E['query']>;
  readonly body: Parsed<E['body']>;
  readonly request: Request;
  readonly response: Response;
}
type Answer<E extends Endpoint> = E['response'] extends z.ZodType
  ? Promise<z.input<E['response']>> | z.input<E['response']>
  : Promise<void> | void;

/** A handler for each of some endpoints; what it returns is the JSON answer. */
export type Handlers<Ids extends EndpointId> = {
  [K in Ids]: (call: Call<(typeof endpoints)[K]>) => Answer<(typeof endpoints)[K]>;
};

/** Bytes under an address that changes with their content may be kept for good. */
export const FOR_GOOD = 'private, max-age=31536000, immutable';

export function sendBytes(response: Response, bytes: Uint8Array): void {
  response.setHeader('cache-control', FOR_GOOD);
  response.type('application/octet-stream').send(Buffer.isBuffer(bytes) ? bytes : asBuffer(bytes));
}

/** What a job's file reads by. */
export async function readerOf({ library }: Services, jobId: string): Promise<Models> {
  return (await library.file(jobId)).read;
}
