import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { ensureDemoJob, ensureFeetJob, ensureFlightJob, ensureFrames } from './demo-job.js';
import { startServer } from './server.js';
import { readSettings } from './settings.js';
import { startStandIns } from './stand-ins.js';

try {
  const given = readSettings(process.env);
  // The demo's drawing program watches a folder of its own.
  const isDemo = process.argv.includes('--demo');
  const settings = { ...given, drawings: given.drawings ?? (isDemo ? join(given.data, 'demo-drawings') : undefined) };
  await mkdir(settings.data, { recursive: true });
  const server = await startServer(settings);
  const stop = (): void => void server.close().finally(() => process.exit(0));
  process.on('SIGINT', stop);
  process.on('SIGTERM', stop);
  if (isDemo) await ensureDemoJob(server, settings);
  if (server.madeUpToken !== undefined)
    console.log(
      `Others can reach this server. It asks for this token, made up now; set PAMPERO_TOKEN to choose one:\n  ${server.madeUpToken}`,
    );
  if (isDemo && settings.port > 0) await startStandIns(settings);
  console.log(`Pampero is ready at ${server.url}`);
  if (isDemo) {
    ensureFlightJob(server, settings)
      .then(() => ensureFeetJob(server, settings))
      .then(() => ensureFrames(settings))
      .catch((error: unknown) => console.error((error as Error).message));
  }
} catch (error) {
  console.error(error instanceof Error ? error.message : error);
  process.exit(1);
}
