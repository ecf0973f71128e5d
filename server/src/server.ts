import { randomBytes } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { pino } from 'pino';
import { createApp } from './http/app.js';
import { isLoopback } from './http/entrance.js';
import { JobLibrary } from './jobs/job-library.js';
import { loadOperations } from './operations/operation-catalogue.js';
import { OperationService } from './operations/operation-service.js';
import { loadProducts } from './products/product-catalogue.js';
import { PickingFolder } from './incoming/folder.js';
import { GeoidLibrary } from './incoming/geoid-library.js';
import { IncomingFiles } from './incoming/incoming-files.js';
import { UploadStore } from './incoming/upload-store.js';
import { planMemory } from './memory-plan.js';
import { SheetLibrary } from './run-sheets/sheet-library.js';
import { SheetRunner } from './run-sheets/sheet-runner.js';
import { RunService } from './runs/run-service.js';
import { geoidsFolder, sheetsFolder, uploadsFolder, type Settings } from './settings.js';
import { TaskPool } from './tasks/task-pool.js';
import { WritingPool } from './writing/writing-pool.js';

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
  const log = pino({ level: settings.log });
  const library = await JobLibrary.at(settings);
  const pool = new TaskPool(settings.workers, settings.memory);
  const writing = new WritingPool(settings.workers);
  const runs = new RunService(settings.data, log);
  const uploads = new UploadStore(uploadsFolder(settings), settings.data);
  await uploads.clearForgotten();
  const incoming = new IncomingFiles(
    uploads,
    new PickingFolder(settings.folder),
    new GeoidLibrary(geoidsFolder(settings)),
  );
  const memory = planMemory(settings.memory, settings.workers);
  const operations = new OperationService(await loadOperations(), library, runs, pool, incoming, memory);
  const products = await loadProducts();
  const { host, names = [] } = settings;
  const isMadeUp = settings.token === undefined && !isLoopback(host);
  const token = isMadeUp ? randomBytes(24).toString('base64url') : settings.token;
  const sheets = new SheetLibrary(sheetsFolder(settings));
  const sheetRunner = new SheetRunner(library, operations, runs, incoming);
  const services = { library, runs, operations, products, incoming, pool, writing, sheets, sheetRunner };
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
      sheetRunner.close();
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
      await pool.close();
      await writing.close();
      await library.close();
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
