import { createHash } from 'node:crypto';
import { basename, join, resolve } from 'node:path';
import type { GivenPlaces, RunSheet } from '@pampero/contract';
import { startServices } from '../services.js';
import { readSettings } from '../settings.js';
import { sheetForSquares } from '../site/sheet-for-squares.js';
import type { DividedSite } from '../site/site-file.js';
import { SiteRun } from '../site/site-run.js';
import { SquareBoard } from '../site/square-board.js';
import { becomeMachine, machineIn, stillWorks } from '../site/this-machine.js';
import { EXIT, Misuse } from './exit-codes.js';
import { acceptedGates, findSheet, placesOf } from './sheet-options.js';
import { dividedSite, withoutRim } from './site-division.js';
import { edgesIn, leastOf, piecesIn, wholeOf, type SiteOptions } from './site-options.js';
import { tellOutcome, writeSquare } from './site-outcome.js';
import { Telling } from './telling.js';

/** Seconds. */
const USUAL_SILENCE = 60;

/**
 * Works on a large site: divides its files into squares with margins, runs a sheet on each in a job of its own, and holds what was made
 * against each other along the edges. Called again after it was cut off, it goes on.
 */
export async function site(sheetName: string, options: SiteOptions): Promise<void> {
  const telling = new Telling(options.json ?? false);
  const sheet = await findSheet(sheetName);
  sheetForSquares(sheet);
  const places = await placesOf(sheet, options);
  const accepted = acceptedGates(sheet, options.accept);
  const folder = resolve(options.out);
  const jobs = options.jobs === undefined ? join(folder, 'jobs') : resolve(options.jobs);
  const board = await boardOf(folder, jobs, options.silent);
  const settings = { ...readSettings({ ...process.env, PAMPERO_DATA: jobs }), folder: '/', edges: edgesIn(folder) }; // prettier-ignore
  const services = await startServices(settings);
  const interruption = new AbortController();
  const { signal } = interruption;
  process.once('SIGINT', () => interruption.abort());
  process.once('SIGTERM', () => interruption.abort());
  signal.addEventListener('abort', () => {
    services.sheetRunner.close();
    void services.library.list().then((all) => Promise.all(all.map(({ id }) => services.runs.stopAll(id))));
  });
  try {
    const work = workSum(sheet, places, leastOf(options));
    const divided = await dividedSite(services, board, folder, work, options, telling, signal);
    const worked = withoutRim(divided, leastOf(options), telling);
    checkNames(worked, options.without);
    const atOnce = options.atOnce === undefined ? settings.workers : wholeOf(options.atOnce, '--at-once');
    const shares = new Map<string, number>();
    await new SiteRun(
      { ...services, board },
      {
        site: worked,
        without: options.without,
        sheet,
        places,
        pieces: piecesIn(folder),
        atOnce,
        accepted,
        signal,
        onSquare: (square, { progress, steps }) => {
          shares.set(square.name, progress);
          const sum = [...shares.values()].reduce((a, b) => a + b, 0);
          const step = steps.find(({ state }) => state === 'running')?.title ?? 'Waiting';
          telling.progress(sum / worked.squares.length, `${square.name}: ${step}`);
        },
        onDone: (name) => void shares.set(name, 1),
        write: (done) => writeSquare(services, done, folder, telling, signal),
      },
    ).run();
    await tellOutcome(board, worked, options.without, folder, jobs, telling);
  } catch (error) {
    await board.letGo();
    if (!signal.aborted) throw error;
    telling.fault('Stopped. Run the same command again to go on.');
    process.exitCode = EXIT.interrupted;
  } finally {
    await board.close();
    await services.close();
  }
}

/** Where it is kept which machine works on which square. @throws Misuse where another command works with the same jobs */
async function boardOf(folder: string, jobs: string, silent: string | undefined): Promise<SquareBoard> {
  const silentMs = 1000 * (silent === undefined ? USUAL_SILENCE : wholeOf(silent, '--silent'));
  // A beat may be missed now and then, as where the shared folder is slow.
  const times = { beatMs: silentMs / 12, silentMs };
  const before = await machineIn(jobs);
  const works = before && (await stillWorks(before));
  const squares = join(folder, 'squares');
  const isTaken =
    works ?? (before !== undefined && (await (await SquareBoard.at(squares, before.name, times)).isTaken()));
  if (isTaken)
    throw new Misuse(
      `Another command works with the jobs in ${jobs}, on ${before!.host}. To help it, here or on another machine, give this one a folder of its own, on a disk of its own: --jobs`,
    );
  return SquareBoard.at(squares, (await becomeMachine(jobs, before)).name, times);
}

/** What all squares go by: the steps, what is given to them, and which squares there are, since that says how far the outer ones reach. */
function workSum(sheet: RunSheet, places: GivenPlaces, least: number): string {
  // Folders may be called otherwise on another machine.
  const given = JSON.stringify([sheet.steps, places, least], (key, value: unknown) =>
    key === 'folderPath' ? basename(String(value)) : value,
  );
  return createHash('sha256').update(given).digest('base64url').slice(0, 16);
}

function checkNames({ squares }: DividedSite, names: readonly string[]): void {
  for (const name of names)
    if (!squares.some((square) => square.name === name))
      throw new Misuse(`There is no square ${name}. Squares: ${squares.map((square) => square.name).join(', ')}.`);
}
