import { PICTURE_TILE, type MaskByColourParameters } from '@pampero/contract';
import { pixelOfPlace, pixelSize, placeOfPixel, type PictureFrame } from '@pampero/core/imagery';
import { planLength } from '@pampero/core/lines';
import { NO_PICTURE, pickedColours, type MaskShaping, type PickedColours, type PixelWindow } from '@pampero/core/masks';
import type { PlanBounds } from '@pampero/core/raster';
import { checkCancelled, PamperoError } from '@pampero/core/task';
import { sharedBytes } from '../shared-memory.js';
import { tilesOwner } from '../store/picture-repository.js';
import { readLines } from '../store/line-repository.js';
import { readProduct } from '../store/product-repository.js';
import type { ShapedMask } from '../tasks/mask-tasks.js';
import type { EncodedTile } from '../tasks/picture-tasks.js';
import type { CloudPass } from './cloud-pass.js';
import { mapWide } from './node-groups.js';
import { frameOf, readEncodedTile, type PictureFacts } from './picture-site.js';

/** More pixels than this are looked at a level coarser. */
const MOST_PIXELS = 25_000_000;
/** Tiles decoded in one task. */
const TILES_A_TASK = 3;
/** Left out, specks and ragged edges of so many pixels are evened out. */
const SOFTENED = 4;

export interface PictureMask extends ShapedMask {
  readonly frame: PictureFrame;
  readonly colours: PickedColours['colours'];
}

interface MaskSite {
  readonly id: number;
  readonly name: string;
  readonly facts: PictureFacts;
}

/**
 * The land of a picture that looks like places that were picked.
 * @param limit - a window it is looked at in, and the most pixels of it: for a preview
 * @throws PamperoError `place-outside` for a place where there is no picture
 */
export async function maskOf(
  pass: CloudPass,
  picture: MaskSite,
  parameters: MaskByColourParameters,
  onShare: (share: number) => void = () => undefined,
  limit?: { readonly window: PlanBounds; readonly pixels: number },
): Promise<PictureMask> {
  const { job, pool, signal } = pass;
  const placement = frameOf(picture.facts);
  const toPixel = pixelOfPlace(placement);
  const ring = parameters.within === undefined ? undefined : await ringOf(pass, parameters.within);
  const area = limit && { ...limit, window: around(limit.window, parameters.places) };
  const { level, window } = windowOf(picture.facts, parameters.cell, area, ring);
  const atLevel = ([e, n]: readonly [number, number]): [number, number] => {
    const [column, row] = toPixel(e, n);
    return [column / 2 ** level - window.column, row / 2 ** level - window.row];
  };
  const frame = frameAt(placement, level, window);
  const pixel = pixelSize(frame);

  const own = await coloursAt(pass, picture, parameters.places);
  const like = parameters.like === undefined ? undefined : (await readProduct(job.read, parameters.like, 'mask')).facts;
  const colours = [...(own?.colours ?? []), ...(like?.colours ?? [])];

  const far = sharedBytes(window.columns * window.rows).fill(NO_PICTURE);
  const wanted = tilesOf(window);
  const batches = Array.from({ length: Math.ceil(wanted.length / TILES_A_TASK) }, (_, k) =>
    wanted.slice(k * TILES_A_TASK, (k + 1) * TILES_A_TASK),
  );
  const owner = await tilesOwner(job.read, picture.id);
  let done = 0;
  await mapWide(colours.length === 0 ? [] : batches, pool.threads + 1, async (batch) => {
    checkCancelled(signal);
    const tiles: EncodedTile[] = [];
    for (const { x, y } of batch) {
      const tile = await readEncodedTile(job.read, owner, picture.facts, { level, x, y });
      if (tile) tiles.push(tile);
    }
    await pool.run('measureFarTiles', { tiles, colours, window, far }, signal);
    onShare((0.8 * ++done) / batches.length);
  });
  const square = (side: number): number => (side / pixel) ** 2;
  const places = parameters.places.map(atLevel);
  const shaping: MaskShaping = {
    soften: (parameters.soften ?? SOFTENED * pixelSize(placement)) / pixel / 2,
    smallestHole: square(parameters.smallestHole),
    smallestPiece: square(parameters.smallestPiece),
    grow: parameters.grow / pixel,
    heldBy: parameters.everywhere || places.length === 0 ? undefined : places,
    within: ring?.map(atLevel),
    painted: parameters.painted.map(({ path, radius, adds }) => ({
      path: path.map(atLevel),
      radius: radius / pixel,
      adds,
    })),
  };
  const least = own?.tolerance ?? 0;
  // Colours alone, without a place: as far as they were let before.
  const tolerance = parameters.tolerance ?? (own ? undefined : (like?.tolerance ?? 0));
  const shaped = await pool.run('shapeMaskOf', { far, tolerance, least, places, frame, shaping }, signal);
  return { ...shaped, frame, colours };
}

function around({ west, south, east, north }: PlanBounds, places: readonly (readonly [number, number])[]): PlanBounds {
  const [es, ns] = [places.map(([e]) => e), places.map(([, n]) => n)];
  return {
    west: Math.min(west, ...es),
    south: Math.min(south, ...ns),
    east: Math.max(east, ...es),
    north: Math.max(north, ...ns),
  };
}

