import { execFileSync } from 'node:child_process';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { unzipSync } from 'fflate';
import { profileSchema } from '@pampero/contract';
import { unpackArrays } from '@pampero/core/binary';
import { withPart, type GridPart } from '@pampero/core/grids';
import { unpackLines } from '@pampero/core/lines';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import {
  fieldWithShed,
  lasBytes,
  QUANTISATION,
  testServer,
  valleyWithBridge,
  type TestServer,
} from './server.fixture.js';

const [E, N] = QUANTISATION.offset;
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
  await host.api.operate(jobId, 'find-ground', { clouds: [cloudId] });
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
  const run = await host.api.fromFile(jobId, 'import-lines', text, `${role}.geojson`, { role, ...more });
  expect(run.state).toBe('done');
  return run.productId!;
}

async function fileOf(id: number, format: string): Promise<string> {
  const path = join(folder, `${id}.${format}`);
  await writeFile(path, await host.api.file(jobId, id, format));
  return path;
}

describe('finding ground', () => {
  test('settings are proposed from the cloud, and say why', async () => {
    const { parameters, reasons } = await host.api.call(
      'proposeSettings',
      `/jobs/${jobId}/clouds/${cloudId}/proposals/find-ground`,
    );
    expect(parameters['method']).toBe('tin');
    expect(reasons.length).toBeGreaterThanOrEqual(4);
    const run = await host.api.operate(jobId, 'find-ground', { clouds: [cloudId], ...parameters });
    expect(run.state).toBe('done');
  });

  test('a script that leaves settings out gets those the form shows; what it gives stands', async () => {
    const { parameters } = await host.api.call(
      'proposeSettings',
      `/jobs/${jobId}/clouds/${cloudId}/proposals/find-ground`,
    );
    const run = await host.api.operate(jobId, 'find-ground', { clouds: [cloudId], largestBuilding: 40 });
    expect(run.state).toBe('done');
    const entry = (await host.api.read(jobId)).history.entries.find(({ id }) => id === run.historyId)!;
    expect(entry.parameters).toMatchObject({ ...parameters, largestBuilding: 40 });
    const objects = await host.api.call('proposeSettings', `/jobs/${jobId}/clouds/${cloudId}/proposals/find-objects`);
    expect(Object.keys(objects.parameters)).toContain('wirePiece');
    expect(objects.reasons.length).toBeGreaterThanOrEqual(3);
    const none = await host.api.call('proposeSettings', `/jobs/${jobId}/clouds/${cloudId}/proposals/find-outliers`);
    expect(none).toEqual({ parameters: {}, reasons: [] });
    const { status, json } = await host.api.raw(`/jobs/${jobId}/clouds/999/proposals/find-ground`);
    expect(status).toBe(404);
    expect(json()['detail']).toMatch(/999/);
  });

  test('green counts for less only where there are colours, and this is told', async () => {
    const run = await host.api.operate(jobId, 'find-ground', { clouds: [cloudId], trustGreenLess: true });
    expect(run).toMatchObject({ state: 'failed', error: { code: 'no-colours' } });
  });

  test('doubtful places are listed; one that is accepted stays with the job', async () => {
    const doubts = await host.api.call('listSuspectAreas', `/jobs/${jobId}/clouds/${cloudId}/suspect-areas`);
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
    await host.api.operate(jobId, 'find-objects', { clouds: [cloudId] });
    const list = await host.api.call('listObjects', `/jobs/${jobId}/clouds/${cloudId}/objects`);
    const shed = list.filter(({ classCode }) => classCode === 6);
    expect(shed).toHaveLength(1);
    expect(shed[0]!.height).toBeCloseTo(8, 0);
    expect(shed[0]!.area).toBeGreaterThan(85);
    expect(shed[0]!.area).toBeLessThan(160);
    expect(shed[0]!.confidence).toBeGreaterThan(0.8);
  });
});

describe('water', () => {
  test('there is none on a field, and it is said so; where there is no ground it cannot be told', async () => {
    const run = await host.api.operate(jobId, 'find-water', { clouds: [cloudId] });
    expect(run.outcome).toMatch(/^No water was found/);
    await host.api.undo(jobId);
  });
});

