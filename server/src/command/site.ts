import { mkdir, rm, stat, writeFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { isDeepStrictEqual } from 'node:util';
import { lengthUnits, metresPer, type LengthUnit } from '@pampero/core/geodesy';
import { formatCount, formatCounted, formatNumber } from '@pampero/core/wording';
import { crsByCode } from '../crs/crs-catalogue.js';
import { mapWide } from '../passes/node-groups.js';
import { writePackage } from '../hand-over/write-package.js';
import { startServices, type StartedServices } from '../services.js';
import { readSettings } from '../settings.js';
import { divideFiles } from '../site/divide-files.js';
import { compareSeams, seamsAsCsv } from '../site/seams.js';
import { sheetForSquares, SQUARES_GATE } from '../site/sheet-for-squares.js';
import { readSite, writeSite, type SiteFile, type SiteSquare } from '../site/site-file.js';
import { SiteRun, waitsAt, type RunSquare } from '../site/site-run.js';
import { EXIT, Misuse } from './exit-codes.js';
import { existing } from './files.js';
import { folderTarget, itemsOf } from './folder-target.js';
import { acceptedGates, epsgOf, findSheet, placesOf, type PlaceOptions } from './sheet-options.js';
import { Telling } from './telling.js';

interface SiteOptions extends PlaceOptions {
  readonly out: string;
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

type DividedSite = SiteFile & { readonly squares: readonly SiteSquare[] };

/** Metres: twice the longest side that triangles have unless one says otherwise, so that what lies across an edge is known. */
const USUAL_MARGIN = 60;
/** Points. */
const USUAL_LEAST = 1000;

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
  const data = join(folder, 'jobs');
  await mkdir(data, { recursive: true });
  const settings = { ...readSettings({ ...process.env, PAMPERO_DATA: data }), folder: '/' };
  const services = await startServices(settings);
  const interruption = new AbortController();
  const { signal } = interruption;
  process.once('SIGINT', () => interruption.abort());
  process.once('SIGTERM', () => interruption.abort());
  signal.addEventListener('abort', () => {
    services.sheetRunner.close();
    void services.library.list().then((jobs) => Promise.all(jobs.map(({ id }) => services.runs.stopAll(id))));
  });
  try {
    const divided = await dividedSite(services, folder, options, telling, signal);
    const worked = withoutRim(divided, options.least, telling);
    checkNames(worked, options.without);
    const atOnce = options.atOnce === undefined ? settings.workers : wholeOf(options.atOnce, '--at-once');
    const shares = new Map<string, number>();
    const run = new SiteRun(services.library, services.sheetRunner, {
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
    });
    await tellOutcome(services, worked, await run.run(), folder, atOnce, telling, signal);
  } catch (error) {
    if (!signal.aborted) throw error;
    telling.fault('Stopped. Run the same command again to go on.');
    process.exitCode = EXIT.interrupted;
  } finally {
    await services.close();
  }
}

const piecesIn = (folder: string): string => join(folder, 'pieces');

/** The site as its folder has it, or divided now. */
async function dividedSite(
  { pool }: StartedServices,
  folder: string,
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
  const known = await readSite(folder);
  if (known?.squares) {
    const margin = options.margin === undefined ? known.margin : lengthOf(options.margin, '--margin');
    if (known.side !== side || known.margin !== margin || !isDeepStrictEqual(known.files, files))
      throw new Misuse(
        `${options.out} holds a site of other files, or divided otherwise: a side of ${known.side} and a margin of ${known.margin}. Choose another folder.`,
      );
    telling.line(`Going on with ${formatCounted(known.squares.length, 'square')}.`);
    return { ...known, squares: known.squares };
  }
  const stated = options.crs === undefined ? undefined : epsgOf(options.crs);
  // The unit is known once the files are open; the first one's system is that of all.
  const epsgOfFiles = async (): Promise<number | undefined> => {
    const first = paths[0]!;
    const las = await pool.read('factsOfLas', { path: first, fileName: first }, { path: first, fileName: first, signal }).catch(() => undefined); // prettier-ignore
    return las?.crs?.epsg;
  };
  const code = stated ?? (await epsgOfFiles());
  const unit: LengthUnit = code === undefined ? 'metre' : crsByCode(code).unit;
  const margin = options.margin === undefined ? Math.min(side / 4, USUAL_MARGIN / metresPer(unit)) : lengthOf(options.margin, '--margin', 0); // prettier-ignore
  if (margin > side / 2) throw new Misuse(`A margin of ${margin} is more than half the side of ${side}.`);
  const begun: SiteFile = { version: 1, side, margin, files, ...(stated !== undefined && { epsg: stated }) };
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
function withoutRim(divided: DividedSite, least: string | undefined, telling: Telling): DividedSite {
  const limit = least === undefined ? USUAL_LEAST : wholeOf(least, '--least');
  const small = divided.squares.filter(({ own }) => own < limit);
  if (small.length === 0) return divided;
  const points = small.reduce((sum, { own }) => sum + own, 0);
  telling.line(
    `Left out: ${formatCounted(small.length, 'square')} with fewer than ${formatCount(limit)} points, ${formatCount(points)} in all: ${small.map(({ name }) => name).join(', ')}. What lies in the margin of a square beside them goes to that. To work on them too: --least 1`,
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
  services: StartedServices,
  divided: DividedSite,
  squares: readonly RunSquare[],
  folder: string,
  atOnce: number,
  telling: Telling,
  signal: AbortSignal,
): Promise<void> {
  const done = squares.filter(({ run }) => run.state === 'done');
  let written = 0;
  await mapWide(done, atOnce, async (each) => {
    telling.progress(written / done.length, `Writing ${each.square.name}`);
    await writeSquare(services, each, folder, telling, signal);
    await rm(join(piecesIn(folder), each.square.name), { recursive: true, force: true });
    written++;
  });
  if (done.length === divided.squares.length) await rm(piecesIn(folder), { recursive: true, force: true });
  await tellSeams(services, divided, done, folder, telling);
  let isHeldUp = false;
  for (const { square, run } of squares) {
    const gate = waitsAt(run);
    if (run.state === 'done') continue;
    if (gate === SQUARES_GATE) isHeldUp = true;
    else if (gate !== undefined) {
      const { title, outcome } = run.steps.find(({ key }) => key === gate)!;
      telling.fault(`${square.name} waits at “${title}”. ${outcome} To go on: --accept "${gate}=the reason".`, { square: square.name, waitsAt: gate }); // prettier-ignore
      process.exitCode ??= EXIT.waiting;
    } else {
      telling.fault(`${square.name} stopped. ${run.because ?? ''} To go on without it: --without ${square.name}`, { square: square.name, state: run.state }); // prettier-ignore
      process.exitCode = EXIT.failed;
    }
  }
  if (isHeldUp) telling.fault('Its neighbours wait for it, so that their margins get its classes.');
  telling.line(`${done.length} of ${formatCounted(squares.length, 'square')} done. The jobs are in ${join(folder, 'jobs')}.`, { done: done.length }); // prettier-ignore
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
  telling.line(`${square.name}: ${formatCounted(written.files.length, 'file')} in ${join(folder, square.name)}`, { square: square.name, files: written.files.map(({ name }) => name) }); // prettier-ignore
}

async function tellSeams(
  { library }: StartedServices,
  layout: DividedSite,
  done: readonly RunSquare[],
  folder: string,
  telling: Telling,
): Promise<void> {
  const seams = await compareSeams(library, layout, done);
  if (seams.length === 0) return;
  await writeFile(join(folder, 'seams.csv'), seamsAsCsv(seams));
  const sum = (of: (seam: (typeof seams)[number]) => number): number =>
    seams.reduce((total, seam) => total + of(seam), 0);
  const { short } = lengthUnits[done[0]!.job.unit];
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
