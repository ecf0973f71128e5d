import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { LONGITUDE_LATITUDE, planTransform } from '@pampero/core/geodesy';
import { CORNER, EXTENT } from './farm/terrain.js';

/**
 * A small stand-in of a land registry's public service: invented parcels about the farm, by OGC API - Features Part 1 (OGC 17-069r4: landing page, conformance,
 * collections, items with bounding box, limit and paging) and Part 2 (OGC 18-058r1: features in EPSG:5347, northing first as the authority has it).
 */
const OWN = 5347;
const OWN_SYSTEM =
  '+proj=tmerc +lat_0=-90 +lon_0=-60 +k=1 +x_0=5500000 +y_0=0 +ellps=GRS80 +towgs84=0,0,0,0,0,0,0 +units=m +no_defs';
const CRS84 = 'http://www.opengis.net/def/crs/OGC/1.3/CRS84';
const OWN_URI = `http://www.opengis.net/def/crs/EPSG/0/${OWN}`;
const [DEFAULT_LIMIT, MOST] = [10, 1000];

export interface Parcel {
  readonly number: string;
  /** Easting and northing, EPSG:5347; closed, the first corner repeated. */
  readonly ring: readonly (readonly [number, number])[];
}

/** Parcels in rows, their fences bent a little as real ones are; the same each time. */
export function parcels(): Parcel[] {
  const [columns, rows, wide, high] = [6, 5, 140, 120];
  const corner = (c: number, r: number): [number, number] => {
    const turn = Math.sin(12.9898 * c + 78.233 * r) * 43758.5453;
    const other = Math.sin(39.3468 * c + 11.135 * r) * 24634.6345;
    const [de, dn] = [(turn - Math.floor(turn) - 0.5) * 24, (other - Math.floor(other) - 0.5) * 18];
    const round = (value: number): number => Math.round(value * 1000) / 1000;
    return [
      round(CORNER.easting + EXTENT.east / 2 + (c - columns / 2) * wide + de),
      round(CORNER.northing + EXTENT.north / 2 + (r - rows / 2) * high + dn),
    ];
  };
  return Array.from({ length: columns * rows }, (_, k) => {
    const [c, r] = [k % columns, Math.floor(k / columns)];
    const ring = [corner(c, r), corner(c + 1, r), corner(c + 1, r + 1), corner(c, r + 1)];
    return { number: `${String.fromCharCode(65 + r)}-${String(c + 1).padStart(2, '0')}`, ring: [...ring, ring[0]!] };
  });
}

/** Answers as the standard has it; everything is read-only. */
export function parcelService(): Server {
  const all = parcels();
  const transform = planTransform(OWN_SYSTEM, LONGITUDE_LATITUDE);
  const inDegrees = (ring: Parcel['ring']): [number, number][] => {
    const [longitude, latitude] = [Float64Array.from(ring, ([e]) => e), Float64Array.from(ring, ([, n]) => n)];
    transform(longitude, latitude);
    return Array.from(longitude, (value, k) => [value, latitude[k]!]);
  };
  return createServer((request: IncomingMessage, response: ServerResponse) => {
    const base = `http://${request.headers.host ?? 'localhost'}`;
    const url = new URL(request.url ?? '/', base);
    const send = (status: number, body: unknown, headers: Record<string, string> = {}): void => {
      response.writeHead(status, { 'content-type': 'application/json', ...headers });
      response.end(JSON.stringify(body));
    };
    const wrong = (description: string): void => send(400, { code: 'InvalidParameterValue', description });
    if (request.method !== 'GET') return send(405, { code: 'MethodNotAllowed', description: 'Read only.' });
    const collection = {
      id: 'parcels',
      title: 'Parcels (made up)',
      itemType: 'feature',
      crs: [CRS84, OWN_URI],
      storageCrs: OWN_URI,
      links: [{ href: `${base}/collections/parcels/items`, rel: 'items', type: 'application/geo+json' }],
    };
    switch (url.pathname.replace(/\/$/, '')) {
      case '':
        return send(200, {
          title: 'Made-up parcels',
          description: 'A stand-in for a public service of parcel boundaries. Everything in it is invented.',
          links: [
            { href: `${base}/conformance`, rel: 'conformance', type: 'application/json' },
            { href: `${base}/collections`, rel: 'data', type: 'application/json' },
          ],
        });
      case '/conformance':
        return send(200, {
          conformsTo: [
            'http://www.opengis.net/spec/ogcapi-features-1/1.0/conf/core',
            'http://www.opengis.net/spec/ogcapi-features-1/1.0/conf/geojson',
            'http://www.opengis.net/spec/ogcapi-features-2/1.0/conf/crs',
          ],
        });
      case '/collections':
        return send(200, { links: [], collections: [collection] });
      case '/collections/parcels':
        return send(200, collection);
      case '/collections/parcels/items':
        break;
      default:
        return send(404, { code: 'NotFound', description: `There is no ${url.pathname}.` });
    }
    const { searchParams } = url;
    const crs = searchParams.get('crs') ?? CRS84;
    if (crs !== CRS84 && crs !== OWN_URI) return wrong(`crs ${crs} is not one of this collection.`);
    const limit = Math.min(MOST, Number(searchParams.get('limit') ?? DEFAULT_LIMIT));
    const offset = Number(searchParams.get('offset') ?? 0);
    if (!(limit >= 1) || !(offset >= 0)) return wrong('limit and offset are whole numbers.');
    const box = searchParams.get('bbox')?.split(',').map(Number);
    if (box && (box.length !== 4 || box.some((value) => !Number.isFinite(value))))
      return wrong('bbox has four numbers.');
    const found = all
      .map(({ number, ring }) => ({ number, ring, degrees: inDegrees(ring) }))
      .filter(({ degrees }) => {
        if (!box) return true;
        const [xs, ys] = [degrees.map(([x]) => x), degrees.map(([, y]) => y)];
        return (
          Math.max(...xs) >= box[0]! &&
          Math.min(...xs) <= box[2]! &&
          Math.max(...ys) >= box[1]! &&
          Math.min(...ys) <= box[3]!
        );
      });
    const page = found.slice(offset, offset + limit);
    const links = [{ href: url.href, rel: 'self', type: 'application/geo+json' }];
    if (offset + limit < found.length) {
      const next = new URL(url);
      next.searchParams.set('offset', String(offset + limit));
      links.push({ href: next.href, rel: 'next', type: 'application/geo+json' });
    }
    send(
      200,
      {
        type: 'FeatureCollection',
        features: page.map(({ number, ring, degrees }) => ({
          type: 'Feature',
          id: number,
          properties: { number },
          geometry: {
            type: 'Polygon',
            coordinates: [crs === OWN_URI ? ring.map(([e, n]) => [n, e]) : degrees],
          },
        })),
        links,
        numberMatched: found.length,
        numberReturned: page.length,
      },
      { 'content-type': 'application/geo+json', 'content-crs': `<${crs}>` },
    );
  });
}
