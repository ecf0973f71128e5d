import { FormatError } from '../format-error.js';

/** A line as a file has it, coordinates in full. */
export interface ReadLine {
  readonly easting: number[];
  readonly northing: number[];
  /** NaN where the file gives none. */
  readonly elevation: number[];
  readonly isClosed: boolean;
  /** The layer or code it was drawn on, if any. */
  readonly layer: string;
}

interface GeoJson {
  readonly type?: string;
  readonly features?: readonly GeoJson[];
  readonly geometries?: readonly GeoJson[];
  readonly geometry?: GeoJson | null;
  readonly properties?: Readonly<Record<string, unknown>> | null;
  readonly coordinates?: unknown;
}

/** Collections in collections; RFC 7946 advises against any. */
const DEEPEST = 50;

/**
 * Lines and rims of polygons of a GeoJSON text (RFC 7946), their coordinates taken as the job's: easting, northing, elevation.
 * @throws FormatError
 */
export function readGeoJsonLines(text: string, fileName: string): ReadLine[] {
  let root: GeoJson;
  try {
    root = JSON.parse(text) as GeoJson;
  } catch (error) {
    throw new FormatError('lines-unreadable', {
      what: `${fileName} is not GeoJSON: ${(error as Error).message}.`,
      fix: 'Save it again from its source.',
    });
  }
  const lines: ReadLine[] = [];
  const wrong = (what: string): FormatError =>
    new FormatError('lines-unreadable', { what: `${fileName}: ${what}.`, fix: 'Save it again from its source.' });
  const parts = (of: unknown, type: string): unknown[] => {
    if (!Array.isArray(of)) throw wrong(`a ${type} has no list of coordinates`);
    return of as unknown[];
  };
  const walk = (item: GeoJson | null, layer: string, depth = 0): void => {
    if (depth > DEEPEST) throw wrong(`its collections lie more than ${DEEPEST} deep in each other`);
    switch (item?.type) {
      case 'FeatureCollection':
        for (const feature of parts(item.features ?? [], 'FeatureCollection'))
          walk(feature as GeoJson | null, layer, depth + 1);
        break;
      case 'Feature': {
        const named = ['layer', 'Layer', 'code', 'name']
          .map((key) => item.properties?.[key])
          .find((v) => typeof v === 'string');
        if (item.geometry) walk(item.geometry, typeof named === 'string' ? named : layer, depth + 1);
        break;
      }
      case 'GeometryCollection':
        for (const geometry of parts(item.geometries ?? [], 'GeometryCollection'))
          walk(geometry as GeoJson | null, layer, depth + 1);
        break;
      case 'LineString':
        lines.push(lineOf(item.coordinates, layer, fileName, false));
        break;
      case 'MultiLineString':
        for (const part of parts(item.coordinates, item.type)) lines.push(lineOf(part, layer, fileName, false));
        break;
      case 'Polygon':
        for (const ring of parts(item.coordinates, item.type)) lines.push(lineOf(ring, layer, fileName, true));
        break;
      case 'MultiPolygon':
        for (const polygon of parts(item.coordinates, item.type))
          for (const ring of parts(polygon, item.type)) lines.push(lineOf(ring, layer, fileName, true));
        break;
      default:
        break;
    }
  };
  walk(root, '');
  if (lines.length === 0)
    throw new FormatError('no-lines', {
      what: `${fileName} holds no lines or polygons.`,
      fix: 'Choose a file with line strings or polygons.',
    });
  return lines;
}

function lineOf(coordinates: unknown, layer: string, fileName: string, isRing: boolean): ReadLine {
  const places = (Array.isArray(coordinates) ? coordinates : []) as unknown[];
  if (places.length < 2)
    throw new FormatError('coordinate-wrong', {
      what: `${fileName}: a line has ${places.length === 1 ? 'one vertex' : 'no vertices'}.`,
      fix: 'Give each line two vertices at least.',
    });
  const corners = places.map((place, k) => {
    const [e, n, z] = Array.isArray(place) ? (place as unknown[]) : [];
    if (typeof e !== 'number' || typeof n !== 'number' || !Number.isFinite(e) || !Number.isFinite(n))
      throw new FormatError('coordinate-wrong', {
        what: `${fileName}: vertex ${k + 1} of a line is ${JSON.stringify(place)}.`,
        fix: 'Give each vertex as easting, northing and, if known, elevation.',
      });
    return [e, n, typeof z === 'number' && Number.isFinite(z) ? z : NaN] as const;
  });
  return closedOff(corners, layer, isRing);
}

/** A line whose last corner is its first closes on itself; the corner is kept once. */
export function closedOff(
  corners: readonly (readonly [number, number, number])[],
  layer: string,
  isRing = false,
): ReadLine {
  const [first, last] = [corners[0], corners.at(-1)];
  const repeats = corners.length > 2 && first !== undefined && first[0] === last![0] && first[1] === last![1];
  const kept = repeats ? corners.slice(0, -1) : corners;
  return {
    easting: kept.map(([e]) => e),
    northing: kept.map(([, n]) => n),
    elevation: kept.map(([, , z]) => z),
    isClosed: isRing || repeats,
    layer,
  };
}

/** The system of a GeoJSON file, named as GDAL writes it: RFC 7946 knows degrees alone. To be spread into the collection. */
export function geoJsonSystem(epsg: number | undefined): { crs?: { type: 'name'; properties: { name: string } } } {
  return epsg === undefined ? {} : { crs: { type: 'name', properties: { name: `urn:ogc:def:crs:EPSG::${epsg}` } } };
}
