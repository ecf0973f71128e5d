import { PamperoError } from '@pampero/core/task';
import { TaskHelper } from '../queue/helper.js';
import { readQueueAddress } from '../queue/queue-address.js';
import { readSettings } from '../settings.js';
import { Misuse } from './exit-codes.js';

interface WorkOptions {
  readonly server: string;
  readonly queue?: string;
  readonly token?: string;
  readonly threads?: string;
}

/** Does tasks of a server until it is stopped. */
export async function work({ server, queue, token, threads }: WorkOptions): Promise<void> {
  const settings = readSettings({
    ...process.env,
    ...(queue !== undefined && { PAMPERO_QUEUE: queue }),
    ...(token !== undefined && { PAMPERO_TOKEN: token }),
    ...(threads !== undefined && { PAMPERO_WORKERS: threads }),
  });
  if (settings.queue === undefined) throw new Misuse('Give the queue: --queue redis://… or PAMPERO_QUEUE.');
  const helper = new TaskHelper({
    server: server.replace(/\/+$/, ''),
    token: settings.token,
    queue: addressOf(settings.queue),
    threads: settings.workers,
    memory: settings.memory,
    tell: (words) => void process.stdout.write(`${words}\n`),
  });
  const stop = (): void => void helper.stop().finally(() => process.exit(0));
  process.on('SIGINT', stop);
  process.on('SIGTERM', stop);
  try {
    await helper.work();
  } catch (error) {
    await helper.stop();
    if (error instanceof PamperoError) throw error;
    throw new Misuse(`The server at ${server} does not answer. Start it first, with PAMPERO_QUEUE set.`);
  }
}

function addressOf(text: string): ReturnType<typeof readQueueAddress> {
  try {
    return readQueueAddress(text);
  } catch (error) {
    throw new Misuse((error as Error).message);
  }
}
