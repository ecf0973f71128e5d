import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { lengthUnits } from '@pampero/core/geodesy';
import { formatCounted, formatNumber } from '@pampero/core/wording';
import { crsByCode } from '../crs/crs-catalogue.js';
import { writeWhole } from '../files/write-whole.js';
import { writePackage } from '../hand-over/write-package.js';
import type { StartedServices } from '../services.js';
import { compareSeams, seamsAsCsv, type Seam } from '../site/seams.js';
import { SQUARES_GATE } from '../site/sheet-for-squares.js';
import type { DividedSite, SiteSquare } from '../site/site-file.js';
import type { RunSquare } from '../site/site-run.js';
import type { SquareBoard } from '../site/square-board.js';
import { squaresIndex } from '../site/squares-index.js';
import { EXIT } from './exit-codes.js';
import { folderTarget, itemsOf } from './folder-target.js';
import { edgesIn, piecesIn } from './site-options.js';
import type { Telling } from './telling.js';

/** Tells how far the squares are, and how their surfaces meet. */
export async function tellOutcome(
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

/** Writes what a square made into its folder. */
export async function writeSquare(
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
