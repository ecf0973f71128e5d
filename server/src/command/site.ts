import { createHash } from 'node:crypto';
import { rm, stat } from 'node:fs/promises';
import { basename, join, resolve } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { isDeepStrictEqual } from 'node:util';
import type { GivenPlaces, RunSheet } from '@pampero/contract';
import { lengthUnits, metresPer, type LengthUnit } from '@pampero/core/geodesy';
import { checkCancelled } from '@pampero/core/task';
import { formatCount, formatCounted, formatNumber } from '@pampero/core/wording';
import { crsByCode } from '../crs/crs-catalogue.js';
import { writePackage } from '../hand-over/write-package.js';
import { codeSum } from '../queue/code-sum.js';
import { startServices, type StartedServices } from '../services.js';
import { readSettings } from '../settings.js';
import { divideFiles } from '../site/divide-files.js';
import { compareSeams, seamsAsCsv, type Seam } from '../site/seams.js';
import { sheetForSquares, SQUARES_GATE } from '../site/sheet-for-squares.js';
import { readSite, writeSite, type SiteFile, type SiteSquare } from '../site/site-file.js';
import { SiteRun, type RunSquare } from '../site/site-run.js';
import { SquareBoard } from '../site/square-board.js';
import { squaresIndex } from '../site/squares-index.js';
import { becomeMachine, machineIn, stillWorks } from '../site/this-machine.js';
import { writeWhole } from '../files/write-whole.js';
import { EXIT, Misuse } from './exit-codes.js';
import { existing } from './files.js';
import { folderTarget, itemsOf } from './folder-target.js';
import { acceptedGates, epsgOf, findSheet, placesOf, type PlaceOptions } from './sheet-options.js';
import { Telling } from './telling.js';

interface SiteOptions extends PlaceOptions {
  readonly out: string;
  readonly jobs?: string;
  readonly silent?: string;
  readonly in: readonly string[];
  readonly side: string;
  readonly margin?: string;
  readonly crs?: string;
  readonly atOnce?: string;
  readonly least?: string;
  readonly without: readonly string[];
  readonly accept: readonly string[];
  readonly json?: boolean;
}

/** What a site is asked to be. */
type Given = Required<Pick<SiteFile, 'side' | 'files' | 'work' | 'code'>> & { readonly margin?: number };
type DividedSite = SiteFile & { readonly squares: readonly SiteSquare[] };

/** Metres: twice the longest side that triangles have unless one says otherwise, so that what lies across an edge is known. */
const USUAL_MARGIN = 60;
/** Points. */
const USUAL_LEAST = 1000;
/** Seconds. */
const USUAL_SILENCE = 60;
/** What the machine that divides the files has taken meanwhile. */
const DIVIDING = 'dividing';

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

const leastOf = ({ least }: SiteOptions): number => (least === undefined ? USUAL_LEAST : wholeOf(least, '--least'));

/** What all squares go by: the steps, what is given to them, and which squares there are, since that says how far the outer ones reach. */
function workSum(sheet: RunSheet, places: GivenPlaces, least: number): string {
  // Folders may be called otherwise on another machine.
  const given = JSON.stringify([sheet.steps, places, least], (key, value: unknown) =>
    key === 'folderPath' ? basename(String(value)) : value,
  );
  return createHash('sha256').update(given).digest('base64url').slice(0, 16);
}

const edgesIn = (folder: string): string => join(folder, 'edges');
const piecesIn = (folder: string): string => join(folder, 'pieces');

/** The site as its folder has it, or divided now; by one machine, while others wait for it. */
async function dividedSite(
  services: StartedServices,
  board: SquareBoard,
  folder: string,
  work: string,
  options: SiteOptions,
  telling: Telling,
  signal: AbortSignal,
): Promise<DividedSite> {
  const side = lengthOf(options.side, '--side');
  // Sorted: which file is named first decides nothing.
  const paths = (await Promise.all(options.in.map(async (path) => resolve(await existing(path))))).sort();
  const files: SiteFile['files'] = [];
  for (const path of paths) {
    const facts = await stat(path);
    if (facts.isDirectory()) throw new Misuse(`${path} is a folder. Give its files, as in --in ${path}/*.laz.`);
    files.push([path, facts.size, Math.round(facts.mtimeMs)]);
  }
  const given = { side, files, work, code: codeSum(), ...(options.margin !== undefined && { margin: lengthOf(options.margin, '--margin', 0) }) }; // prettier-ignore
  for (;;) {
    checkCancelled(signal);
    const known = await knownSite(folder, given, options);
    if (known) {
      telling.line(`Going on with ${formatCounted(known.squares.length, 'square')}.`);
      return known;
    }
    if (await board.take(DIVIDING)) break;
    telling.progress(0, 'Another machine divides the files');
    await pause(1000, undefined, { signal }).catch(() => undefined);
  }
  try {
    const known = await knownSite(folder, given, options);
    return known ?? (await divideNow(services, folder, paths, given, options, telling, signal));
  } finally {
    await board.giveBack(DIVIDING);
  }
}

