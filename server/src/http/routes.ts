import { endpoints, openApiDocument, type Endpoint } from '@pampero/contract';
import type { RequestHandler } from 'express';
import { Router } from 'express';
import type { z } from 'zod';
import { JobError, notFound } from '../errors/job-error.js';
import { readJson } from './bodies.js';
import { cloudHandlers } from './cloud-handlers.js';
import type { Call, Handlers, Services } from './handler.js';
import { intakeHandlers } from './intake-handlers.js';
import { jobHandlers } from './job-handlers.js';
import { productHandlers } from './product-handlers.js';
import { handOverHandlers } from './hand-over-handlers.js';
import { shareHandlers } from './share-handlers.js';
import { runSheetHandlers } from './run-sheet-handlers.js';
import { runHandlers } from './run-handlers.js';

/** Every endpoint of the contract under its path. */
export function apiRoutes(services: Services): Router {
  const router = Router();
  const handlers: Handlers<keyof typeof endpoints> = {
    ...jobHandlers(services),
    ...runHandlers(services),
    ...runSheetHandlers(services),
    ...intakeHandlers(services),
    ...cloudHandlers(services),
    ...productHandlers(services),
    ...handOverHandlers(services),
    ...shareHandlers(services),
  };
  const byId = handlers as unknown as Record<string, (call: Call<Endpoint>) => unknown>;
  router.get('/openapi.json', (_request, response) => void response.json(openApiDocument()));
  for (const [id, endpoint] of Object.entries(endpoints) as [string, Endpoint][]) {
    const handle: RequestHandler = async (request, response) => {
      const parse = (schema: z.ZodType | undefined, given: unknown): never =>
        (schema ? schema.parse(given) : {}) as never;
      if (endpoint.body && request.body === undefined)
        throw new JobError('bad-request', {
          what: 'The request has no JSON body.',
          fix: 'Send one with content-type application/json.',
        });
      const answer = await byId[id]!({
        params: parse(endpoint.params, request.params),
        query: parse(endpoint.query, request.query),
        body: parse(endpoint.body, request.body),
        request,
        response,
      });
      if (endpoint.response) response.status(endpoint.status).json(answer);
    };
    const path = endpoint.path.replace(/\{(\w+)\}/g, ':$1');
    router[endpoint.method](path, ...(endpoint.body ? [readJson] : []), handle);
  }
  router.use((request) => {
    throw notFound('API at', request.originalUrl, 'GET /api/openapi.json lists every address.');
  });
  return router;
}
