import { stat } from 'node:fs/promises';
import { basename, resolve } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { isDeepStrictEqual } from 'node:util';
import { lengthUnits, metresPer, type LengthUnit } from '@pampero/core/geodesy';
import { checkCancelled } from '@pampero/core/task';
import { formatCount, formatCounted, formatNumber } from '@pampero/core/wording';
import { crsByCode } from '../crs/crs-catalogue.js';
import { codeSum } from '../queue/code-sum.js';
import type { StartedServices } from '../services.js';
import { divideFiles } from '../site/divide-files.js';
import { readSite, writeSite, type DividedSite, type SiteFile } from '../site/site-file.js';
import type { SquareBoard } from '../site/square-board.js';
import { Misuse } from './exit-codes.js';
import { existing } from './files.js';
import { epsgOf } from './sheet-options.js';
import { lengthOf, piecesIn, type SiteOptions } from './site-options.js';
import type { Telling } from './telling.js';

/** What a site is asked to be. */
type Given = Required<Pick<SiteFile, 'side' | 'files' | 'work' | 'code'>> & { readonly margin?: number };
/** Metres: twice the longest side that triangles have unless one says otherwise, so that what lies across an edge is known. */
const USUAL_MARGIN = 60;
/** What the machine that divides the files has taken meanwhile. */
const DIVIDING = 'dividing';

/** The site as its folder has it, or divided now; by one machine, while others wait for it. */
export async function dividedSite(
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
export function withoutRim(divided: DividedSite, limit: number, telling: Telling): DividedSite {
  const small = divided.squares.filter(({ own }) => own < limit);
  if (small.length === 0) return divided;
  const points = small.reduce((sum, { own }) => sum + own, 0);
  telling.line(
    `Left out: ${formatCounted(small.length, 'square')} with fewer than ${formatCount(limit)} points, ${formatCount(points)} in all: ${small.map(({ name }) => name).join(', ')}. What lies in the margin of a square beside them goes to that. To work on them too, begin in another folder with --least 1`,
    { leftOut: small.map(({ name }) => name), points },
  );
  return { ...divided, squares: divided.squares.filter(({ own }) => own >= limit) };
}
