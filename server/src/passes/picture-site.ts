import { PICTURE_TILE, type ProductOf } from '@pampero/contract';
import { pictureFrameOf, pixelOfPlace, picturePlan, pixelSize, type PictureFrame } from '@pampero/core/imagery';
import { newWitnessSums, type ShiftFound } from '@pampero/core/shifts';
import { framePlan, type PlanBounds, type RasterFrame } from '@pampero/core/raster';
import { checkCancelled, PamperoError } from '@pampero/core/task';
import { shared, sharedIntegers } from '../shared-memory.js';
import { quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import { listStoredNodes } from '../store/node-repository.js';
import type { Models } from '../store/models.js';
import { readTile, tilesOwner } from '../store/picture-repository.js';
import type { EncodedTile, PictureLevel } from '../tasks/picture-tasks.js';
import { overGroups, type CloudPass } from './cloud-pass.js';
import { groupNodes } from './node-groups.js';

export type PictureFacts = ProductOf<'picture'>['facts'];

export const frameOf: (facts: PictureFacts) => PictureFrame = pictureFrameOf;

/** A tile as it is kept, with what of it is picture; undefined where there is none. */
export async function readEncodedTile(
  models: Models,
  owner: number,
  { hasMask }: Pick<PictureFacts, 'hasMask'>,
  place: { readonly level: number; readonly x: number; readonly y: number },
): Promise<EncodedTile | undefined> {
  const colour = await readTile(models, owner, { part: 'colour', ...place });
  if (!colour) return undefined;
  const mask = hasMask ? await readTile(models, owner, { part: 'mask', ...place }) : undefined;
  return { x: place.x, y: place.y, colour, mask };
}

/** The tiles of a level that a box in plan touches, with the pixel around it that bilinear reading wants. */
export async function readLevel(
  models: Models,
  productId: number,
  facts: PictureFacts,
  level: number,
  { west, south, east, north }: PlanBounds,
): Promise<PictureLevel> {
  const placement = frameOf(facts);
  const toPixel = pixelOfPlace(placement);
  const corners = [west, east].flatMap((e) => [south, north].map((n) => toPixel(e, n)));
  const side = PICTURE_TILE * 2 ** level;
  const range = (axis: 0 | 1, size: number): [number, number] => {
    const values = corners.map((corner) => corner[axis]);
    const margin = 2 ** level;
    return [
      Math.max(0, Math.floor((Math.min(...values) - margin) / side)),
      Math.min(Math.ceil(size / side) - 1, Math.floor((Math.max(...values) + margin) / side)),
    ];
  };
  const [[x0, x1], [y0, y1]] = [range(0, facts.columns), range(1, facts.rows)];
  const owner = await tilesOwner(models, productId);
  const tiles: EncodedTile[] = [];
  for (let y = y0; y <= y1; y++)
    for (let x = x0; x <= x1; x++) {
      const tile = await readEncodedTile(models, owner, facts, { level, x, y });
      if (tile) tiles.push(tile);
    }
  return { placement, level, isPaletted: facts.isPaletted, tiles };
}

/** Cells of the raster that a picture and a cloud are compared on, at most. */
const MOST_CELLS = 4_000_000;
/** No less than a tile of the check and half of the next. */
const LEAST_SIDE = 96;

/** @throws PamperoError `picture-apart` where picture and cloud have no land in common */
export function comparedFrame(
  facts: PictureFacts,
  bounds: { readonly min: readonly number[]; readonly max: readonly number[] },
  spacing: number,
  given: number | undefined,
  names: { readonly picture: string; readonly cloud: string },
): RasterFrame {
  const frame = frameOf(facts);
  const plan = picturePlan(frame);
  const [west, east] = [Math.max(plan.west, bounds.min[0]!), Math.min(plan.east, bounds.max[0]!)];
  const [south, north] = [Math.max(plan.south, bounds.min[1]!), Math.min(plan.north, bounds.max[1]!)];
  if (!(east > west) || !(north > south))
    throw new PamperoError('picture-apart', {
      what: `The picture “${names.picture}” and the cloud “${names.cloud}” have no land in common.`,
      fix: 'Check the coordinate system of the picture, or choose the cloud it was taken over.',
    });
  const least = Math.sqrt(((east - west) * (north - south)) / MOST_CELLS);
  const cell = Math.max(least, given ?? Math.max(spacing, pixelSize(frame)));
  const sized = (size: number): number => Math.max(LEAST_SIDE, Math.ceil(size / cell));
  return { east: west, north: south, cell, columns: sized(east - west), rows: sized(north - south) };
}

/** How far the points of a cloud lie apart, were they spread evenly over its land. */
export function spacingOf({
  bounds: { min, max },
  pointCount,
}: {
  readonly bounds: { readonly min: readonly number[]; readonly max: readonly number[] };
  readonly pointCount: number;
}): number {
  return Math.sqrt(((max[0]! - min[0]!) * (max[1]! - min[1]!)) / Math.max(1, pointCount));
}

/** How far a picture lies off a cloud. */
export async function shiftOf(
  pass: CloudPass,
  picture: { readonly id: number; readonly name: string; readonly facts: PictureFacts },
  cloudId: number,
  cell: number | undefined,
  onShare: (share: number) => void,
): Promise<{ found: ShiftFound; frame: RasterFrame; cloudName: string }> {
  const { job, pool, signal } = pass;
  const facts = await readCloudFacts(job.read, cloudId);
  const spacing = spacingOf(facts);
  const frame = comparedFrame(picture.facts, facts.bounds, spacing, cell, { picture: picture.name, cloud: facts.name });
  const ratio = frame.cell / pixelSize(frameOf(picture.facts));
  const level = Math.max(0, Math.min(picture.facts.levels - 1, Math.floor(Math.log2(Math.max(1, ratio)))));
  const tiles = await readLevel(job.read, picture.id, picture.facts, level, framePlan(frame));
  const light = await pool.run('lightnessOnFrame', { picture: tiles, frame }, signal);
  onShare(0.2);
  const sums = newWitnessSums(frame, sharedIntegers);
  const quantisation = quantisationOf(facts);
  const { attributeNames: names, columns } = facts;
  const groups = groupNodes(await listStoredNodes(job.read, cloudId));
  await overGroups(
    pass,
    groups,
    { attributes: true, onShare: (share) => onShare(0.2 + 0.6 * share) },
    (nodes, _, transfer) =>
      pool.run('gatherWitnesses', { nodes, quantisation, names, columns, sums }, signal, transfer),
  );
  checkCancelled(signal);
  const found = await pool.run('findShift', { picture: shared(light), sums }, signal);
  onShare(1);
  return { found, frame, cloudName: facts.name };
}
