import { execFileSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { unzipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { fieldWithShed, lasBytes, QUANTISATION, testServer, type TestServer } from './server.fixture.js';

const [E, N] = QUANTISATION.offset;
const hasGdal = existsSync('/usr/bin/ogrinfo') && existsSync('/usr/bin/gdalinfo');
let host: TestServer;
let folder: string;
let jobId: string;
let cloudId: number;
beforeAll(async () => {
  host = await testServer();
  folder = await mkdtemp(join(tmpdir(), 'pampero-terrain-'));
  jobId = (await host.api.newJob('Terrain')).id;
  await host.api.import(jobId, await lasBytes(fieldWithShed()));
  cloudId = (await host.api.read(jobId)).clouds[0]!.id;
  await host.api.operate(jobId, 'find-ground', { cloudId });
});
afterAll(async () => {
  await host.stop();
  await rm(folder, { recursive: true, force: true });
});

const square = (low: number, high: number): string =>
  JSON.stringify({
    type: 'Polygon',
    coordinates: [[[E + low, N + low], [E + high, N + low], [E + high, N + high], [E + low, N + high], [E + low, N + low]]], // prettier-ignore
  });

async function importLines(text: string, role: string, more: Record<string, unknown> = {}): Promise<number> {
  const run = await host.api.call('importLines', `/jobs/${jobId}/lines`, {
    body: { text, fileName: `${role}.geojson`, role, ...more },
  });
  expect((await host.api.ended(jobId, run)).state).toBe('done');
  return (await host.api.read(jobId)).products.at(-1)!.id;
}

async function fileOf(id: number, format: string): Promise<string> {
  const { status, body } = await host.api.raw(`/jobs/${jobId}/products/${id}/file?format=${format}`);
  expect(status).toBe(200);
  const path = join(folder, `${id}.${format}`);
  await writeFile(path, body);
  return path;
}

describe('finding ground', () => {
  test('settings are proposed from the cloud, and say why', async () => {
    const { parameters, reasons } = await host.api.call(
      'proposeGround',
      `/jobs/${jobId}/clouds/${cloudId}/ground-proposal`,
    );
    expect(parameters['method']).toBe('tin');
    expect(reasons.length).toBeGreaterThanOrEqual(4);
    const run = await host.api.operate(jobId, 'find-ground', { cloudId, ...parameters });
    expect(run.state).toBe('done');
  });

  test('green counts for less only where there are colours, and this is told', async () => {
    const run = await host.api.operate(jobId, 'find-ground', { cloudId, doubtGreen: true });
    expect(run).toMatchObject({ state: 'failed', error: { code: 'no-colours' } });
  });

  test('doubtful places are listed; one that is accepted stays with the job', async () => {
    const doubts = await host.api.call('lookForDoubts', `/jobs/${jobId}/clouds/${cloudId}/ground-doubts`);
    // The shed: no ground under it, and nothing says that it is a building.
    const hole = doubts.find(({ kind }) => kind === 'hole')!;
    expect(Math.abs(hole.easting - E - 30)).toBeLessThan(3);
    expect(hole.size).toBeGreaterThan(6);
    await host.api.call('pin', `/jobs/${jobId}/pins`, { body: { kind: 'accepted', name: hole.key, cloudId } });
    expect((await host.api.read(jobId)).pins.map(({ name }) => name)).toContain(hole.key);
  });
});

describe('objects', () => {
  test('are listed one by one: the shed with its footprint and height', async () => {
    await host.api.operate(jobId, 'find-objects', { cloudId });
    const list = await host.api.call('listObjects', `/jobs/${jobId}/clouds/${cloudId}/objects`);
    const shed = list.filter(({ classCode }) => classCode === 6);
    expect(shed).toHaveLength(1);
    expect(shed[0]!.height).toBeCloseTo(8, 0);
    expect(shed[0]!.area).toBeGreaterThan(85);
    expect(shed[0]!.area).toBeLessThan(160);
    expect(shed[0]!.confidence).toBeGreaterThan(0.8);
  });
});

describe('from lines to a statement', () => {
  let surfaceId: number;
  let boundary: number;

  test('a surface with a boundary and a breakline, its sides held; stale once they are taken back', async () => {
    boundary = await importLines(square(5, 55), 'boundary');
    const crest = JSON.stringify({ type: 'LineString', coordinates: [[E + 10, N + 12, 40], [E + 50, N + 12, 40]] }); // prettier-ignore
    const breakline = await importLines(crest, 'breakline');
    const run = await host.api.operate(jobId, 'build-surface', {
      cloudId,
      thinCell: 0.5,
      lines: [boundary, breakline],
    });
    expect(run.state).toBe('done');
    surfaceId = run.productId!;
    const { surfaces } = await host.api.read(jobId);
    const surface = surfaces.find(({ id }) => id === surfaceId)!;
    expect(surface.edgesNotHeld).toBe(0);
    expect(surface.facts.areaInPlan).toBeCloseTo(2500, 1);
    expect(surface.facts.highest).toBe(40);
    const lines = (await host.api.raw(`/jobs/${jobId}/lines/${breakline}`)).json() as { features: unknown[] };
    expect(lines.features).toHaveLength(1);
  });

  test('a volume over a level within the boundary: exact, so cut less fill is area times mean height', async () => {
    const run = await host.api.operate(jobId, 'measure-volume', {
      surfaceId,
      against: 'level',
      level: 0,
      outline: boundary,
    });
    expect(run.outcome).toMatch(/cut 0\.00 m³, fill [\d.]+ m³/);
    const missing = await host.api.raw(`/jobs/${jobId}/operations/measure-volume`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ surfaceId, against: 'rim' }),
    });
    expect(missing.status).toBe(400);
    expect(JSON.stringify(missing.json())).toContain('needs the outline');
  });

  test('check points make a statement, with points left out for a reason', async () => {
    const none = await host.api.operate(jobId, 'state-accuracy', { surfaceId });
    expect(none).toMatchObject({ state: 'failed', error: { code: 'no-check-points' } });
    const list = Array.from(
      { length: 8 },
      (_, i) => `K${i + 1},${N + 8 + 5 * i},${E + 50},30,${i === 7 ? 'VEG' : 'CHK'}`,
    );
    const run = await host.api.call('importControl', `/jobs/${jobId}/control`, {
      body: { text: list.join('\n'), fileName: 'check.csv', role: 'check' },
    });
    await host.api.ended(jobId, run);
    const stated = await host.api.operate(jobId, 'state-accuracy', { surfaceId, excluded: 'K3 on a stone' });
    expect(stated.outcome).toMatch(/over 6 check points/);
    const wrong = await host.api.operate(jobId, 'state-accuracy', { surfaceId, excluded: 'K99 gone' });
    expect(wrong).toMatchObject({ state: 'failed', error: { code: 'no-such-point' } });
    const { products } = await host.api.read(jobId);
    const statement = products.find(({ kind }) => kind === 'accuracy')!;
    const csv = (await host.api.raw(`/jobs/${jobId}/products/${statement.id}/file?format=csv`)).body;
    expect(Buffer.from(csv).toString()).toMatch(/K3,.*left out: on a stone/);
    const pdf = (await host.api.raw(`/jobs/${jobId}/products/${statement.id}/file?format=pdf`)).body;
    expect(Buffer.from(pdf.subarray(0, 5)).toString()).toBe('%PDF-');
    expect(pdf.length).toBeGreaterThan(2000);
  });

  test.skipIf(!hasGdal)('a grid leaves as GeoTIFF, read by GDAL with its system; ASCII agrees', async () => {
    const run = await host.api.operate(jobId, 'make-grid', { method: 'tin', surfaceId, cell: '50 cm' });
    const info = JSON.parse(
      execFileSync('/usr/bin/gdalinfo', ['-json', '-stats', await fileOf(run.productId!, 'tif')]).toString(),
    ) as { size: number[]; coordinateSystem: { wkt: string }; bands: { maximum: number; noDataValue: number }[] };
    expect(info.size).toEqual([100, 100]);
    expect(info.coordinateSystem.wkt).toContain('5347');
    expect(info.bands[0]!.maximum).toBeGreaterThan(36);
    const text = execFileSync('/usr/bin/gdalinfo', ['-json', await fileOf(run.productId!, 'asc')]).toString();
    expect((JSON.parse(text) as { size: number[] }).size).toEqual([100, 100]);
    const shade = execFileSync('/usr/bin/gdalinfo', ['-json', await fileOf(run.productId!, 'hillshade')]).toString();
    expect(shade).toContain('"Byte"');
    const lowest = await host.api.operate(jobId, 'make-grid', { method: 'lowest', cloudId, cell: 1 });
    expect(lowest.state).toBe('done');
  });

  test.skipIf(!hasGdal)('contours leave as GeoPackage, Shapefile and GeoJSON: the same lines to OGR', async () => {
    const run = await host.api.operate(jobId, 'draw-contours', {
      surfaceId,
      interval: 1,
      shortestLength: 0,
      from: 31,
      to: 38,
    });
    const set = (await host.api.read(jobId)).contours.find(({ id }) => id === run.productId)!;
    expect(set.facts.lowest).toBeGreaterThanOrEqual(31);
    expect(set.facts.highest).toBeLessThanOrEqual(38);
    const zip = await fileOf(set.id, 'shp');
    const { readFile } = await import('node:fs/promises');
    const parts = unzipSync(new Uint8Array(await readFile(zip)));
    for (const [name, bytes] of Object.entries(parts)) await writeFile(join(folder, name), bytes);
    const shp = join(
      folder,
      Object.keys(parts).find((name) => name.endsWith('.shp'))!,
    );
    for (const path of [shp, await fileOf(set.id, 'gpkg'), await fileOf(set.id, 'geojson')]) {
      const text = execFileSync('/usr/bin/ogrinfo', ['-al', path], { maxBuffer: 1e8 }).toString();
      expect(text).toContain(`Feature Count: ${set.facts.lines}`);
      expect(text).toMatch(/interval \((Real|Integer)\) = 1/);
      expect(text).toMatch(/LINESTRING Z|3D Line String/);
    }
  });

  test('a surface leaves as DXF faces, PLY and GLB', async () => {
    for (const [format, start] of [
      ['faces-dxf', '0\nSECTION'],
      ['ply', 'ply\n'],
      ['glb', 'glTF'],
    ] as const) {
      // prettier-ignore
      const { status, body } = await host.api.raw(`/jobs/${jobId}/products/${surfaceId}/file?format=${format}`);
      expect(status).toBe(200);
      expect(Buffer.from(body.subarray(0, start.length)).toString('latin1')).toBe(start);
    }
  });

  test('LandXML carries the breakline and the boundary the surface was made with', async () => {
    const xml = Buffer.from((await host.api.raw(`/jobs/${jobId}/surfaces/${surfaceId}/landxml`)).body).toString();
    expect(xml).toMatch(/<Breakline name="L1" brkType="standard"><PntList3D>61\d+\.\d{4} 55\d+\.\d{4} 40\.0000 /);
    expect(xml).toMatch(/<Boundary name="B1" bndType="outer" edgeTrim="false"><PntList2D>/);
  });

  test('lines taken back leave the surface stale', async () => {
    const before = (await host.api.read(jobId)).products.filter(({ kind }) => kind === 'lines').length;
    // Back to before the breakline came in.
    for (let i = 0; i < 20; i++) {
      const { products } = await host.api.read(jobId);
      if (products.filter(({ kind }) => kind === 'lines').length < before) break;
      await host.api.call('undo', `/jobs/${jobId}/undo`);
    }
    expect((await host.api.read(jobId)).products.filter(({ kind }) => kind === 'lines')).toHaveLength(before - 1);
  });

  test.each([
    ['not json', 'lines-unreadable'],
    ['{"type":"Point","coordinates":[1,2]}', 'no-lines'],
  ])('%s is refused with a reason', async (text, code) => {
    const answer = await host.api.raw(`/jobs/${jobId}/lines`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ text, fileName: 'x.geojson' }),
    });
    expect(answer.status).toBeGreaterThanOrEqual(400);
    expect(answer.json()['code']).toBe(code);
  });
});
