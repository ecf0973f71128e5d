import { createHash } from 'node:crypto';
import { hostname } from 'node:os';
import { pino, type Logger } from 'pino';
import type { Services } from './http/handler.js';
import { PickingFolder } from './incoming/folder.js';
import { GeoidLibrary } from './incoming/geoid-library.js';
import { IncomingFiles } from './incoming/incoming-files.js';
import { UploadStore } from './incoming/upload-store.js';
import { JobLibrary } from './jobs/job-library.js';
import { isLoopback } from './loopback.js';
import { planMemory } from './memory-plan.js';
import { Outside } from './network/outside.js';
import { loadOperations } from './operations/operation-catalogue.js';
import { OperationService } from './operations/operation-service.js';
import { loadProducts } from './products/product-catalogue.js';
import { SheetLibrary } from './run-sheets/sheet-library.js';
import { SheetRunner } from './run-sheets/sheet-runner.js';
import { RunService } from './runs/run-service.js';
import { ShareStore } from './sharing/share-store.js';
import { geoidsFolder, sharesFolder, sheetsFolder, uploadsFolder, type Settings } from './settings.js';
import { readQueueAddress } from './queue/queue-address.js';
import type { TaskDesk } from './queue/task-desk.js';
import { TaskPool } from './tasks/task-pool.js';
import { WritingPool } from './writing/writing-pool.js';

export interface StartedServices extends Services {
  readonly log: Logger;
  /** Ends everything; nothing is half when it resolves. */
  close(): Promise<void>;
}

/** Everything that works on jobs, for the server and for the command alike. */
export async function startServices(settings: Settings): Promise<StartedServices> {
  const log = pino({ level: settings.log });
  const library = await JobLibrary.at(settings);
  const desk = settings.queue === undefined ? undefined : await deskOf(settings, settings.queue, log);
  const pool = desk ?? new TaskPool(settings.workers, settings.memory);
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
  const operations = new OperationService(
    await loadOperations(),
    library,
    runs,
    pool,
    incoming,
    memory,
    (task, signal) => writing.write('writeProduct', task, signal),
    new Outside(isLoopback(settings.host) ? undefined : (settings.outside ?? []), settings.drawings),
  );
  const products = await loadProducts();
  const sheets = new SheetLibrary(sheetsFolder(settings));
  const sheetRunner = new SheetRunner(library, operations, runs, incoming);
  return {
    log,
    library,
    runs,
    operations,
    products,
    incoming,
    pool,
    desk,
    writing,
    sheets,
    sheetRunner,
    shares: new ShareStore(sharesFolder(settings)),
    async close() {
      sheetRunner.close();
      await pool.close();
      await writing.close();
      await library.close();
    },
  };
}

/** A name of the server's own, where several share a queue. */
function queueNameOf(data: string): string {
  return `pampero-${createHash('sha256').update(`${hostname()} ${data}`).digest('hex').slice(0, 16)}`;
}

/** The library of the queue is loaded only where there is one. */
async function deskOf({ workers, memory, data }: Settings, queue: string, log: Logger): Promise<TaskDesk> {
  const { TaskDesk } = await import('./queue/task-desk.js');
  return new TaskDesk(workers, memory, readQueueAddress(queue), queueNameOf(data), (error) =>
    log.warn({ err: error as Error }, 'queue'),
  );
}
