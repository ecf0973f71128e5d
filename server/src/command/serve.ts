import { mkdir } from 'node:fs/promises';
import { startServer } from '../server.js';
import { readSettings } from '../settings.js';

interface ServeOptions {
  readonly data?: string;
  readonly port?: string;
  readonly host?: string;
}

/** Serves until it is stopped. */
export async function serve({ data, port, host }: ServeOptions): Promise<void> {
  const settings = readSettings({
    ...process.env,
    ...(data !== undefined && { PAMPERO_DATA: data }),
    ...(port !== undefined && { PAMPERO_PORT: port }),
    ...(host !== undefined && { PAMPERO_HOST: host }),
  });
  await mkdir(settings.data, { recursive: true });
  const server = await startServer(settings);
  const stop = (): void => void server.close().finally(() => process.exit(0));
  process.on('SIGINT', stop);
  process.on('SIGTERM', stop);
  if (server.madeUpToken !== undefined)
    process.stdout.write(
      `Others can reach this server. It asks for this token, made up now:\n  ${server.madeUpToken}\n`,
    );
  process.stdout.write(`Pampero is ready at ${server.url}\n`);
}