/** The site that is in a folder, divided. @throws Misuse where it is another */
async function knownSite(folder: string, given: Given, options: SiteOptions): Promise<DividedSite | undefined> {
  const known = await readSite(folder);
  if (!known?.squares) return undefined;
  // Where a file lies may be called otherwise on another machine.
  const named = (files: SiteFile['files']): unknown => files.map(([path, ...facts]) => [basename(path), ...facts]);
  if (
    known.side !== given.side ||
    known.margin !== (given.margin ?? known.margin) ||
    !isDeepStrictEqual(named(known.files), named(given.files))
  )
    // prettier-ignore
    throw new Misuse(
      `${options.out} holds a site of other files, or divided otherwise: a side of ${known.side} and a margin of ${known.margin}. Choose another folder.`,
    );
  if (known.work !== undefined && known.work !== given.work)
    throw new Misuse(
      `The site in ${options.out} was begun with another run sheet, another --least, or other files or values for its places. Give those, or choose another folder.`,
    );
  if (known.code !== undefined && known.code !== given.code)
    throw new Misuse(
      `The site in ${options.out} was begun with another version of Pampero, whose squares might not meet those of this one. Finish it with that version, or choose another folder.`,
    );
  return { ...known, squares: known.squares };
}

async function divideNow(
  { pool }: StartedServices,
  folder: string,
  paths: readonly string[],
  given: Given,
  options: SiteOptions,
  telling: Telling,
  signal: AbortSignal,
): Promise<DividedSite> {
  const { side } = given;
  const stated = options.crs === undefined ? undefined : epsgOf(options.crs);
  // The unit is known once the files are open; the first one's system is that of all.
  const epsgOfFiles = async (): Promise<number | undefined> => {
    const first = paths[0]!;
    const las = await pool.read('factsOfLas', { path: first, fileName: first }, { path: first, fileName: first, signal }).catch(() => undefined); // prettier-ignore
    return las?.crs?.epsg;
  };
  const code = stated ?? (await epsgOfFiles());
  const unit: LengthUnit = code === undefined ? 'metre' : crsByCode(code).unit;
  const margin = given.margin ?? Math.min(side / 4, USUAL_MARGIN / metresPer(unit));
  if (margin > side / 2) throw new Misuse(`A margin of ${margin} is more than half the side of ${side}.`);
  const begun: SiteFile = { version: 1, ...given, margin, ...(stated !== undefined && { epsg: stated }) };
  await writeSite(folder, begun);
  const { squares, epsg } = await divideFiles(paths, {
    ...{ pool, layout: { side, margin }, folder: piecesIn(folder), signal },
    report: (share, step) => telling.progress(share, step),
  });
  const divided = { ...begun, ...((stated ?? epsg) !== undefined && { epsg: stated ?? epsg }), squares };
  await writeSite(folder, divided);
  const points = squares.reduce((sum, { own }) => sum + own, 0);
  telling.line(
    `Divided ${formatCounted(points, 'point')} into ${formatCounted(squares.length, 'square')} of ${side} ${lengthUnits[unit].short} with a margin of ${formatNumber(margin, 1)} ${lengthUnits[unit].short}.`,
    { points, squares: squares.length },
  );
  return divided;
}

/** Squares that a few points at the rim of the site belong to, mostly some that lie on an edge, are no land of their own. */
function withoutRim(divided: DividedSite, limit: number, telling: Telling): DividedSite {
  const small = divided.squares.filter(({ own }) => own < limit);
  if (small.length === 0) return divided;
  const points = small.reduce((sum, { own }) => sum + own, 0);
  telling.line(
    `Left out: ${formatCounted(small.length, 'square')} with fewer than ${formatCount(limit)} points, ${formatCount(points)} in all: ${small.map(({ name }) => name).join(', ')}. What lies in the margin of a square beside them goes to that. To work on them too, begin in another folder with --least 1`,
    { leftOut: small.map(({ name }) => name), points },
  );
  return { ...divided, squares: divided.squares.filter(({ own }) => own >= limit) };
}

