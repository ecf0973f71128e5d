import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { startServer } from './server.js';
import { readSettings } from './settings.js';

try {
  const given = readSettings(process.env);
  // The demo's drawing program watches a folder of its own.
  const isDemo = process.argv.includes('--demo');
  const settings = { ...given, drawings: given.drawings ?? (isDemo ? join(given.data, 'demo-drawings') : undefined) };
  await mkdir(settings.data, { recursive: true });
  const server = await startServer(settings);
  let isStopping = false;
  const stop = (): void => {
    isStopping = true;
    void server.close().finally(() => process.exit(0));
  };
  process.on('SIGINT', stop);
  process.on('SIGTERM', stop);
  // What the demo is made with is loaded for it alone.
  const demo = isDemo ? await import('./demo-job.js') : undefined;
  await demo?.ensureDemoJob(server, settings);
  if (server.madeUpToken !== undefined)
    console.log(
      `Others can reach this server. It asks for this token, made up now; set PAMPERO_TOKEN to choose one:\n  ${server.madeUpToken}`,
    );
  if (isDemo && settings.port > 0) await (await import('./stand-ins.js')).startStandIns(settings);
  console.log(`Pampero is ready at ${server.url}`);
  demo
    ?.ensureFlightJob(server, settings)
    .then(() => demo.ensureFeetJob(server, settings))
    .then(() => demo.ensureFrames(settings))
    .catch((error: unknown) => isStopping || console.error((error as Error).message));
} catch (error) {
  console.error(error instanceof Error ? error.message : error);
  process.exit(1);
}
