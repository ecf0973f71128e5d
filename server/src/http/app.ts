import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import compression from 'compression';
import express, { type ErrorRequestHandler, type Express, type RequestHandler } from 'express';
import helmet from 'helmet';
import type { Logger } from 'pino';
import { pinoHttp } from 'pino-http';
import { PamperoError } from '@pampero/core/task';
import { UPLOADS_PATH } from '../incoming/upload-store.js';
import { problemOf } from '../errors/problem.js';
import type { Services } from './handler.js';
import { apiRoutes } from './routes.js';

/** The page as `ng build` leaves it. */
const WEB_FOLDER = fileURLToPath(new URL('../../../web/dist/browser', import.meta.url));

export function createApp(services: Services, log: Logger): Express {
  const app = express();
  app.disable('x-powered-by');
  app.use(
    pinoHttp({
      logger: log,
      customLogLevel: (_q, response, error) => (error || response.statusCode >= 500 ? 'error' : 'debug'),
    }),
  );
  app.use(
    helmet({
      // Nothing but this server: no request ever leaves the machine.
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          defaultSrc: ["'self'"],
          styleSrc: ["'self'", "'unsafe-inline'"],
          imgSrc: ["'self'", 'data:', 'blob:'],
          workerSrc: ["'self'", 'blob:'],
          objectSrc: ["'none'"],
          baseUri: ["'self'"],
          frameAncestors: ["'none'"],
        },
      },
      crossOriginEmbedderPolicy: true,
      strictTransportSecurity: false,
    }),
  );
  app.use(UPLOADS_PATH, refuseCrossSite, services.incoming.uploads.handle);
  app.use('/api', refuseCrossSite, apiRoutes(services));
  app.use(compression());
  if (existsSync(WEB_FOLDER)) {
    app.use(
      express.static(WEB_FOLDER, {
        index: false,
        setHeaders: (response, path) =>
          response.setHeader(
            'cache-control',
            /-[A-Z0-9]{8}\./.test(path) ? 'public, max-age=31536000, immutable' : 'no-cache',
          ),
      }),
    );
    app.get('/{*page}', (_request, response) =>
      response.setHeader('cache-control', 'no-cache').sendFile(join(WEB_FOLDER, 'index.html')),
    );
  }
  app.use(sendProblem(log));
  return app;
}

/** A page of another site cannot make a browser change a job here. */
const refuseCrossSite: RequestHandler = (request, _response, next) => {
  if (request.method !== 'GET' && request.headers['sec-fetch-site'] === 'cross-site') {
    throw new PamperoError('cross-site', { what: 'The request comes from another site.' });
  }
  next();
};

function sendProblem(log: Logger): ErrorRequestHandler {
  return (error, request, response, next) => {
    const problem = problemOf(error, request.originalUrl);
    if (problem.status >= 500) log.error({ err: error as Error, url: request.originalUrl }, 'request failed');
    if (response.headersSent) {
      next(error);
      return;
    }
    response.status(problem.status).type('application/problem+json').send(JSON.stringify(problem));
  };
}
