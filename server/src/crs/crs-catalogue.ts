import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import type { Crs, CrsEntry } from '@pampero/contract';
import type { LengthUnit } from '@pampero/core/geodesy';
import { JobError, notFound } from '../errors/job-error.js';

interface IndexEntry {
  readonly code: string;
  readonly kind: string;
  readonly name: string;
  readonly wkt: string | null;
  readonly proj4: string | null;
  readonly unit: string | null;
  readonly area: string | null;
  /** North, west, south, east. */
  readonly bbox: readonly [number, number, number, number] | null;
}

const UNITS: Readonly<Record<string, LengthUnit>> = {
  metre: 'metre',
  'US survey foot': 'us-survey-foot',
  foot: 'international-foot',
};

interface CatalogueEntry extends CrsEntry {
  readonly wkt: string | undefined;
  readonly proj4: string | undefined;
  /** South, west, north, east of the area it is for, degrees. */
  readonly bounds: readonly [number, number, number, number] | undefined;
  readonly words: string;
}

let loaded: CatalogueEntry[] | undefined;

/** The whole EPSG list, from the `epsg-index` package. */
function everyEntry(): IndexEntry[] {
  const path = createRequire(import.meta.url).resolve('epsg-index/all.json');
  return Object.values(JSON.parse(readFileSync(path, 'utf8')) as Record<string, IndexEntry>);
}

/** Projected systems in metres or feet; read when first asked for. */
function entries(): CatalogueEntry[] {
  loaded ??= everyEntry()
    .filter((entry) => entry.kind === 'CRS-PROJCRS' && entry.unit !== null && entry.unit in UNITS)
    .map((entry) => ({
      epsg: Number(entry.code),
      name: entry.name,
      area: entry.area ?? '',
      unit: UNITS[entry.unit!]!,
      wkt: entry.wkt ?? undefined,
      proj4: entry.proj4 ?? undefined,
      bounds: entry.bbox ? [entry.bbox[2], entry.bbox[1], entry.bbox[0], entry.bbox[3]] : undefined,
      words: fold(`${entry.code} ${entry.name} ${entry.area ?? ''}`),
    }));
  return loaded;
}

/** Entries that hold every word, those whose code or name begins with the search first. */
export function searchCrs(search: string, limit: number): CrsEntry[] {
  const words = fold(search.replace(/^epsg:/i, ''))
    .split(' ')
    .filter(Boolean);
  if (words.length === 0) return [];
  const whole = words.join(' ');
  const rank = (entry: CatalogueEntry): number => {
    if (String(entry.epsg) === whole) return 0;
    const name = fold(entry.name);
    return name.startsWith(whole) ? 1 : words.every((word) => name.includes(word)) ? 2 : 3;
  };
  return entries()
    .filter((entry) => words.every((word) => entry.words.includes(word)))
    .map((entry) => ({ entry, order: rank(entry) }))
    .sort((a, b) => a.order - b.order || a.entry.epsg - b.entry.epsg)
    .slice(0, limit)
    .map(({ entry: { epsg, name, area, unit } }) => ({ epsg, name, area, unit }));
}

/** @throws JobError `not-found` for codes that are not a projected system in metres or feet */
export function crsByCode(epsg: number): Omit<CatalogueEntry, 'words'> {
  const entry = entries().find((e) => e.epsg === epsg);
  if (!entry) throw notProjected(epsg);
  return entry;
}

/** An entry as a job says which system it is in. */
export function crsOfEntry({ epsg, name, unit }: CrsEntry): Crs {
  return { epsg, name, horizontalUnit: unit, verticalUnit: unit };
}

/** Kinds of entries that no cloud can be worked on in, as the EPSG list calls them. */
const OTHER_KINDS: Readonly<Record<string, string>> = {
  'CRS-GEOGCRS': 'is in degrees',
  'CRS-GEOG3DCRS': 'is in degrees',
  'CRS-GCENCRS': 'is geocentric',
  'CRS-VERTCRS': 'is a system of heights alone',
  'CRS-ENGCRS': 'is a local system without a place on the earth',
  'CRS-COMPOUNDCRS': 'joins a plane system and one of heights',
};

/** Why a code cannot be a job's: not in the list at all, or of a kind that has no eastings and northings in metres or feet. */
function notProjected(epsg: number): JobError {
  const other = everyEntry().find(({ code }) => Number(code) === epsg);
  if (!other)
    return notFound('coordinate system EPSG:', epsg, 'Look it up by its name or area in the list of systems.');
  const why =
    other.kind === 'CRS-PROJCRS'
      ? 'is in a unit that is neither metres nor feet'
      : (OTHER_KINDS[other.kind] ?? 'is no plane system');
  return new JobError('not-found', {
    what: `EPSG:${epsg}, ${other.name}, ${why}.`,
    fix: 'Give the code of a projected system, with eastings and northings in metres or feet.',
  });
}

/** Small letters without accents: "Córdoba" is found by "cordoba". */
function fold(text: string): string {
  return text
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}.]+/gu, ' ')
    .trim();
}

/** As {@link crsByCode}, `undefined` for a code that is not in the list. */
export function findCrs(epsg: number | undefined): ReturnType<typeof crsByCode> | undefined {
  return entries().find((e) => e.epsg === epsg);
}
