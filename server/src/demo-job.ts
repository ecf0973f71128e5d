import { copyFile, mkdir } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { georeferenceScan, importCloud, importControl, importPicture, importTrajectory } from '@pampero/contract';
import {
  ensureDemoFiles,
  ensureFeetFiles,
  ensureFlightFiles,
  ensurePhotographs,
  FLIGHT_ERRORS,
  madeApart,
} from '@pampero/demo';
import type { RunningServer } from './server.js';
import { geoidsFolder, type Settings } from './settings.js';

/** Runs an operation on a copy of a file, since an import takes its file away when done. */
async function bring(
  server: RunningServer,
  jobId: string,
  id: string,
  path: string,
  given: Record<string, unknown>,
): Promise<number | undefined> {
  const copy = server.library.scratchPath('.received');
  await copyFile(path, copy);
  const source = { path: copy, fileName: basename(path) };
  const { state, outcome, productId } = await (
    await server.operations.startWithFile(jobId, id, source, given)
  ).finished;
  if (state !== 'done') throw new Error(`The demo could not be made: ${outcome ?? state}`);
  return productId;
}

const DEMO_JOB_NAME = 'Flood bank, east reach';

/** Makes the demo job from the demo files, through the same import as any other, unless a job of that name is there. */
export async function ensureDemoJob(server: RunningServer, settings: Settings): Promise<void> {
  const files = await ensureDemoFiles(join(settings.data, 'demo-files'));
  await ensurePhotographs(join(settings.data, 'demo-files'));
  await mkdir(geoidsFolder(settings), { recursive: true });
  await copyFile(files.geoid, join(geoidsFolder(settings), basename(files.geoid)));
  if ((await server.library.list()).some((job) => job.name === DEMO_JOB_NAME && job.cloudCount > 0)) return;
  const job = await server.library.create({ name: DEMO_JOB_NAME, epsg: 5347 });
  await bring(server, job.id, importCloud.id, files.lidar, { name: 'Lidar, 5 strips' });
  await bring(server, job.id, importPicture.id, files.orthophoto, { name: 'Orthophoto' });
}

const FLIGHT_JOB_NAME = 'Flood bank, as flown';

/** A second job: the same reach as it was flown, from raw ranges and a trajectory, before anything is corrected. */
export async function ensureFlightJob(server: RunningServer, settings: Settings): Promise<void> {
  const folder = join(settings.data, 'demo-files');
  const known = (await server.library.list()).find((job) => job.name === FLIGHT_JOB_NAME);
  if (known && known.cloudCount > 0) return;
  const [files, flight] = [await ensureDemoFiles(folder), await ensureFlightFiles(folder)];
  const job = known ?? (await server.library.create({ name: FLIGHT_JOB_NAME, epsg: 5347 }));
  await bring(server, job.id, importControl.id, files.control, { role: 'control' });
  await bring(server, job.id, importControl.id, files.check, { role: 'check' });
  const trajectory = await bring(server, job.id, importTrajectory.id, flight.trajectory, {
    name: 'Flight of the flood bank',
  });
  const [leverForward, leverRight, leverDown] = FLIGHT_ERRORS.leverArm!;
  await bring(server, job.id, georeferenceScan.id, flight.scan, {
    trajectory,
    leverForward,
    leverRight,
    leverDown,
    name: 'As flown, 5 strips',
  });
}

const FEET_JOB_NAME = 'Farm yard, in feet';

/** A third, small job: the farm's yard on a grid of its own in US survey feet. */
export async function ensureFeetJob(server: RunningServer, settings: Settings): Promise<void> {
  const known = (await server.library.list()).find((job) => job.name === FEET_JOB_NAME);
  if (known && known.cloudCount > 0) return;
  const folder = join(settings.data, 'demo-files');
  await madeApart('feet', folder);
  const files = await ensureFeetFiles(folder);
  const job = known ?? (await server.library.create({ name: FEET_JOB_NAME, unit: 'us-survey-foot' }));
  await bring(server, job.id, importCloud.id, files.lidar, { name: 'Lidar of the yard' });
  await bring(server, job.id, importControl.id, files.check, { role: 'check' });
}

/** Photographs with their list, as a file that is imported by hand. */
export function ensureFrames({ data }: Settings): Promise<void> {
  return madeApart('frames', join(data, 'demo-files'));
}
