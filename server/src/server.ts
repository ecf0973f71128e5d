import { randomBytes } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { createApp } from './http/app.js';
import { isLoopback } from './loopback.js';
import type { JobLibrary } from './jobs/job-library.js';
import type { OperationService } from './operations/operation-service.js';
import { startServices } from './services.js';
import type { Settings } from './settings.js';

/** Idle connections stay open for so long. */
const KEPT_ALIVE_MS = 75_000;

export interface RunningServer {
  readonly url: string;
  /** The token that was made up, since none was set and others than this machine reach the server. */
  readonly madeUpToken?: string | undefined;
  readonly library: JobLibrary;
  readonly operations: OperationService;
  close(): Promise<void>;
}

/** Starts the whole server; resolves when it answers. */
export async function startServer(settings: Settings): Promise<RunningServer> {
  const services = await startServices(settings);
  const { log, library, operations, sheetRunner } = services;
  const { host, names = [] } = settings;
  const isMadeUp = settings.token === undefined && !isLoopback(host);
  const token = isMadeUp ? randomBytes(24).toString('base64url') : settings.token;
  const server = createServer(createApp(services, log, { host, names, token }));
  // A large file over a slow line takes longer than the default five minutes.
  server.requestTimeout = 0;
  // Five seconds, the default, is often just when a busy page asks again: its request would meet a closed line.
  server.keepAliveTimeout = KEPT_ALIVE_MS;
  await listen(server, settings);
  sheetRunner.goOnAfterRestart().catch((error: unknown) => log.error({ err: error as Error }, 'runs of sheets'));
  const { port } = server.address() as AddressInfo;
  return {
    url: `http://${settings.host.includes(':') ? `[${settings.host}]` : settings.host}:${port}`,
    madeUpToken: isMadeUp ? token : undefined,
    library,
    operations,
    async close() {
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
      await services.close();
    },
  };
}

function listen(server: Server, { port, host }: Settings): Promise<void> {
  return new Promise((resolve, reject) => {
    server.once('error', (error: NodeJS.ErrnoException) =>
      reject(
        error.code === 'EADDRINUSE'
          ? new Error(
              `Port ${port} on ${host} is taken, perhaps by another Pampero. Stop that one or set PAMPERO_PORT to another port.`,
            )
          : error,
      ),
    );
    server.listen(port, host, resolve);
  });
}
