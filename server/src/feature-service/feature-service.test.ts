import { createServer, type RequestListener, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { CORNER, EXTENT, parcels, parcelService } from '@pampero/demo';
import { afterAll, afterEach, beforeAll, describe, expect, test } from 'vitest';
import { fieldWithShed, testJob, type TestJob, type TestServer } from '../server.fixture.js';
import { Outside } from '../network/outside.js';
import { askJson } from './ask.js';
import { chosenCollection, readCollections, readFeatures } from './read-features.js';

/** A public service of boundaries, by OGC API - Features Part 1 (17-069r4) and Part 2 (18-058r1), and everything that can be wrong with one. */
const never = new AbortController().signal;
const outside = new Outside();
const OWN =
  '+proj=tmerc +lat_0=-90 +lon_0=-60 +k=1 +x_0=5500000 +y_0=0 +ellps=GRS80 +towgs84=0,0,0,0,0,0,0 +units=m +no_defs';
const BOUNDS = { west: CORNER.easting, south: CORNER.northing, east: CORNER.easting + EXTENT.east, north: CORNER.northing + EXTENT.north }; // prettier-ignore

const open: Server[] = [];
async function listening(server: Server): Promise<string> {
  open.push(server);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
}
const serving = (listener: RequestListener): Promise<string> => listening(createServer(listener));
const end = (server: Server): void => {
  server.closeAllConnections();
  server.close();
};
afterEach(() => open.splice(0).forEach(end));

const code = (promise: Promise<unknown>): Promise<string> =>
  promise.then(
    () => 'answered',
    (error: unknown) => `${(error as { code: string }).code}: ${(error as Error).message}`,
  );
/** A service that is right but for what it answers under an address. */
const odd = (answer: RequestListener): Promise<string> =>
  serving((request, response) => {
    if (request.url!.startsWith('/collections?') || request.url === '/collections')
      response.end(JSON.stringify({ collections: [{ id: 'plots' }] }));
    else answer(request, response);
  });
const fetched = async (address: string) => {
  const [collection] = await readCollections(outside, address, never);
  return readFeatures(outside, address, collection!, { bounds: BOUNDS, system: { proj4: OWN } }, never);
};
const page = (features: unknown[], more: object = {}) =>
  JSON.stringify({ type: 'FeatureCollection', features, ...more });
const plot = { type: 'Feature', properties: {}, geometry: { type: 'Polygon', coordinates: [[[-59.9, -34.8], [-59.8, -34.8], [-59.8, -34.7], [-59.9, -34.8]]] } }; // prettier-ignore

describe('a service that speaks the standard', () => {
  test('tells its collections and the systems of each; the landing page’s address is enough, with or without a stroke', async () => {
    const address = await listening(parcelService());
    for (const at of [address, `${address}/`, `${address}/collections`]) {
      const collections = await readCollections(outside, at, never);
      expect(collections).toEqual([{ id: 'parcels', title: 'Parcels (made up)', epsg: [5347] }]);
    }
  });

  test('its features come in the job’s system where it has it, northing first as the authority says, to the millimetre', async () => {
    const address = await listening(parcelService());
    const [collection] = await readCollections(outside, address, never);
    const lines = await readFeatures(
      outside,
      address,
      collection!,
      { bounds: BOUNDS, system: { proj4: OWN, epsg: 5347 } },
      never,
    );
    const known = new Map(parcels().map(({ ring }) => [`${ring[0]![0]} ${ring[0]![1]}`, ring]));
    expect(lines.length).toBeGreaterThan(10);
    expect(lines.length).toBeLessThanOrEqual(parcels().length);
    for (const { easting, northing, isClosed } of lines) {
      const ring = known.get(`${easting[0]} ${northing[0]}`)!;
      expect([easting, northing, isClosed]).toEqual([ring.slice(0, 4).map(([e]) => e), ring.slice(0, 4).map(([, n]) => n), true]); // prettier-ignore
    }
  });

  test('otherwise in longitude and latitude, transformed; the same places', async () => {
    const address = await listening(parcelService());
    const [collection] = await readCollections(outside, address, never);
    const plain = { ...collection!, epsg: [] };
    const own = await readFeatures(
      outside,
      address,
      collection!,
      { bounds: BOUNDS, system: { proj4: OWN, epsg: 5347 } },
      never,
    );
    const lines = await readFeatures(outside, address, plain, { bounds: BOUNDS, system: { proj4: OWN } }, never);
    expect(lines).toHaveLength(own.length);
    lines.forEach((line, k) =>
      line.easting.forEach((e, i) => {
        expect(Math.hypot(e - own[k]!.easting[i]!, line.northing[i]! - own[k]!.northing[i]!)).toBeLessThan(0.002);
      }),
    );
  });

  test('pages are followed to the last', async () => {
    const asked: string[] = [];
    const address = await odd((request, response) => {
      asked.push(request.url!);
      const offset = Number(new URL(request.url!, 'http://x').searchParams.get('offset') ?? 0);
      const links = offset < 4 ? [{ rel: 'next', href: `/collections/plots/items?offset=${offset + 2}` }] : [];
      response.end(page([plot, plot], { links }));
    });
    expect(await fetched(address)).toHaveLength(6);
    expect(asked).toHaveLength(3);
    const first = new URL(asked[0]!, 'http://x').searchParams;
    const [west, south, east, north] = first.get('bbox')!.split(',').map(Number);
    // The box of the job in degrees: 560 m of longitude at 34.8 degrees south, 420 m of latitude.
    expect(east! - west!).toBeCloseTo(560 / (111_320 * Math.cos((34.8 * Math.PI) / 180)), 4);
    expect(north! - south!).toBeCloseTo(420 / 110_940, 4);
  });

  test('several collections want one of them chosen', () => {
    const collections = ['parcels', 'roads'].map((id) => ({ id, title: id, epsg: [] }));
    expect(() => chosenCollection('http://x', collections, undefined)).toThrow('several collections: parcels, roads');
    expect(() => chosenCollection('http://x', collections, 'road')).toThrow('no collection “road”');
    expect(chosenCollection('http://x', collections, 'roads').id).toBe('roads');
    expect(() => chosenCollection('http://x', [], undefined)).toThrow('offers no collections');
  });
});

describe('a service that does not', () => {
  test('nobody answers there; the address is none; it is no address of the web', async () => {
    const gone = await serving(() => undefined);
    await new Promise((resolve) => open.pop()!.close(resolve));
    expect(await code(readCollections(outside, gone, never))).toMatch(
      /^service-silent: .*cannot be reached \(ECONNREFUSED\)/,
    );
    expect(await code(readCollections(outside, 'not an address', never))).toContain('is no address');
    expect(await code(readCollections(outside, 'file:///etc/hosts', never))).toContain('is no address of the web');
  });

  test('it hangs, at once or in the middle of an answer', async () => {
    const silent = await serving(() => undefined);
    expect(await code(askJson(outside, new URL(silent), never, 200))).toMatch(/^service-silent: .*has not answered in/);
    const halting = await serving((_, response) => void response.write('{"collections": ['));
    expect(await code(askJson(outside, new URL(halting), never, 300))).toContain('stopped in the middle of an answer');
    const cut = await serving((_, response) => {
      response.writeHead(200, { 'content-length': '1000' });
      response.write('{');
      setTimeout(() => response.destroy(), 20);
    });
    expect(await code(askJson(outside, new URL(cut), never))).toContain('broke off in the middle of an answer');
  });

  test('it refuses, answers with a page for people, with other JSON, or with endless bytes', async () => {
    const refusing = await serving((_, response) => void response.writeHead(503).end());
    expect(await code(readCollections(outside, refusing, never))).toMatch(/^service-refuses: .*status 503/);
    const html = await serving((_, response) => void response.end('<html>Welcome</html>'));
    expect(await code(readCollections(outside, html, never))).toMatch(/^service-rubbish: .*not JSON/);
    for (const json of ['[]', '{"collections": "none"}', 'null', '{"collections":[{"id":7}]}']) {
      const other = await serving((_, response) => void response.end(json));
      expect(await code(readCollections(outside, other, never))).toContain('does not list its collections');
    }
    const endless = await serving((_, response) => {
      const more = (): void => void (response.destroyed || response.write(Buffer.alloc(1e6, 32), more));
      more();
    });
    expect(await code(askJson(outside, new URL(endless), never))).toContain('more than 50 MB');
  });

  test('its pages are no features, go round in circles, or lead to another service', async () => {
    expect(await code(fetched(await odd((_, response) => void response.end('{"type":"Feature"}'))))).toContain(
      'no page of features',
    );
    const circle = await odd(
      (request, response) => void response.end(page([plot], { links: [{ rel: 'next', href: request.url }] })),
    );
    expect(await code(fetched(circle))).toContain('the same page again and again');
    const away = await odd(
      (_, response) => void response.end(page([plot], { links: [{ rel: 'next', href: 'http://127.0.0.2/x' }] })),
    );
    expect(await code(fetched(away))).toContain('another service (127.0.0.2)');
    const wrong = { ...plot, geometry: { type: 'Polygon', coordinates: [[['a', 'b'], [1, 2], [3, 4]]] } }; // prettier-ignore
    expect(await code(fetched(await odd((_, response) => void response.end(page([wrong])))))).toContain(
      'coordinate-wrong',
    );
    const pole = { ...plot, geometry: { type: 'Polygon', coordinates: [[[1e9, 1e9], [1e9, 2e9], [2e9, 1e9]]] } }; // prettier-ignore
    expect(await code(fetched(await odd((_, response) => void response.end(page([pole])))))).not.toContain('TypeError');
  });
});

describe('boundaries of a job', () => {
  let job: TestJob;
  let host: TestServer;
  let service: Server;
  let address: string;
  beforeAll(async () => {
    job = await testJob(fieldWithShed());
    ({ host } = job);
    service = parcelService();
    await new Promise<void>((resolve) => service.listen(0, '127.0.0.1', resolve));
    address = `http://127.0.0.1:${(service.address() as AddressInfo).port}`;
  });
  afterAll(async () => {
    end(service);
    await job.stop();
  });
  const fetchThem = (given: Record<string, unknown> = {}) =>
    host.api.operate(job.jobId, 'fetch-boundaries', { address, ...given });

  test('come as plain lines under their code, are replaced when fetched again, and go by undo', async () => {
    const run = await fetchThem();
    expect(run.state, run.outcome).toBe('done');
    const [lines] = await host.api.made(job.jobId, 'lines');
    expect(lines).toMatchObject({ name: 'PARCEL', facts: { role: 'plain' } });
    expect(lines!.facts.lines).toBeGreaterThan(0);
    await fetchThem();
    const again = await host.api.newest(job.jobId, 'lines');
    expect(again.facts.lines).toBe(lines!.facts.lines);
    await fetchThem({ margin: 2000 });
    expect((await host.api.newest(job.jobId, 'lines')).facts.lines).toBe(parcels().length);
    for (let k = 0; k < 3; k++) await host.api.undo(job.jobId);
    expect((await host.api.made(job.jobId, 'lines')).filter(({ facts }) => facts.lines > 0)).toEqual([]);
  });

  test('what cannot be is told as the run’s end: no system, no service, no such collection', async () => {
    expect(await fetchThem({ collection: 'roads' })).toMatchObject({
      state: 'failed',
      error: { code: 'no-such-collection' },
    });
    expect(await fetchThem({ address: 'http://127.0.0.1:1' })).toMatchObject({
      state: 'failed',
      error: { code: 'service-silent' },
    });
    const local = await host.api.newJob('Yard', { unit: 'metre' });
    const run = await host.api.operate(local.id, 'fetch-boundaries', { address });
    expect(run).toMatchObject({ state: 'failed', error: { code: 'crs-unknown' } });
  });
});
