import { mkdir, mkdtemp, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { handmadeE57 } from '../../core/src/formats/e57/e57.fixture.js';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { FileLook, IncomingFile } from '@pampero/contract';
import { bufferSource } from '@pampero/core/formats';
import { openLas } from '@pampero/core/formats/las';
import { writeGtx } from '@pampero/core/geodesy';
import { fieldWithShed, lasBytes, testServer, type TestServer } from './server.fixture.js';

let host: TestServer;
let folder: string;
const field = fieldWithShed();
const TUS = { 'tus-resumable': '1.0.0' };
/** POSGAR 2007 / Argentina 5 in international feet, so that "feet as metres" is the truth. */
const FEET =
  '+proj=tmerc +lat_0=-90 +lon_0=-60 +k=1 +x_0=5500000 +y_0=0 +ellps=WGS84 +towgs84=-0.41,0.46,-0.35,0,0,0,0 +units=ft +no_defs';

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'pampero-folder-'));
  await mkdir(join(folder, 'flights'));
  await writeFile(join(folder, 'flights', 'strip.las'), await lasBytes(field));
  await writeFile(
    join(folder, 'points.csv'),
    'nr;este;norte;cota\n' +
      Array.from(
        { length: 200 },
        (_, i) => `${i};${5_512_000 + (i % 20)},25;${6_150_000 + i},5;${(30 + i / 100).toFixed(2).replace('.', ',')}`,
      ).join('\n'),
  );
  await writeFile(
    join(folder, 'feet.xyz'),
    Array.from({ length: 50 }, (_, i) =>
      [5_512_000 + i, 6_150_000 + i, 30].map((v) => (v / 0.3048).toFixed(3)).join(' '),
    ).join('\n'),
  );
  await writeFile(join(folder, 'broken.e57'), 'ASTM-E57 and no more');
  await symlink(tmpdir(), join(folder, 'way-out'));
  host = await testServer({ folder });
  await mkdir(join(host.data, 'geoids'));
  await writeFile(
    join(host.data, 'geoids', 'level.gtx'),
    writeGtx({
      south: -36,
      west: -62,
      latitudeStep: 1,
      longitudeStep: 1,
      rows: 4,
      columns: 4,
      values: new Float32Array(16).fill(16.5),
    }),
  );
  await writeFile(join(host.data, 'geoids', 'stray.gtx'), 'not a grid');
});
afterAll(async () => {
  await host.stop();
  await rm(folder, { recursive: true });
});

/** Sends bytes as the tus protocol 1.0 has it, in pieces of `piece` bytes; the second piece is broken off and resumed. */
async function sendInPieces(bytes: Uint8Array, piece: number): Promise<string> {
  const created = await fetch(`${host.api.url}/api/uploads`, {
    method: 'POST',
    headers: {
      ...TUS,
      'upload-length': String(bytes.length),
      'upload-metadata': `filename ${Buffer.from('x').toString('base64')}`,
    },
  });
  expect(created.status).toBe(201);
  const url = new URL(created.headers.get('location')!, `${host.api.url}/api/uploads`);
  for (let at = 0; at < bytes.length;) {
    const isBroken = at === piece;
    const end = Math.min(bytes.length, at + (isBroken ? Math.floor(piece / 3) : piece));
    const answer = await fetch(url, {
      method: 'PATCH',
      headers: { ...TUS, 'upload-offset': String(at), 'content-type': 'application/offset+octet-stream' },
      body: Buffer.from(bytes.subarray(at, end)),
    });
    expect(answer.status).toBe(204);
    const head = await fetch(url, { method: 'HEAD', headers: TUS });
    at = Number(head.headers.get('upload-offset'));
    expect(at).toBe(end);
  }
  return url.pathname.split('/').at(-1)!;
}

const look = (jobId: string, body: Record<string, unknown>): Promise<FileLook> =>
  host.api.call('lookAtFile', `/jobs/${jobId}/look`, { body });
const importFile = (jobId: string, body: { file: IncomingFile } & Record<string, unknown>) =>
  host.api.operate(jobId, 'import-cloud', body);

