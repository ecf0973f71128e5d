import { drawContours, type DrawPlanParameters, type Job, type Product, type ProductOf } from '@pampero/contract';
import { decimalsOf, unpackContours, type ContourSet } from '@pampero/core/contours';
import type { NumberedPoint } from '@pampero/core/formats/dxf';
import { picturePlan } from '@pampero/core/imagery';
import type { FeatureCode, FeatureLine } from '@pampero/core/lines';
import { planBounds, type PlanBounds } from '@pampero/core/raster';
import { PamperoError } from '@pampero/core/task';
import { frameOf } from '../passes/picture-site.js';
import { newCode, readCodes } from '../store/code-repository.js';
import { listControl } from '../store/control-repository.js';
import { readLines } from '../store/line-repository.js';
import type { ControlPointRow, Models } from '../store/models.js';
import { readProduct, readProductBlob } from '../store/product-repository.js';

/** Everything that a plan shows, read from the job. */
export interface PlanContent {
  readonly contours: readonly { readonly set: ContourSet; readonly interval: number; readonly decimals: number }[];
  readonly lines: readonly { readonly of: FeatureCode; readonly lines: readonly FeatureLine[] }[];
  readonly spots: readonly NumberedPoint[];
  readonly spotDecimals: number;
  readonly control: readonly ControlPointRow[];
  readonly picture: ProductOf<'picture'> | undefined;
  /** What it is read from, each with its number. */
  readonly sources: readonly string[];
}

type Chosen = Pick<DrawPlanParameters, 'contours' | 'lines' | 'spots' | 'picture' | 'control'>;

/** @throws JobError where something of it is no longer in the job */
export async function readPlanContent(models: Models, job: Job, chosen: Chosen): Promise<PlanContent> {
  const sources: string[] = [];
  const named = <P extends Product>(product: P): P => {
    sources.push(`${product.name} (${product.id})`);
    return product;
  };
  const contours: PlanContent['contours'][number][] = [];
  for (const id of chosen.contours) {
    const product = named(await readProduct(models, id, 'contours'));
    const { interval } = drawContours.parameters(job.unit).parse(product.parameters);
    const set = inPlace(unpackContours(await readProductBlob(models, id, 'lines')));
    contours.push({ set, interval, decimals: decimalsOf(interval) });
  }
  const codes = await readCodes(models);
  const lines: PlanContent['lines'][number][] = [];
  for (const id of chosen.lines) {
    const { facts } = named(await readProduct(models, id, 'lines'));
    const of = codes.find(({ code }) => code === facts.code) ?? newCode(facts.code, facts.role, codes);
    lines.push({ of, lines: await readLines(models, id) });
  }
  const spots = chosen.spots === undefined ? undefined : named(await readProduct(models, chosen.spots, 'spots'));
  const picture =
    chosen.picture === undefined ? undefined : named(await readProduct(models, chosen.picture, 'picture'));
  const control = chosen.control ? await listControl(models) : [];
  if (control.length > 0) sources.push('surveyed points');
  return {
    contours,
    lines,
    spots: spots
      ? (JSON.parse((await readProductBlob(models, spots.id, 'points')).toString('utf8')) as NumberedPoint[])
      : [],
    spotDecimals: spots?.facts.decimals ?? 2,
    control,
    picture,
    sources,
  };
}

/** With coordinates of the job in place of those from the set's own origin. */
function inPlace({ origin: [east, north], easting, northing, ...rest }: ContourSet): ContourSet {
  return { ...rest, origin: [0, 0], easting: easting.map((e) => e + east), northing: northing.map((n) => n + north) };
}

/**
 * The land that contours, lines and numbered points take; without any of these that of the picture, then of the control points.
 * @throws PamperoError `nothing-to-draw`
 */
export function landOf({ contours, lines, spots, picture, control }: PlanContent): PlanBounds {
  const drawn = boundsOf([
    ...contours.map(({ set }) => [set.easting, set.northing] as const),
    ...lines.flatMap((code) => code.lines.map(({ easting, northing }) => [easting, northing] as const)),
    columnsOf(spots),
  ]);
  const land = drawn ?? (picture ? picturePlan(frameOf(picture.facts)) : boundsOf([columnsOf(control)]));
  if (land) return land;
  throw new PamperoError('nothing-to-draw', {
    what: 'There is nothing to draw: no contours, lines, points or picture were chosen.',
    fix: 'Draw contours in Terrain or lines in Lines first, and choose them here.',
  });
}

type PlaceColumns = readonly [east: ArrayLike<number>, north: ArrayLike<number>];

function columnsOf(places: readonly { readonly easting: number; readonly northing: number }[]): PlaceColumns {
  return [places.map(({ easting }) => easting), places.map(({ northing }) => northing)];
}

function boundsOf(all: readonly PlaceColumns[]): PlanBounds | undefined {
  let [west, south, east, north] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const [e, n] of all) {
    const own = planBounds(e, n);
    west = Math.min(west, own.west);
    east = Math.max(east, own.east);
    south = Math.min(south, own.south);
    north = Math.max(north, own.north);
  }
  return east >= west ? { west, south, east, north } : undefined;
}
