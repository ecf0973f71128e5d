import { copyFile, mkdir } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { importCloud } from '@pampero/contract';
import { ensureDemoFiles } from '@pampero/demo';
import type { RunningServer } from './server.js';
import { geoidsFolder, type Settings } from './settings.js';

const DEMO_JOB_NAME = 'Flood bank, east reach';

/** Makes the demo job from the demo files, through the same import as any other, unless a job of that name is there. */
export async function ensureDemoJob(server: RunningServer, settings: Settings): Promise<void> {
  const files = await ensureDemoFiles(join(settings.data, 'demo-files'));
  await mkdir(geoidsFolder(settings), { recursive: true });
  await copyFile(files.geoid, join(geoidsFolder(settings), basename(files.geoid)));
  if ((await server.library.list()).some((job) => job.name === DEMO_JOB_NAME && job.cloudCount > 0)) return;
  const job = await server.library.create({ name: DEMO_JOB_NAME, epsg: 5347 });
  const copy = server.library.scratchPath('.las');
  await copyFile(files.lidar, copy); // an import takes its file away when done
  const { finished } = await server.operations.startWithFile(
    job.id,
    importCloud.id,
    { path: copy, fileName: basename(files.lidar) },
    { name: 'Lidar, 5 strips' },
  );
  const run = await finished;
  if (run.state !== 'done') throw new Error(`The demo job could not be made: ${run.outcome ?? run.state}`);
}
