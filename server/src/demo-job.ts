import { copyFile, mkdir } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { georeferenceScan, importCloud, importControl, importPicture, importTrajectory } from '@pampero/contract';
import { ensureDemoFiles, ensureFlightFiles, ensurePhotographs, FLIGHT_ERRORS } from '@pampero/demo';
import type { RunningServer } from './server.js';
import { geoidsFolder, type Settings } from './settings.js';

const DEMO_JOB_NAME = 'Flood bank, east reach';

/** Makes the demo job from the demo files, through the same import as any other, unless a job of that name is there. */
export async function ensureDemoJob(server: RunningServer, settings: Settings): Promise<void> {
  const files = await ensureDemoFiles(join(settings.data, 'demo-files'));
  await ensurePhotographs(join(settings.data, 'demo-files'));
  await mkdir(geoidsFolder(settings), { recursive: true });
  await copyFile(files.geoid, join(geoidsFolder(settings), basename(files.geoid)));
  if ((await server.library.list()).some((job) => job.name === DEMO_JOB_NAME && job.cloudCount > 0)) return;
  const job = await server.library.create({ name: DEMO_JOB_NAME, epsg: 5347 });
  const bring = async (id: string, path: string, given: Record<string, unknown>): Promise<void> => {
    const copy = server.library.scratchPath('.received');
    await copyFile(path, copy); // an import takes its file away when done
    const source = { path: copy, fileName: basename(path) };
    const run = await (await server.operations.startWithFile(job.id, id, source, given)).finished;
    if (run.state !== 'done') throw new Error(`The demo job could not be made: ${run.outcome ?? run.state}`);
  };
  await bring(importCloud.id, files.lidar, { name: 'Lidar, 5 strips' });
  await bring(importPicture.id, files.orthophoto, { name: 'Orthophoto' });
}

const FLIGHT_JOB_NAME = 'Flood bank, as flown';

/** A second job: the same reach as it was flown, from raw ranges and a trajectory, before anything is corrected. */
export async function ensureFlightJob(server: RunningServer, settings: Settings): Promise<void> {
  const folder = join(settings.data, 'demo-files');
  const known = (await server.library.list()).find((job) => job.name === FLIGHT_JOB_NAME);
  if (known && known.cloudCount > 0) return;
  const [files, flight] = [await ensureDemoFiles(folder), await ensureFlightFiles(folder)];
  const job = known ?? (await server.library.create({ name: FLIGHT_JOB_NAME, epsg: 5347 }));
  const run = async (id: string, path: string, given: Record<string, unknown>): Promise<number | undefined> => {
    const copy = server.library.scratchPath('.part');
    await copyFile(path, copy);
    const { finished } = await server.operations.startWithFile(
      job.id,
      id,
      { path: copy, fileName: basename(path) },
      given,
    );
    const { state, outcome, productId } = await finished;
    if (state !== 'done') throw new Error(`The demo flight could not be made: ${outcome ?? state}`);
    return productId;
  };
  await run(importControl.id, files.control, { role: 'control' });
  await run(importControl.id, files.check, { role: 'check' });
  const trajectory = await run(importTrajectory.id, flight.trajectory, { name: 'Flight of the flood bank' });
  const [leverForward, leverRight, leverDown] = FLIGHT_ERRORS.leverArm!;
  await run(georeferenceScan.id, flight.scan, {
    trajectory,
    leverForward,
    leverRight,
    leverDown,
    name: 'As flown, 5 strips',
  });
}