/** The pixels that are looked at, in the level that has no more of them than are wanted and none smaller. */
function windowOf(
  facts: PictureFacts,
  cell: number | undefined,
  limit: { readonly window: PlanBounds; readonly pixels: number } | undefined,
  ring: readonly (readonly [number, number])[] | undefined,
): { level: number; window: PixelWindow } {
  const placement = frameOf(facts);
  const toPixel = pixelOfPlace(placement);
  const boxes = [
    ...(limit ? [cornersOf(limit.window).map(([e, n]) => toPixel(e, n))] : []),
    ...(ring ? [ring.map(([e, n]) => toPixel(e, n))] : []),
  ];
  let [left, top, right, bottom] = [0, 0, facts.columns, facts.rows];
  for (const box of boxes) {
    const [columns, rows] = [box.map(([c]) => c), box.map(([, r]) => r)];
    left = Math.max(left, Math.floor(Math.min(...columns)));
    top = Math.max(top, Math.floor(Math.min(...rows)));
    right = Math.min(right, Math.ceil(Math.max(...columns)));
    bottom = Math.min(bottom, Math.ceil(Math.max(...rows)));
  }
  if (right <= left || bottom <= top)
    throw new PamperoError('place-outside', {
      what: 'There is no picture there.',
      fix: 'Look at land that the picture covers, or choose another picture.',
    });
  const most = limit?.pixels ?? MOST_PIXELS;
  let level = 0;
  while (
    level < facts.levels - 1 &&
    ((right - left) * (bottom - top) > most * 4 ** level || pixelSize(placement) * 2 ** level * 1.5 < (cell ?? 0))
  )
    level++;
  const half = 2 ** level;
  const [column, row] = [Math.floor(left / half), Math.floor(top / half)];
  return {
    level,
    window: { column, row, columns: Math.ceil(right / half) - column, rows: Math.ceil(bottom / half) - row },
  };
}

const cornersOf = ({ west, south, east, north }: PlanBounds): [number, number][] => [
  [west, south],
  [east, south],
  [east, north],
  [west, north],
];

/** A window of a level as a picture of its own. */
function frameAt(p: PictureFrame, level: number, { column, row, columns, rows }: PixelWindow): PictureFrame {
  const half = 2 ** level;
  const [east, north] = placeOfPixel(p, column * half, row * half);
  return {
    columns,
    rows,
    east,
    north,
    eastPerColumn: p.eastPerColumn * half,
    eastPerRow: p.eastPerRow * half,
    northPerColumn: p.northPerColumn * half,
    northPerRow: p.northPerRow * half,
  };
}

function tilesOf({ column, row, columns, rows }: PixelWindow): { x: number; y: number }[] {
  const out: { x: number; y: number }[] = [];
  for (let y = Math.floor(row / PICTURE_TILE); y * PICTURE_TILE < row + rows; y++)
    for (let x = Math.floor(column / PICTURE_TILE); x * PICTURE_TILE < column + columns; x++) out.push({ x, y });
  return out;
}

/** The colours at the places picked, from the picture's own pixels whatever level the mask is looked at. */
async function coloursAt(
  pass: CloudPass,
  picture: MaskSite,
  places: MaskByColourParameters['places'],
): Promise<PickedColours | undefined> {
  if (places.length === 0) return undefined;
  const owner = await tilesOwner(pass.job.read, picture.id);
  const toPixel = pixelOfPlace(frameOf(picture.facts));
  const pixels = places.map(([e, n]) => toPixel(e, n));
  const near = new Map<string, { x: number; y: number }>();
  for (const [column, row] of pixels)
    for (const dx of [-8, 8])
      for (const dy of [-8, 8]) {
        const [x, y] = [Math.floor((column + dx) / PICTURE_TILE), Math.floor((row + dy) / PICTURE_TILE)];
        if (x >= 0 && y >= 0) near.set(`${x}_${y}`, { x, y });
      }
  const tiles: EncodedTile[] = [];
  for (const { x, y } of near.values()) {
    const tile = await readEncodedTile(pass.job.read, owner, picture.facts, { level: 0, x, y });
    if (tile) tiles.push(tile);
  }
  const about = await pass.pool.run('pixelsAbout', { tiles, places: pixels }, pass.signal);
  const none = about.findIndex((found) => found.length === 0);
  if (none >= 0) {
    const [e, n] = places[none]!;
    throw new PamperoError('place-outside', {
      what: `The picture “${picture.name}” shows nothing at ${e.toFixed(2)} E ${n.toFixed(2)} N.`,
      fix: 'Pick places where the picture is.',
    });
  }
  return pickedColours(about);
}

/** The longest closed line of a code. */
async function ringOf({ job }: CloudPass, linesId: number): Promise<(readonly [number, number])[]> {
  const { name } = await readProduct(job.read, linesId, 'lines');
  const closed = (await readLines(job.read, linesId)).filter(({ isClosed, easting }) => isClosed && easting.length > 2);
  const longest = closed.reduce<(typeof closed)[number] | undefined>(
    (a, b) => (a && planLength(a) >= planLength(b) ? a : b),
    undefined,
  );
  if (!longest)
    throw new PamperoError('no-outline', {
      what: `${name} has no closed line that a mask could stay within.`,
      fix: 'Draw a closed line, or choose another code.',
    });
  return Array.from(longest.easting, (e, k): readonly [number, number] => [e, longest.northing[k]!]);
}
