import { mkdir } from 'node:fs/promises';
import { basename, extname, join, resolve } from 'node:path';
import { isDeepStrictEqual } from 'node:util';
import type { GivenPlaces, Job, RunSheet, SheetRun } from '@pampero/contract';
import { lookAtFile } from '../tasks/look-at-file.js';
import { writePackage } from '../hand-over/write-package.js';
import { startServices, type StartedServices } from '../services.js';
import { readSettings } from '../settings.js';
import { readSheetRun } from '../store/sheet-run-repository.js';
import { EXIT, Misuse } from './exit-codes.js';
import { folderTarget, itemsOf, tellWritten } from './folder-target.js';
import { NOWHERE } from './info.js';
import { acceptedGates, epsgOf, findSheet, placesOf, type PlaceOptions } from './sheet-options.js';
import { Telling } from './telling.js';

interface RunOptions extends PlaceOptions {
  readonly out: string;
  readonly crs?: string;
  readonly name?: string;
  readonly accept: readonly string[];
  readonly json?: boolean;
}

/**
 * Runs a sheet from files to files. The job is kept in the folder: called again after it was cut off, or with a gate accepted, it
 * goes on at the first step that is not done.
 */
export async function run(sheetName: string, options: RunOptions): Promise<void> {
  const telling = new Telling(options.json ?? false);
  const sheet = await findSheet(sheetName);
  const places = await placesOf(sheet, options);
  const accepted = acceptedGates(sheet, options.accept);
  const data = resolve(options.out, 'job');
  await mkdir(data, { recursive: true });
  const settings = { ...readSettings({ ...process.env, PAMPERO_DATA: data }), folder: '/' };
  const services = await startServices(settings);
  const interruption = new AbortController();
  process.once('SIGINT', () => interruption.abort());
  process.once('SIGTERM', () => interruption.abort());
  try {
    const { job, run: begun } = await beginOrGoOn(services, sheet, places, options, telling);
    const stop = async (): Promise<void> => {
      services.sheetRunner.close();
      await services.runs.stopAll(job.id);
    };
    interruption.signal.addEventListener('abort', () => void stop(), { once: true });
    const done = await throughGates(services, job, begun, accepted, telling);
    if (interruption.signal.aborted) {
      telling.fault('Stopped. Run the same command again to go on.');
      process.exitCode = EXIT.interrupted;
    } else if (done.state !== 'done') tellWhy(done, telling, sheetName, options.out);
    else await writeFiles(services, job, done, options.out, telling, interruption.signal);
  } finally {
    await services.close();
  }
}

async function beginOrGoOn(
  { library, sheetRunner }: StartedServices,
  sheet: RunSheet,
  places: GivenPlaces,
  options: RunOptions,
  telling: Telling,
): Promise<{ job: Job; run: SheetRun }> {
  const [known, ...others] = await library.list();
  if (others.length > 0) throw new Misuse(`${options.out} holds several jobs. Choose an empty folder.`);
  if (!known) {
    const first = Object.values(places).flatMap((place) => ('files' in place ? place.files : []))[0];
    const path = first && 'folderPath' in first ? `/${first.folderPath}` : undefined;
    const epsg = options.crs === undefined ? await statedSystem(path) : epsgOf(options.crs);
    const name = options.name ?? (path === undefined ? sheet.name : basename(path, extname(path)));
    const job = await library.create({ name, ...(epsg !== undefined && { epsg }) });
    telling.line(`Job “${job.name}”, ${job.crs.epsg === undefined ? 'no coordinate system' : `EPSG:${job.crs.epsg}`}`, {
      job: job.id,
    });
    return { job, run: await sheetRunner.start(job.id, sheet, places) };
  }
  const [latest] = await sheetRunner.list(known.id);
  if (!latest) return { job: known, run: await sheetRunner.start(known.id, sheet, places) };
  const stored = await readSheetRun((await library.file(known.id)).read, latest.id);
  if (!isDeepStrictEqual(stored.sheet, sheet) || !isDeepStrictEqual(stored.places, places))
    throw new Misuse(`${options.out} holds a run of another sheet or of other files. Choose another folder.`);
  if (latest.state === 'done') telling.line('All steps were done before; the files are written anew.');
  else if (latest.state === 'waiting') telling.line('Going on at the gate where the run waits.');
  else {
    telling.line('Going on at the first step that is not done.');
    return { job: known, run: await sheetRunner.goOn(known.id, latest.id) };
  }
  return { job: known, run: latest };
}

/** The system that a file says it is in; none where it says none that a job can have. */
async function statedSystem(path: string | undefined): Promise<number | undefined> {
  if (path === undefined) return undefined;
  const look = {
    path,
    fileName: basename(path),
    job: NOWHERE,
    jobBounds: undefined,
    layout: undefined,
    crs: undefined,
  };
  const crs = await lookAtFile(look).then(
    (told) => told.crs,
    () => undefined,
  );
  return crs?.isGeographic ? undefined : crs?.epsg;
}

/** Goes through all steps, and through gates that were accepted beforehand. */
async function throughGates(
  { sheetRunner }: StartedServices,
  job: Job,
  begun: SheetRun,
  accepted: ReadonlyMap<string, string>,
  telling: Telling,
): Promise<SheetRun> {
  const told = new Set<string>();
  const tell = (run: SheetRun): void => {
    for (const step of run.steps) {
      if (!['done', 'accepted'].includes(step.state) || told.has(step.key)) continue;
      told.add(step.key);
      const { key, title, state, outcome, figures } = step;
      telling.line(`${title}: ${state === 'accepted' ? `accepted. ${outcome}` : outcome}`, {
        step: key,
        state,
        figures,
      });
    }
    const running = run.steps.find(({ state }) => state === 'running');
    if (running) telling.progress(run.progress, running.title, run.secondsLeft);
  };
  let run = begun;
  for (;;) {
    run = await sheetRunner.watch(job.id, run.id, tell);
    const gate = run.steps.find(({ state }) => state === 'waiting');
    const reason = gate && accepted.get(gate.key);
    if (run.state !== 'waiting' || !gate || reason === undefined) return run;
    run = await sheetRunner.accept(job.id, run.id, gate.key, reason);
  }
}

function tellWhy(run: SheetRun, telling: Telling, sheetName: string, out: string): void {
  const gate = run.steps.find(({ state }) => state === 'waiting');
  if (run.state === 'waiting' && gate) {
    telling.fault(
      `The run waits at “${gate.title}”. ${gate.outcome}\nTo go on, look at it and run again with --accept "${gate.key}=the reason". The job is in ${join(out, 'job')}.`,
      { waitsAt: gate.key, sheet: sheetName },
    );
    process.exitCode = EXIT.waiting;
  } else {
    telling.fault(run.because ?? 'The run stopped.', { state: run.state });
    process.exitCode = EXIT.failed;
  }
}

async function writeFiles(
  services: StartedServices,
  job: Job,
  run: SheetRun,
  out: string,
  telling: Telling,
  signal: AbortSignal,
): Promise<void> {
  const items = itemsOf(run);
  const written = await writePackage(
    { ...services, jobId: job.id },
    { items, pattern: '{name}', note: '' },
    folderTarget(out),
    signal,
    (share, name) => telling.progress(share, `Writing ${name}`),
  );
  tellWritten(written, out, telling);
}
