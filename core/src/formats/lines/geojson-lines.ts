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
  const walk = (item: GeoJson, layer: string): void => {
    switch (item.type) {
      case 'FeatureCollection':
        for (const feature of item.features ?? []) walk(feature, layer);
        break;
      case 'Feature': {
        const named = ['layer', 'Layer', 'code', 'name']
          .map((key) => item.properties?.[key])
          .find((v) => typeof v === 'string');
        if (item.geometry) walk(item.geometry, typeof named === 'string' ? named : layer);
        break;
      }
      case 'GeometryCollection':
        for (const geometry of item.geometries ?? []) walk(geometry, layer);
        break;
      case 'LineString':
        lines.push(lineOf(item.coordinates, layer, fileName, false));
        break;
      case 'MultiLineString':
        for (const part of item.coordinates as unknown[]) lines.push(lineOf(part, layer, fileName, false));
        break;
      case 'Polygon':
        for (const ring of item.coordinates as unknown[]) lines.push(lineOf(ring, layer, fileName, true));
        break;
      case 'MultiPolygon':
        for (const polygon of item.coordinates as unknown[][])
          for (const ring of polygon) lines.push(lineOf(ring, layer, fileName, true));
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
