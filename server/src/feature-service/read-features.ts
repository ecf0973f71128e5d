import { LONGITUDE_LATITUDE, planTransform } from '@pampero/core/geodesy';
import { readGeoJsonLines, type ReadLine } from '@pampero/core/formats/lines';
import type { PlanBounds } from '@pampero/core/raster';
import { checkCancelled } from '@pampero/core/task';
import { z } from 'zod';
import type { Outside } from '../network/outside.js';
import { askJson, serviceAddress, serviceError } from './ask.js';

/**
 * Reads features of a service by the open standard OGC API - Features: Part 1 Core (OGC 17-069r4) for landing page, collections, bounding box and paging; Part 2
 * (OGC 18-058r1) for coordinates in another system than longitude and latitude.
 */
const linkSchema = z.object({
  href: z.string().min(1).max(4000),
  rel: z.string().optional(),
  type: z.string().optional(),
});
const collectionSchema = z.object({
  id: z.string().min(1).max(400),
  title: z.string().max(2000).optional(),
  crs: z.array(z.string().max(400)).max(2000).optional(),
});
const collectionsSchema = z.object({
  collections: z.array(collectionSchema).max(10_000),
  crs: z.array(z.string().max(400)).max(2000).optional(),
});
const pageSchema = z.object({
  type: z.literal('FeatureCollection'),
  features: z.array(z.unknown()).max(100_000),
  links: z.array(linkSchema).max(1000).optional(),
  numberMatched: z.number().optional(),
});

const PAGE = 1000;
const MOST_FEATURES = 100_000;
const [FIRST_PART, NO_SERVICE] = [
  'http://www.opengis.net/def/crs/EPSG/0/',
  'Give the address of the landing page of a service by OGC API – Features.',
];

export interface Collection {
  readonly id: string;
  readonly title: string;
  /** EPSG codes that its features can be asked for in. */
  readonly epsg: readonly number[];
}

export interface Wanted {
  readonly bounds: PlanBounds;
  /** The job's own system. */
  readonly system: { readonly proj4: string; readonly epsg?: number | undefined };
}

/** What the service at an address offers. */
export async function readCollections(outside: Outside, address: string, signal: AbortSignal): Promise<Collection[]> {
  const { json } = await askJson(outside, under(address, 'collections'), signal);
  const read = collectionsSchema.safeParse(json);
  if (!read.success)
    throw serviceError('service-rubbish', address, 'does not list its collections as the standard has it.', NO_SERVICE);
  return read.data.collections.map(({ id, title, crs = [] }) => ({
    id,
    title: title ?? id,
    // "#/crs" stands for the list that all collections share.
    epsg: [...crs.filter((uri) => uri !== '#/crs'), ...(crs.includes('#/crs') ? (read.data.crs ?? []) : [])].flatMap(
      (uri) => {
        const code = Number(/\/EPSG\/[^/]+\/(\d+)$/.exec(uri)?.[1]);
        return Number.isInteger(code) ? [code] : [];
      },
    ),
  }));
}

/** @throws PamperoError `no-such-collection`, with those that there are */
export function chosenCollection(
  address: string,
  collections: readonly Collection[],
  wanted: string | undefined,
): Collection {
  const names = collections.map(({ id }) => id);
  const found =
    wanted === undefined
      ? collections.length === 1
        ? collections[0]
        : undefined
      : collections.find(({ id }) => id === wanted);
  if (found) return found;
  const list = names.slice(0, 20).join(', ') + (names.length > 20 ? ` and ${names.length - 20} more` : '');
  if (names.length === 0) throw serviceError('no-such-collection', address, 'offers no collections.', NO_SERVICE);
  throw serviceError(
    'no-such-collection',
    address,
    wanted === undefined ? `offers several collections: ${list}.` : `has no collection “${wanted}”. It has ${list}.`,
    'Type the name of one of them.',
  );
}