describe('bridges', () => {
  test('a deck over a valley becomes class 17, also where it was taken for ground; on a field there is none', async () => {
    const job = (await host.api.newJob('Crossing')).id;
    const { points, isDeck } = valleyWithBridge();
    await host.api.import(job, await lasBytes(points));
    const cloud = (await host.api.read(job)).clouds[0]!.id;
    const refused = await host.api.operate(job, 'find-bridges', { clouds: [cloud] });
    expect(refused.outcome).toMatch(/Find its ground first/);
    await host.api.operate(job, 'find-ground', { clouds: [cloud], tolerance: 0.1 });
    const run = await host.api.operate(job, 'find-bridges', { clouds: [cloud] });
    expect(run.outcome).toMatch(/points to bridge deck, 1 deck$/);
    const countIn = async (west: number, south: number, east: number, north: number): Promise<number> => {
      const outline = [[E + west, N + south], [E + east, N + south], [E + east, N + north], [E + west, N + north]]; // prettier-ignore
      const path = `/jobs/${job}/clouds/${cloud}/window`;
      const { classCounts } = await host.api.call('readWindow', path, { body: { outline } });
      return classCounts['17'] ?? 0;
    };
    const truth = [...points.x.keys()].filter((i) => isDeck(points.x[i]! / 1000, points.y[i]! / 1000)).length;
    const [all, within] = [await countIn(0, 0, 100, 60), await countIn(31.5, 26, 68.5, 34)];
    expect(within / all).toBeGreaterThan(0.9); // precision
    expect(within / truth).toBeGreaterThan(0.9); // recall
    // Ground looked for again leaves the deck alone.
    await host.api.operate(job, 'find-ground', { clouds: [cloud], tolerance: 0.1 });
    expect(await countIn(0, 0, 100, 60)).toBe(all);
    const isFound = async (): Promise<boolean> => (await countIn(0, 0, 100, 60)) > 0;
    for (let i = 0; i < 2 && (await isFound()); i++) await host.api.call('undo', `/jobs/${job}/undo`);
    expect(await isFound()).toBe(false);
    const none = await host.api.operate(jobId, 'find-bridges', { clouds: [cloudId] });
    expect(none.outcome).toMatch(/^No bridge was found/);
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
      clouds: [cloudId],
      thinCell: 0.5,
      lines: [boundary, breakline],
    });
    expect(run.state).toBe('done');
    surfaceId = run.productId!;
    const surface = (await host.api.made(jobId, 'surface')).find(({ id }) => id === surfaceId)!;
    expect(surface.facts.edgesNotHeld).toBe(0);
    expect(surface.facts.areaInPlan).toBeCloseTo(2500, 1);
    expect(surface.facts.highest).toBe(40);
    const [line] = unpackLines(new Uint8Array(await host.api.shown(jobId, breakline)));
    expect([...line!.elevation]).toEqual([40, 40]);
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
      body: JSON.stringify({ surfaceId, against: 'outline' }),
    });
    expect(missing.status).toBe(400);
    expect(JSON.stringify(missing.json())).toContain('needs its outline');
  });

  test('check points make a statement, with points left out for a reason', async () => {
    const none = await host.api.operate(jobId, 'state-accuracy', { surfaceId });
    expect(none).toMatchObject({ state: 'failed', error: { code: 'no-check-points' } });
    const list = Array.from(
      { length: 8 },
      (_, i) => `K${i + 1},${N + 8 + 5 * i},${E + 50},30,${i === 7 ? 'VEG' : 'CHK'}`,
    );
    await host.api.fromFile(jobId, 'import-control', list.join('\n'), 'check.csv', { role: 'check' });
    const stated = await host.api.operate(jobId, 'state-accuracy', { surfaceId, excluded: 'K3 on a stone' });
    expect(stated.outcome).toMatch(/over 6 check points/);
    const wrong = await host.api.operate(jobId, 'state-accuracy', { surfaceId, excluded: 'K99 gone' });
    expect(wrong).toMatchObject({ state: 'failed', error: { code: 'no-such-point' } });
    const statement = await host.api.newest(jobId, 'accuracy');
    expect((await host.api.file(jobId, statement.id, 'csv')).toString()).toMatch(/K3,.*left out: on a stone/);
    const pdf = await host.api.file(jobId, statement.id, 'pdf');
    expect(pdf.toString('latin1', 0, 5)).toBe('%PDF-');
    expect(pdf.length).toBeGreaterThan(2000);
  });

  test('a grid leaves as GeoTIFF, read by GDAL with its system; ASCII agrees', async () => {
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
    const lowest = await host.api.operate(jobId, 'make-grid', { method: 'lowest', clouds: [cloudId], cell: 1 });
    expect(lowest.state).toBe('done');
  });

  test('contours leave as GeoPackage, Shapefile and GeoJSON: the same lines to OGR', async () => {
    const run = await host.api.operate(jobId, 'draw-contours', {
      surfaceId,
      interval: 1,
      minimumLength: 0,
      from: 31,
      to: 38,
    });
    const set = (await host.api.made(jobId, 'contours')).find(({ id }) => id === run.productId)!;
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
      ['dxf', '999\n'],
      ['ply', 'ply\n'],
      ['glb', 'glTF'],
    ] as const) {
      const bytes = await host.api.file(jobId, surfaceId, format);
      expect(bytes.toString('latin1', 0, start.length)).toBe(start);
      // What has room for words says what it is, and from which state of which cloud it was made.
      if (format !== 'glb')
        expect(bytes.toString('latin1', 0, 600)).toMatch(/build-surface [-\d]+ from cloud 1 as of entry \d+/);
    }
  });

  test('a surface is edited by hand: contours on it go stale and are traced again on the edited one, undo brings it back', async () => {
    await host.api.operate(jobId, 'draw-contours', { surfaceId, interval: 0.5, smoothing: 0.02, minimumLength: 0 });
    const set = await host.api.newest(jobId, 'contours');
    expect(set.facts.departure!.worst).toBeLessThanOrEqual(0.02 + 1e-9);
    const place: [number, number] = [E + 40, N + 40];
    const added = await host.api.operate(jobId, 'edit-surface', { surfaceId, edits: [{ kind: 'add', place, elevation: 60 }] }); // prettier-ignore
    expect(added.outcome).toBe('1 point added');
    const edited = await host.api.newest(jobId, 'surface');
    expect(edited.facts.highest).toBe(60);
    expect(edited.parameters['edits']).toHaveLength(1);
    const faults = await host.api.call('findSurfaceFaults', `/jobs/${jobId}/products/${edited.id}/faults`);
    expect(faults[0]).toMatchObject({ kind: 'spike', easting: place[0], northing: place[1] });
    const edges = await host.api.raw(`/jobs/${jobId}/products/${edited.id}/edges`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ west: E + 39, south: N + 39, east: E + 41, north: N + 41 }),
    });
    expect((unpackArrays(edges.body).arrays['marks'] as Uint8Array).length).toBeGreaterThan(5);
    expect(await host.api.newest(jobId, 'contours')).toMatchObject({
      isStale: true,
      staleBecause: `${edited.name} has changed.`,
    });
    await host.api.rebuild(jobId);
    const again = (await host.api.made(jobId, 'contours')).find(({ seriesId }) => seriesId === set.seriesId)!;
    expect(again).toMatchObject({ isStale: false, parameters: { surfaceId: edited.id } });
    expect(again.facts.highest).toBeGreaterThan(59);
    const refused = await host.api.operate(jobId, 'edit-surface', {
      surfaceId: edited.id,
      edits: [{ kind: 'drop', place: [E - 500, N] }],
    });
    expect(refused).toMatchObject({ state: 'failed', error: { code: 'beside-surface' } });
    for (let i = 0; i < 12 && (await host.api.newest(jobId, 'surface')).id !== surfaceId; i++)
      await host.api.undo(jobId);
    expect(await host.api.newest(jobId, 'surface')).toMatchObject({ id: surfaceId });
  });

  test('a profile is cut through the surface, with its list; a difference of two surfaces is a grid', async () => {
    const line = [[E + 10, N + 20], [E + 50, N + 20]] as [number, number][]; // prettier-ignore
    const run = await host.api.operate(jobId, 'draw-profile', {
      surfaceIds: [surfaceId],
      line,
      clouds: [cloudId],
      depth: 1,
    });
    expect(run.state).toBe('done');
    const profile = profileSchema.parse(JSON.parse((await host.api.shown(jobId, run.productId)).toString()));
    expect(profile.surfaces[0]!.station.at(-1)).toBeCloseTo(40, 6);
    expect(profile.points.station.length).toBeGreaterThan(20);
    expect((await host.api.file(jobId, run.productId, 'csv')).toString()).toMatch(
      /^station,easting,northing,[^,]+,[^,]+ grade %\n0\.000,55\d+\.000,61\d+\.000,\d\d\.\d{3},/,
    );
    const { productId } = await host.api.operate(jobId, 'edit-surface', {
      surfaceId,
      edits: [{ kind: 'add', place: [E + 40, N + 40], elevation: 33 }],
    });
    const whole = await host.api.operate(jobId, 'build-surface', {
      clouds: [cloudId],
      classes: [2],
      name: 'All of it',
    });
    const made = await host.api.operate(jobId, 'make-grid', {
      method: 'difference',
      surfaceId: productId,
      otherId: whole.productId,
      cell: 1,
    });
    expect(made.state).toBe('done');
    const grid = await host.api.newest(jobId, 'grid');
    expect(grid.facts).toMatchObject({ isDifference: true });
    expect(grid.facts.highest).toBeGreaterThan(1);
    const shown = await host.api.shown(jobId, grid.id);
    expect((unpackArrays(shown).arrays['elevation'] as Float32Array).length).toBeGreaterThan(1000);
    expect((await host.api.file(jobId, grid.id, 'tint')).toString('latin1', 0, 2)).toBe('II');
    for (let i = 0; i < 12 && (await host.api.newest(jobId, 'surface')).id !== surfaceId; i++)
      await host.api.undo(jobId);
  });

  test('what is asked for while it is being taken back is still read; what never was is not', async () => {
    const line = [[E + 10, N + 20], [E + 50, N + 20]] as [number, number][]; // prettier-ignore
    const { productId } = await host.api.operate(jobId, 'draw-profile', { surfaceIds: [surfaceId], line });
    await host.api.undo(jobId);
    expect((await host.api.raw(`/jobs/${jobId}/products/${productId}/shown`)).status).toBe(200);
    expect((await host.api.raw(`/jobs/${jobId}/products/${productId}`)).status).toBe(404);
    expect((await host.api.raw(`/jobs/${jobId}/products/9999/shown`)).status).toBe(404);
  });

  test('of a surface edited by hand only what differs is sent to be drawn', async () => {
    const { productId } = await host.api.operate(jobId, 'edit-surface', {
      surfaceId,
      edits: [{ kind: 'add', place: [E + 31.3, N + 22.7], elevation: 36 }],
    });
    const grid = async (id: number | undefined, query = '') => unpackArrays(await host.api.shown(jobId, id, query));
    const [before, after] = [await grid(surfaceId), await grid(productId)];
    const sent = await grid(productId, `?since=${surfaceId}`);
    const { part, columns } = sent.facts as { part: GridPart; columns: number };
    const values = ({ arrays }: typeof sent) => arrays['elevation'] as Float32Array;
    expect(values(sent).length).toBeLessThan(values(after).length / 50);
    // Byte by byte: a million values take a matcher seconds.
    const put = withPart(values(before), columns, part, values(sent));
    expect(Buffer.from(put.buffer).equals(Buffer.from(Float32Array.from(values(after)).buffer))).toBe(true);
    // One that is not there, or lies on other cells, is no help: the whole is sent.
    expect(values(await grid(productId, '?since=9999')).length).toBe(values(after).length);
    await host.api.undo(jobId);
  });

  test('bands between contours leave as polygons that OGR reads, and fill the surface', async () => {
    const contours = await host.api.operate(jobId, 'draw-contours', { surfaceId, interval: 0.5 });
    const body = await host.api.file(jobId, contours.productId, 'bands');
    const bands = JSON.parse(body.toString()) as {
      features: { properties: { area: number; low: number } }[];
    };
    const surface = (await host.api.made(jobId, 'surface')).find(({ id }) => id === surfaceId)!;
    const sum = bands.features.reduce((total, { properties }) => total + properties.area, 0);
    expect(sum).toBeCloseTo(surface.facts.areaInPlan, 0);
    // GEOS, by way of OGR, finds each of them valid.
    const valid = 'SELECT COUNT(*) AS n FROM bands WHERE NOT ST_IsValid(geometry)';
    const file = join(folder, 'bands.geojson');
    await writeFile(file, body);
    expect(execFileSync('/usr/bin/ogrinfo', ['-q', file, '-dialect', 'SQLite', '-sql', valid]).toString()).toMatch(
      /n \(Integer\) = 0/,
    );
    const said = execFileSync('/usr/bin/ogrinfo', ['-so', '-al', file]).toString();
    expect(said).toMatch(/Geometry: Multi Polygon/);
    expect(said).toContain(`Feature Count: ${bands.features.length}`);
    await host.api.undo(jobId);
  });

  test('lines come in from a drawing', async () => {
    const contours = await host.api.operate(jobId, 'draw-contours', { surfaceId, interval: 1 });
    const drawing = await host.api.file(jobId, contours.productId, 'dxf');
    const run = await host.api.fromFile(jobId, 'import-lines', drawing, 'lines.dxf', { format: 'dxf' });
    expect(run.outcome).toMatch(/^\d+ lines? with \d[\d\s]* vertices/);
    for (let k = 0; k < 2; k++) await host.api.undo(jobId);
  });

  test('surfaces come in as they went out: LandXML and DXF faces; what is wrong with a file is said', async () => {
    const before = (await host.api.made(jobId, 'surface')).find(({ id }) => id === surfaceId)!;
    const send = (text: string, fileName: string) =>
      host.api.raw(`/jobs/${jobId}/operations/import-surface/file?fileName=${fileName}`, {
        method: 'POST',
        body: Buffer.from(text),
      });
    const xml = (await host.api.file(jobId, surfaceId, 'landxml')).toString();
    const dxf = (await host.api.file(jobId, surfaceId, 'dxf')).toString();
    expect(dxf).toMatch(/\n8\nSURFACE-BREAKLINE\n/);
    for (const [text, name] of [
      [xml, 'design.xml'],
      [dxf, 'design.dxf'],
    ] as const) {
      const answer = await send(text, name);
      expect(answer.json()).toMatchObject({ operation: 'import-surface' });
      expect((await host.api.ended(jobId, answer.json() as never)).state).toBe('done');
      const design = await host.api.newest(jobId, 'surface');
      expect(design).toMatchObject({ operation: 'import-surface', isStale: false });
      expect(design.facts.facets).toBe(before.facts.facets);
      expect(design.facts.areaInPlan).toBeCloseTo(before.facts.areaInPlan, 1);
      await host.api.undo(jobId);
    }
    for (const [text, name, code] of [
      ['<LandXML>', 'a.xml', 'not-this-format'],
      [xml.replace('linearUnit="meter"', 'linearUnit="USSurveyFoot"'), 'feet.xml', 'unit-differs'],
      [xml.replace(/<Faces>[\s\S]*<\/Faces>/, ''), 'points.xml', 'no-surface'],
      ['0\nEOF\n', 'empty.dxf', 'no-surface'],
      ['ncols 3', 'a.asc', 'grid-unreadable'],
      ['x', 'a.pdf', 'not-this-format'],
    ] as const)
      expect((await send(text, name)).json()).toMatchObject({ code });
  });

  test('grids come in as they went out, and as GDAL writes them; what is wrong with a file is said', async () => {
    const send = async (bytes: Uint8Array, fileName: string) =>
      host.api.raw(`/jobs/${jobId}/operations/import-grid/file?fileName=${fileName}`, {
        method: 'POST',
        headers: { 'content-type': 'application/octet-stream' },
        body: Buffer.from(bytes),
      });
    const came = async (bytes: Uint8Array, fileName: string) => {
      const answer = await send(bytes, fileName);
      expect(answer.json()).toMatchObject({ operation: 'import-grid' });
      expect((await host.api.ended(jobId, answer.json() as never)).state).toBe('done');
      return host.api.newest(jobId, 'grid');
    };
    const made = await host.api.operate(jobId, 'make-grid', { method: 'tin', surfaceId, cell: 0.5 });
    const before = await host.api.newest(jobId, 'grid');
    const same = { columns: before.facts.columns, rows: before.facts.rows, cell: 0.5, filled: before.facts.filled };
    const tif = await fileOf(before.id, 'tif');
    const again = await came(await readFile(tif), 'again.tif');
    expect(again).toMatchObject({ kind: 'grid', name: 'again', isStale: false });
    expect(again.facts).toMatchObject(same);
    for (const key of ['east', 'north', 'lowest', 'highest'] as const)
      expect(again.facts[key]).toBeCloseTo(before.facts[key], 3);
    const asc = await came(await readFile(await fileOf(before.id, 'asc')), 'again.asc');
    expect(asc.facts).toMatchObject(same);
    // One less the other is nothing, and a difference of grids is not stale.
    const off = await host.api.operate(jobId, 'make-grid', {
      method: 'grid-difference',
      gridId: again.id,
      otherGridId: made.productId,
    });
    expect(off.state).toBe('done');
    const difference = await host.api.newest(jobId, 'grid');
    expect(difference).toMatchObject({ isStale: false });
    expect(difference.facts).toMatchObject({ isDifference: true, filled: same.filled, lowest: 0, highest: 0 });
    // Bands between contours of a grid fill the cells between its centres.
    const contours = await host.api.operate(jobId, 'draw-contours', { on: 'grid', gridId: again.id, interval: 0.5 });
    const bands = await host.api.file(jobId, contours.productId, 'bands');
    const { features } = JSON.parse(bands.toString()) as { features: { properties: { area: number } }[] }; // prettier-ignore
    const area = features.reduce((sum, { properties }) => sum + properties.area, 0);
    expect(area).toBeGreaterThan(0.95 * 0.25 * same.filled);
    expect(area).toBeLessThan(0.25 * same.filled);
    const by = async (...options: string[]): Promise<Uint8Array> => {
      const path = join(folder, 'by-gdal.tif');
      execFileSync('/usr/bin/gdal_translate', ['-q', ...options, tif, path]);
      return readFile(path);
    };
    for (const options of [
      ['-co', 'COMPRESS=LZW', '-co', 'PREDICTOR=3', '-co', 'TILED=YES', '-co', 'BLOCKXSIZE=64', '-co', 'BLOCKYSIZE=64'],
      ['-co', 'COMPRESS=ZSTD'],
      ['-mo', 'AREA_OR_POINT=Point', '-co', 'BIGTIFF=YES'],
      ['-ot', 'Float64', '-b', '1', '-b', '1'],
    ]) {
      const grid = await came(await by(...options), 'by-gdal.tif');
      expect(grid.facts).toMatchObject(same);
      for (const key of ['east', 'north', 'lowest', 'highest'] as const)
        expect(grid.facts[key]).toBeCloseTo(before.facts[key], 3);
    }
    const scaled = await came(await by('-ot', 'Int16', '-a_scale', '0.5', '-a_offset', '100'), 'scaled.tif');
    expect(scaled.facts.highest).toBeCloseTo(100 + 0.5 * Math.round(before.facts.highest), 1);
    const whole = await by();
    for (const [bytes, name, code] of [
      [await by('-a_srs', 'EPSG:5346'), 'zone.tif', 'unit-differs'],
      [await by('-a_srs', 'EPSG:4326'), 'degrees.tif', 'grid-unreadable'],
      [await by('-outsize', '50%', '25%'), 'oblong.tif', 'grid-unreadable'],
      [await by('-ot', 'Byte', '-b', '1', '-b', '1', '-b', '1'), 'picture.tif', 'grid-unreadable'],
      [whole.subarray(0, 600), 'cut.tif', 'grid-unreadable'],
      [Buffer.from('nothing of the kind'), 'text.tif', 'grid-unreadable'],
      [Buffer.from('ncols 3'), 'short.asc', 'grid-unreadable'],
      [Buffer.from('x'), 'x.pdf', 'not-this-format'],
    ] as const)
      expect([name, (await send(bytes, name)).json()['code']]).toEqual([name, code]);
    for (let i = 0; i < 20 && (await host.api.read(jobId)).products.some(({ id }) => id === before.id); i++)
      await host.api.undo(jobId);
  });

  test('LandXML carries the breakline and the boundary the surface was made with', async () => {
    const xml = (await host.api.file(jobId, surfaceId, 'landxml')).toString();
    expect(xml).toMatch(/<Breakline name="L1" brkType="standard"><PntList3D>61\d+\.\d{4} 55\d+\.\d{4} 40\.0000 /);
    expect(xml).toMatch(/<Boundary name="B1" bndType="outer" edgeTrim="false"><PntList2D>/);
  });

  test('lines taken back leave the surface stale', async () => {
    const before = (await host.api.made(jobId, 'lines')).length;
    // Back to before the breakline came in.
    for (let i = 0; i < 20 && (await host.api.made(jobId, 'lines')).length === before; i++) await host.api.undo(jobId);
    expect(await host.api.made(jobId, 'lines')).toHaveLength(before - 1);
  });

  test.each([
    ['not json', 'lines-unreadable'],
    ['{"type":"Point","coordinates":[1,2]}', 'no-lines'],
  ])('%s is refused with a reason', async (text, code) => {
    const answer = await host.api.raw(`/jobs/${jobId}/operations/import-lines/file?fileName=x.geojson`, {
      method: 'POST',
      body: text,
    });
    expect(answer.status).toBeGreaterThanOrEqual(400);
    expect(answer.json()['code']).toBe(code);
  });
});