describe('a file sent in pieces', () => {
  test('arrives whole across a broken connection, is looked at, comes in, and is gone', async () => {
    const job = await host.api.newJob('Sent');
    const uploadId = await sendInPieces(await lasBytes(field), 100_000);
    const file = { uploadId, fileName: 'strip.las' };
    const said = await look(job.id, { file });
    expect(said).toMatchObject({ format: 'LAS 1.4, points 6', pointCount: 10_800, crs: { epsg: 5347 }, findings: [] });
    expect(await importFile(job.id, { file })).toMatchObject({ state: 'done' });
    expect((await host.api.read(job.id)).clouds[0]!.pointCount).toBe(10_800);
    const { status, json } = await host.api.raw(`/jobs/${job.id}/look`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ file }),
    });
    expect([status, json().code]).toEqual([404, 'not-found']);
  });

  test('that has not arrived whole cannot be imported', async () => {
    const created = await fetch(`${host.api.url}/api/uploads`, {
      method: 'POST',
      headers: { ...TUS, 'upload-length': '100' },
    });
    const uploadId = created.headers.get('location')!.split('/').at(-1)!;
    const job = await host.api.newJob('Half');
    const { status, json } = await host.api.raw(`/jobs/${job.id}/operations/import-cloud`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ file: { uploadId, fileName: 'x.las' } }),
    });
    expect(status).toBe(400);
    expect(String(json().detail)).toMatch(/0 of 100 bytes/);
  });
});

test('a scan that lies a thousand kilometres away is told of, and stays out when it is left out', async () => {
  const scan = (east: number) => ({
    extra: `<name type="String">Setup ${east}</name><pose type="Structure"><translation type="Structure"><x type="Float">${east}</x><y type="Float">6150000</y><z type="Float">20</z></translation></pose>`,
    fields: ['cartesianX', 'cartesianY', 'cartesianZ'].map((name) => ({
      name,
      values: [1, 2, 3],
      xml: 'type="Float"',
    })),
  });
  const bytes = await handmadeE57([scan(5_512_000), scan(5_512_040), scan(4_512_000)], 1);
  const job = await host.api.newJob('Scans');
  const file = { uploadId: await sendInPieces(bytes, 100_000), fileName: 'site.e57' };
  const said = await look(job.id, { file });
  expect(said.scansApart).toEqual([{ number: 3, name: 'Setup 4512000', distance: expect.closeTo(1e6, -2) as number }]);
  expect(said.findings.map(({ message }) => message).join(' ')).toMatch(
    /Scan 3, “Setup 4512000”, lies 1.?000 km from the others/,
  );
  const again = await look(job.id, { file, leaveOutScans: [3] });
  expect(again.findings.map(({ message }) => message).join(' ')).not.toMatch(/Scan 3/);
  expect(await importFile(job.id, { file, leaveOutScans: [3], coordinates: 'kept' })).toMatchObject({ state: 'done' });
  const [cloud] = (await host.api.read(job.id)).clouds;
  expect(cloud!.pointCount).toBe(6);
  expect(cloud!.bounds.max[0] - cloud!.bounds.min[0]).toBeCloseTo(42, 3);
});

describe('the folder on the server’s machine', () => {
  test('is listed, clouds only, and its files come in and stay', async () => {
    const list = await host.api.call('listFolder', '/folder');
    expect(list.entries.map((e) => e.name)).toEqual(expect.arrayContaining(['flights', 'points.csv', 'feet.xyz']));
    expect((await host.api.call('listFolder', '/folder', { query: '?path=flights' })).entries[0]).toMatchObject({
      name: 'strip.las',
      isFolder: false,
    });
    const job = await host.api.newJob('Picked');
    const file = { folderPath: 'flights/strip.las' };
    expect(await importFile(job.id, { file })).toMatchObject({ state: 'done' });
    expect((await look(job.id, { file })).pointCount).toBe(10_800);
  });

  test.each(['../', '/etc', 'way-out', 'flights/../../'])('"%s" leads nowhere', async (path) => {
    const { status } = await host.api.raw(`/folder?path=${encodeURIComponent(path)}`);
    expect(status).toBe(404);
  });
});

