import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import compression from 'compression';
import express, { type ErrorRequestHandler, type Express } from 'express';
import helmet from 'helmet';
import type { Logger } from 'pino';
import { pinoHttp } from 'pino-http';
import { UPLOADS_PATH } from '../incoming/upload-store.js';
import { explained, problemOf } from '../errors/problem.js';
import { endSilentBodies } from './bodies.js';
import { entrance, type EntranceOptions } from './entrance.js';
import type { Services } from './handler.js';
import { sharedPages } from './shared-pages.js';
import { WORK_PATH } from '../queue/work-path.js';
import { workRoutes } from './work-routes.js';
import { apiRoutes } from './routes.js';

/** The page as `ng build` leaves it. */
const WEB_FOLDER = fileURLToPath(new URL('../../../web/dist/browser', import.meta.url));

export function createApp(services: Services, log: Logger, options: EntranceOptions): Express {
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
          formAction: ["'self'"],
        },
      },
      crossOriginEmbedderPolicy: true,
      strictTransportSecurity: false,
    }),
  );
  app.use(entrance(options, sharedPages(services.shares)));
  app.use(endSilentBodies());
  app.use(UPLOADS_PATH, services.incoming.uploads.handle);
  if (services.desk) app.use(WORK_PATH, workRoutes(services.desk));
  app.use('/api', apiRoutes(services));
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
  app.use(sendProblem(log, services.library.folder));
  return app;
}

function sendProblem(log: Logger, folder: string): ErrorRequestHandler {
  return async (error, request, response, next) => {
    const problem = problemOf(await explained(error, folder), request.originalUrl);
    if (problem.status >= 500) log.error({ err: error as Error, url: request.originalUrl }, 'request failed');
    if (response.headersSent) {
      next(error);
      return;
    }
    response.status(problem.status).type('application/problem+json').send(JSON.stringify(problem));
  };
}