/** The lines and rims of all features that touch a box, in the job's system; page by page. */
export async function readFeatures(
  outside: Outside,
  address: string,
  collection: Collection,
  { bounds, system }: Wanted,
  signal: AbortSignal,
  onPage: (features: number, ofThem: number | undefined) => void = () => undefined,
): Promise<ReadLine[]> {
  const isOwn = system.epsg !== undefined && collection.epsg.includes(system.epsg);
  let next: URL | undefined = under(address, `collections/${encodeURIComponent(collection.id)}/items`);
  next.searchParams.set(
    'bbox',
    boxOf(bounds, system.proj4)
      .map((value) => value.toFixed(8))
      .join(),
  );
  next.searchParams.set('limit', String(PAGE));
  if (isOwn) next.searchParams.set('crs', `${FIRST_PART}${system.epsg}`);
  const lines: ReadLine[] = [];
  const seen = new Set<string>();
  let features = 0;
  while (next) {
    checkCancelled(signal);
    if (seen.has(next.href))
      throw serviceError(
        'service-rubbish',
        address,
        'sends the same page again and again.',
        'Ask whoever runs the service.',
      );
    seen.add(next.href);
    const { json, crs } = await askJson(outside, next, signal);
    const page = pageSchema.safeParse(json);
    if (!page.success)
      throw serviceError('service-rubbish', address, 'answers with something that is no page of features.', NO_SERVICE);
    const { features: own, links = [], numberMatched } = page.data;
    features += own.length;
    if (features > MOST_FEATURES)
      throw serviceError(
        'service-too-much',
        address,
        `has more than ${MOST_FEATURES.toLocaleString('en').replace(',', ' ')} features there.`,
        'Ask for less land.',
      );
    if (own.length > 0) {
      const read = readGeoJsonLines(JSON.stringify({ type: 'FeatureCollection', features: own }), collection.title);
      // What it says of its coordinates counts, not what was asked for.
      const isInJob = crs === undefined ? isOwn : system.epsg !== undefined && crs.endsWith(`/${system.epsg}`);
      lines.push(...(isInJob ? inOrderOfJob(read, bounds) : intoJob(read, system.proj4)));
    }
    onPage(features, numberMatched);
    const link = links.find(({ rel }) => rel === 'next');
    next = link && own.length > 0 ? nextOf(link.href, next, address) : undefined;
  }
  return lines;
}

/** The address of something that the service has, beside its landing page. */
function under(address: string, path: string): URL {
  const url = serviceAddress(address);
  url.pathname = `${url.pathname.replace(/\/(collections\/?)?$/, '')}/${path}`;
  return url;
}

/** The next page, of the same service alone: an answer may not send us elsewhere. */
function nextOf(href: string, from: URL, address: string): URL {
  let next: URL;
  try {
    next = new URL(href, from);
  } catch {
    throw serviceError(
      'service-rubbish',
      address,
      'names a next page that is no address.',
      'Ask whoever runs the service.',
    );
  }
  if (next.host !== from.host)
    throw serviceError(
      'service-rubbish',
      address,
      `names a next page of another service (${next.host}).`,
      'Ask whoever runs the service.',
    );
  return next;
}

/** A box of the job in longitude and latitude: west, south, east, north. Its sides are looked at along their length, since they bend. */
function boxOf({ west, south, east, north }: PlanBounds, system: string): [number, number, number, number] {
  const [easting, northing]: [number[], number[]] = [[], []];
  for (let k = 0; k <= 8; k++) {
    const [e, n] = [west + ((east - west) * k) / 8, south + ((north - south) * k) / 8];
    easting.push(e, e, west, east);
    northing.push(south, north, n, n);
  }
  const [longitude, latitude] = [Float64Array.from(easting), Float64Array.from(northing)];
  planTransform(system, LONGITUDE_LATITUDE)(longitude, latitude);
  return [Math.min(...longitude), Math.min(...latitude), Math.max(...longitude), Math.max(...latitude)];
}

function intoJob(lines: readonly ReadLine[], system: string): ReadLine[] {
  const transform = planTransform(LONGITUDE_LATITUDE, system);
  return lines.map((line) => {
    const [easting, northing] = [Float64Array.from(line.easting), Float64Array.from(line.northing)];
    transform(easting, northing);
    return { ...line, easting: Array.from(easting), northing: Array.from(northing) };
  });
}

/** Coordinates come in the order of their system, northing first in some: the order that lies where was asked is the right one. */
function inOrderOfJob(lines: readonly ReadLine[], { west, south, east, north }: PlanBounds): ReadLine[] {
  const [middleE, middleN] = [(west + east) / 2, (south + north) / 2];
  let turned = 0;
  for (const { easting, northing } of lines) {
    const [e, n] = [easting[0]!, northing[0]!];
    turned += Math.hypot(n - middleE, e - middleN) < Math.hypot(e - middleE, n - middleN) ? 1 : -1;
  }
  return turned <= 0 ? [...lines] : lines.map((line) => ({ ...line, easting: line.northing, northing: line.easting }));
}
