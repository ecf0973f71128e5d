import { mkdir } from 'node:fs/promises';
import type { Server } from 'node:http';
import { join } from 'node:path';
import { parcelService } from '@pampero/demo';
import { cadReceiver } from './cad-receiver/cad-receiver.js';
import type { Settings } from './settings.js';

/**
 * What the demo has beside it in place of the world: on the port behind its own a made-up public service of parcels, on the one after that a drawing program that
 * takes files. Where a port is in use the demo goes on without.
 */
export async function startStandIns({ data, port }: Pick<Settings, 'data' | 'port'>): Promise<void> {
  const drawings = join(data, 'demo-drawings');
  await mkdir(drawings, { recursive: true });
  listen(parcelService(), port + 1);
  listen(cadReceiver(drawings), port + 2);
}

function listen(server: Server, port: number): void {
  server
    .on('error', () => undefined)
    .listen(port, '127.0.0.1')
    .unref();
}