describe('the look before import', () => {
  test('a text file shows its lines and how they would be read; a corrected layout is taken', async () => {
    const job = await host.api.newJob('Text');
    const file = { folderPath: 'points.csv' };
    const said = await look(job.id, { file });
    expect(said.text!.layout).toMatchObject({
      delimiter: ';',
      hasDecimalComma: true,
      skippedLines: 1,
      columns: ['none', 'easting', 'northing', 'elevation'],
    });
    expect(said.bounds!.min[0]).toBeCloseTo(5_512_000.25, 6);
    const layout = { ...said.text!.layout!, columns: ['none', 'northing', 'easting', 'elevation'] as const };
    const swapped = await look(job.id, { file, layout });
    expect(swapped.findings.map((f) => f.message).join()).toMatch(/look exchanged/);
  });

  test('numbers in feet in a job of metres are told, and a chosen system puts them right', async () => {
    const job = await host.api.newJob('Feet');
    await host.api.import(job.id, await lasBytes(field));
    const file = { folderPath: 'feet.xyz' };
    const said = await look(job.id, { file });
    expect(said.findings.map((f) => f.message).join()).toMatch(/look like feet/);
    const crs = { definition: FEET };
    const mended = await look(job.id, { file, crs });
    expect(mended.findings.filter((f) => f.level === 'warning')).toEqual([]);
    expect(mended.boundsInJob!.min[0]).toBeCloseTo(5_512_000, 2);
    expect(await importFile(job.id, { file, crs })).toMatchObject({ state: 'done' });
    const cloud = (await host.api.read(job.id)).clouds[1]!;
    expect(cloud.bounds.min[0]).toBeCloseTo(5_512_000, 2);
    expect(cloud.bounds.min[2]).toBeCloseTo(30, 2);
  });

  test('a broken file says what is wrong', async () => {
    const job = await host.api.newJob('Broken');
    const { status, json } = await host.api.raw(`/jobs/${job.id}/look`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ file: { folderPath: 'broken.e57' } }),
    });
    expect(status).toBe(422);
    expect(String(json().detail)).toMatch(/broken.e57/);
  });
});

describe('elevations on the way in', () => {
  test('a geoid grid, a unit and a shift are applied and told', async () => {
    expect((await host.api.call('listGeoids', '/geoids')).map((g) => g.name)).toEqual(['level.gtx']);
    const job = await host.api.newJob('Heights');
    const file = { folderPath: 'flights/strip.las' };
    await importFile(job.id, { file });
    await importFile(job.id, { file, heights: { geoid: 'level.gtx', shift: 0.25 } });
    await importFile(job.id, { file, heights: { unit: 'international-foot' } });
    const { clouds } = await host.api.read(job.id);
    const low = clouds.map((cloud) => cloud.bounds.min[2]);
    expect(low[1]).toBeCloseTo(low[0]! - 16.5 + 0.25, 3);
    expect(low[2]).toBeCloseTo(low[0]! * 0.3048, 3);
    expect(clouds[1]!.warnings[0]!.message).toMatch(/above the geoid level\.gtx.*0\.25 m was added/);
  });

  test('a point outside the grid stops the import, and nothing is left of it', async () => {
    await writeFile(
      join(host.data, 'geoids', 'far.gtx'),
      writeGtx({
        south: 40,
        west: 0,
        latitudeStep: 1,
        longitudeStep: 1,
        rows: 2,
        columns: 2,
        values: new Float32Array(4),
      }),
    );
    const job = await host.api.newJob('Far');
    const run = await importFile(job.id, { file: { folderPath: 'flights/strip.las' }, heights: { geoid: 'far.gtx' } });
    expect([run.state, run.error?.code]).toEqual(['failed', 'geoid-wrong']);
    expect((await host.api.read(job.id)).clouds).toEqual([]);
  });
});

test('a job in a system of its own takes files out of the list’s systems into it', async () => {
  const job = await host.api.newJob('Own', { definition: FEET });
  expect([job.unit, job.crs.name]).toEqual(['international-foot', 'Own system']);
  expect(await importFile(job.id, { file: { folderPath: 'flights/strip.las' } })).toMatchObject({ state: 'done' });
  const [cloud] = (await host.api.read(job.id)).clouds;
  expect(cloud!.bounds.min[0]).toBeCloseTo(5_512_000 / 0.3048, 0);
  // What goes out must not say that it is in the system it was moved out of.
  const { body } = await host.api.raw(`/jobs/${job.id}/clouds/${cloud!.id}/points`);
  expect((await openLas(bufferSource('out.las', body))).crs).toBeUndefined();
});