function checkNames({ squares }: DividedSite, names: readonly string[]): void {
  for (const name of names)
    if (!squares.some((square) => square.name === name))
      throw new Misuse(`There is no square ${name}. Squares: ${squares.map((square) => square.name).join(', ')}.`);
}

async function tellOutcome(
  board: SquareBoard,
  divided: DividedSite,
  without: readonly string[],
  folder: string,
  jobs: string,
  telling: Telling,
): Promise<void> {
  const works = await board.look();
  const squares = divided.squares.filter(({ name }) => !without.includes(name));
  const done = squares.filter(({ name }) => works.get(name)?.phase === 'done');
  if (done.length === divided.squares.length) await rm(piecesIn(folder), { recursive: true, force: true });
  const seams = await tellSeams(divided, done, folder, telling);
  await writeWhole(join(folder, 'squares.geojson'), squaresIndex(divided, divided.squares, works, seams));
  let isHeldUp = false;
  for (const { name } of squares) {
    const work = works.get(name);
    if (work?.phase === 'done') continue;
    const on = work === undefined || work.by === board.machine ? '' : `, on ${work.by}`;
    if (work?.phase !== 'stopped' || work.waitsAt === SQUARES_GATE) isHeldUp = true;
    else if (work.waitsAt !== undefined) {
      telling.fault(`${name} waits at ${work.because}${on}. To go on: --accept "${work.waitsAt}=the reason".`, { square: name, waitsAt: work.waitsAt }); // prettier-ignore
      process.exitCode ??= EXIT.waiting;
    } else {
      telling.fault(`${name} stopped${on}. ${work.because} To go on without it: --without ${name}`, { square: name, state: 'stopped' }); // prettier-ignore
      process.exitCode = EXIT.failed;
    }
  }
  if (isHeldUp) telling.fault('Its neighbours wait for it, so that their margins get its classes.');
  telling.line(`${done.length} of ${formatCounted(squares.length, 'square')} done. The jobs are in ${jobs}.`, { done: done.length }); // prettier-ignore
}

async function writeSquare(
  services: StartedServices,
  { square, job, run }: RunSquare,
  folder: string,
  telling: Telling,
  signal: AbortSignal,
): Promise<void> {
  const items = itemsOf(run);
  const target = folderTarget(join(folder, square.name));
  const written = await writePackage({ ...services, jobId: job.id }, { items, pattern: '{name}, {job}', note: '' }, target, signal); // prettier-ignore
  for (const { name, because } of written.missing) {
    telling.fault(`${square.name}: not written: ${name}. ${because}`, { square: square.name, file: name });
    process.exitCode = EXIT.failed;
  }
  await rm(join(piecesIn(folder), square.name), { recursive: true, force: true });
  telling.line(`${square.name}: ${formatCounted(written.files.length, 'file')} in ${join(folder, square.name)}`, { square: square.name, files: written.files.map(({ name }) => name) }); // prettier-ignore
}

async function tellSeams(
  divided: DividedSite,
  done: readonly SiteSquare[],
  folder: string,
  telling: Telling,
): Promise<Seam[]> {
  const unit = divided.epsg === undefined ? 'metre' : crsByCode(divided.epsg).unit;
  const seams = await compareSeams(edgesIn(folder), { ...divided, unit }, done);
  if (seams.length === 0) return seams;
  await writeWhole(join(folder, 'seams.csv'), seamsAsCsv(seams));
  const sum = (of: (seam: (typeof seams)[number]) => number): number =>
    seams.reduce((total, seam) => total + of(seam), 0);
  const { short } = lengthUnits[unit];
  const [shared, differing, alone] = [
    sum(({ shared: s }) => s),
    sum(({ differing: d }) => d),
    sum(({ oneSided: o }) => o),
  ];
  const worst = Math.max(...seams.map((seam) => seam.worst));
  telling.line(
    `Surfaces meet along ${formatNumber(shared, 0)} ${short} of edges between squares; along ${formatNumber(differing, 1)} ${short} of it they differ, by ${formatNumber(worst, 3)} ${short} at most. Along ${formatNumber(alone, 1)} ${short} only one of two has land. Each edge is in seams.csv.`,
    { seams: seams.length, shared, differing, oneSided: alone, worst },
  );
  return seams;
}

function lengthOf(text: string, option: string, least = 1): number {
  const value = Number(text);
  if (!Number.isFinite(value) || value < least)
    throw new Misuse(`${option} takes a length of ${least} or more in the unit of the files, and got “${text}”.`);
  return value;
}

function wholeOf(text: string, option: string): number {
  const value = Number(text);
  if (!Number.isInteger(value) || value < 1) throw new Misuse(`${option} takes a whole number, and got “${text}”.`);
  return value;
}
