import { mkdir } from 'node:fs/promises';
import type { Server } from 'node:http';
import { join } from 'node:path';
import { parcelService } from '@pampero/demo';
import { cadReceiver } from './cad-receiver/cad-receiver.js';
import { watchFolder } from './cad-receiver/folder-watcher.js';
import type { Settings } from './settings.js';

/**
 * What the demo has beside it in place of the world: on the port behind its own a made-up public service of parcels, on the one after that a drawing program that
 * takes files, by its port and from the folder that it watches. Where a port is in use the demo goes on without.
 */
export async function startStandIns({
  data,
  port,
  drawings = join(data, 'demo-drawings'),
}: Pick<Settings, 'data' | 'port' | 'drawings'>): Promise<void> {
  await mkdir(drawings, { recursive: true });
  watchFolder(drawings);
  listen(parcelService(), port + 1);
  listen(cadReceiver(drawings), port + 2);
}

function listen(server: Server, port: number): void {
  server
    .on('error', () => undefined)
    .listen(port, '127.0.0.1')
    .unref();
}
