import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { readdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { endpoints } from '@pampero/contract';
import { bufferSource } from '@pampero/core/formats';
import { openLas } from '@pampero/core/formats/las';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { fieldWithShed, lasBytes, testServer, type TestServer } from './server.fixture.js';
import { readSettings } from './settings.js';

let host: TestServer;
let field: Uint8Array;
beforeAll(async () => {
  host = await testServer();
  field = await lasBytes(fieldWithShed());
});
afterAll(() => host.stop());

const epsgIndex = JSON.parse(
  readFileSync(createRequire(import.meta.url).resolve('epsg-index/all.json'), 'utf8'),
) as Record<string, { proj4: string }>;
const projOf = (epsg: number): string[] => epsgIndex[epsg]!.proj4.split(' ').filter((part) => part !== '+type=crs');

/** Least easting, northing and elevation of the field. */
async function fieldBounds(): Promise<number[]> {
  const { header } = await openLas(bufferSource('field.las', field));
  return [header.minX, header.minY, header.minZ];
}

/** A job with the field imported. */
async function jobWithField(name = 'Field'): Promise<{ jobId: string; cloudId: number }> {
  const { id: jobId } = await host.api.newJob(name);
  const run = await host.api.import(jobId, field);
  expect(run.state).toBe('done');
  return { jobId, cloudId: run.productId! };
}

describe('jobs', () => {
  test('a job takes its unit from its coordinate system', async () => {
    const metric = await host.api.newJob('Canal', { epsg: 5347 });
    expect(metric).toMatchObject({ unit: 'metre', crs: { epsg: 5347, name: 'POSGAR 2007 / Argentina 5' } });
    const feet = await host.api.newJob('Ranch', { epsg: 2277 });
    expect(feet.unit).toBe('us-survey-foot');
    const local = await host.api.newJob('Yard', { unit: 'international-foot' });
    expect(local).toMatchObject({ unit: 'international-foot', crs: { name: 'Local, international feet' } });
  });

  test('systems are found by code and by words, accents or none', async () => {
    const search = (words: string) =>
      host.api.call('searchCrs', '/crs', { query: `?search=${encodeURIComponent(words)}` });
    expect((await search('5347'))[0]).toMatchObject({ epsg: 5347, unit: 'metre' });
    expect((await search('EPSG:2277'))[0]).toMatchObject({ epsg: 2277, unit: 'us-survey-foot' });
    expect((await search('texas central ftus')).map((entry) => entry.epsg)).toContain(2277);
    expect((await search('córdoba')).length).toBe((await search('cordoba')).length);
    expect(await search('nowhere at all')).toEqual([]);
  });

  test('a job travels as one file and can be put back beside itself', async () => {
    const { jobId } = await jobWithField('Traveller');
    const file = await host.api.raw(`/jobs/${jobId}/file`);
    expect(file.status).toBe(200);
    const back = await host.api.call('restoreJob', '/jobs/file', { body: file.body });
    expect(back).toMatchObject({ name: 'Traveller (restored)', pointCount: 10_800, cloudCount: 1 });
    expect(back.id).not.toBe(jobId);
    await host.api.call('removeJob', `/jobs/${jobId}`);
    const again = await host.api.call('restoreJob', '/jobs/file', { body: file.body });
    // The name comes back; ids are the server's own, whatever a file says.
    expect(again).toMatchObject({ name: 'Traveller', pointCount: 10_800 });
  });

  test('a file that is no job, or a damaged one, is refused and leaves nothing behind', async () => {
    const before = await readdir(host.data);
    const notOurs = await host.api.raw('/jobs/file', { method: 'POST', body: Buffer.from('just some text') });
    expect(notOurs.json()).toMatchObject({ status: 422, code: 'not-a-job-file' });
    expect(await readdir(host.data)).toEqual(before);
  });

  test('a stray file in the folder does not hide the jobs', async () => {
    await writeFile(join(host.data, 'stray.pampero'), 'not SQLite');
    const jobs = await host.api.call('listJobs', '/jobs');
    expect(jobs.length).toBeGreaterThan(0);
    expect(jobs.map((job) => job.id)).not.toContain('stray');
  });
});

describe('the work, from import to export', () => {
  test('import, ground, surface, contours; undo and redo; stale and rebuilt', async () => {
    const { jobId, cloudId } = await jobWithField();
    const read = () => host.api.read(jobId);
    let now = await read();
    expect(now.clouds[0]).toMatchObject({
      pointCount: 10_800,
      classCounts: { '1': 10_800 },
      warnings: [],
      source: { strips: [1, 2], format: 'LAS 1.4, points 6' },
    });
    expect(now.clouds[0]!.bounds.min[0]).toBeCloseTo(5_512_000, 1);

    const ground = await host.api.operate(jobId, 'find-ground', { clouds: [cloudId], cell: '100 cm' });
    expect(ground).toMatchObject({ state: 'done' });
    now = await read();
    // The roof covers 100 of 3600 m².
    expect(now.clouds[0]!.classCounts['2']).toBeGreaterThan(10_800 * 0.96);
    expect(now.clouds[0]!.classCounts['1']).toBeGreaterThan(10_800 * 0.02);
    const found = now.clouds[0]!.classCounts;

    const surface = await host.api.operate(jobId, 'build-surface', { clouds: [cloudId], name: 'Bare field' });
    const contours = await host.api.operate(jobId, 'draw-contours', { surfaceId: surface.productId, interval: 0.25 });
    expect([surface.state, contours.state]).toEqual(['done', 'done']);
    const made = () => Promise.all([host.api.made(jobId, 'surface'), host.api.made(jobId, 'contours')]);
    let [[bare], [lines]] = await made();
    expect(bare).toMatchObject({ name: 'Bare field', isStale: false });
    // The plane rises 0.02 · 60 + 0.01 · 60 = 1.8 m from 30.
    expect(bare!.facts.highest).toBeLessThan(31.9);
    expect(lines!.facts.levels).toBe(7);

    await host.api.call('undo', `/jobs/${jobId}/undo`);
    await host.api.call('undo', `/jobs/${jobId}/undo`);
    now = await read();
    expect([now.products.length, now.history.redoes]).toEqual([0, now.history.entries[1]!.id]);
    await host.api.call('undo', `/jobs/${jobId}/undo`);
    expect((await read()).clouds[0]!.classCounts).toEqual({ '1': 10_800 });
    for (let i = 0; i < 3; i++) await host.api.call('redo', `/jobs/${jobId}/redo`);
    now = await read();
    expect(now.clouds[0]!.classCounts).toEqual(found);
    expect((await made()).flat().map(({ isStale }) => isStale)).toEqual([false, false]);

    await host.api.operate(jobId, 'find-ground', { clouds: [cloudId], tolerance: '5 mm' });
    [[bare], [lines]] = await made();
    expect([bare!.staleBecause, lines!.staleBecause]).toEqual([
      'Classes of strip have changed.',
      'Bare field is stale.',
    ]);
    expect((await host.api.rebuild(jobId)).runs.map(({ state }) => state)).toEqual(['done', 'done']);
    [[bare], [lines]] = await made();
    now = await read();
    expect(now.products).toHaveLength(2);
    expect(bare).toMatchObject({ name: 'Bare field', isStale: false });
    expect(lines).toMatchObject({ isStale: false, parameters: { surfaceId: bare!.id } });
    expect(now.history.entries.map((entry) => entry.state)).toEqual(Array(7).fill('done'));
  });

  test('the cloud comes back with its new classes and every attribute; versions 1.4 and 1.2, all or some classes', async () => {
    const { jobId, cloudId } = await jobWithField();
    await host.api.operate(jobId, 'find-ground', { clouds: [cloudId] });
    const source = fieldWithShed();
    const byTime = new Map(Array.from(source.gpsTime!, (time, i) => [time, i]));
    for (const version of ['1.4', '1.2']) {
      const { body, status } = await host.api.raw(`/jobs/${jobId}/clouds/${cloudId}/points?version=${version}`);
      expect(status).toBe(200);
      const las = await openLas(bufferSource('export.las', body));
      expect([las.pointCount, las.crs?.epsg, las.warnings]).toEqual([10_800, 5347, []]);
      let ground = 0;
      for await (const batch of las.batches()) {
        for (let k = 0; k < batch.count; k++) {
          const i = byTime.get(batch.gpsTime![k]!)!;
          if (
            batch.x[k] !== source.x[i] ||
            batch.z[k] !== source.z[i] ||
            batch.intensity[k] !== source.intensity[i] ||
            batch.pointSourceId[k] !== source.pointSourceId[i]
          )
            throw new Error(`point ${i} differs`);
          if (batch.classification[k] === 2) ground++;
        }
      }
      expect(ground).toBe((await host.api.read(jobId)).clouds[0]!.classCounts['2']);
    }
    const some = await openLas(
      bufferSource('some.las', (await host.api.raw(`/jobs/${jobId}/clouds/${cloudId}/points?classes=1`)).body),
    );
    expect(some.pointCount).toBe((await host.api.read(jobId)).clouds[0]!.classCounts['1']);
  });

  test('a LAZ export comes in again as the same cloud', async () => {
    const { jobId, cloudId } = await jobWithField();
    await host.api.operate(jobId, 'find-ground', { clouds: [cloudId] });
    const { body, status } = await host.api.raw(`/jobs/${jobId}/clouds/${cloudId}/points?version=1.2&format=laz`);
    expect(status).toBe(200);
    expect(body.length).toBeLessThan(field.length / 2);
    const again = await host.api.import(jobId, body, 'again.laz');
    expect(again).toMatchObject({ state: 'done' });
    const { clouds } = await host.api.read(jobId);
    expect(clouds[1]!.classCounts).toEqual(clouds[0]!.classCounts);
    expect(clouds[1]!.bounds).toEqual(clouds[0]!.bounds);
    expect(clouds[1]!.warnings).toEqual([]);
  });

  test('text and PLY come in, to a tenth of a millimetre; lines that are no points are told', async () => {
    const { id: jobId } = await host.api.newJob('Text');
    const text =
      'Este;Norte;Cota;R;G;B\n5512000,1234;6150000,5;30,25;255;0;10\nno point\n5512010;6150010;31;1;2;3\n5512020;6150000;32;1;2;3\n';
    expect(await host.api.import(jobId, Buffer.from(text), 'puntos.csv')).toMatchObject({ state: 'done' });
    const ply =
      'ply\nformat ascii 1.0\nelement vertex 2\nproperty double x\nproperty double y\nproperty double z\nend_header\n5512000 6150000 30\n5512001 6150001 31\n';
    expect(await host.api.import(jobId, Buffer.from(ply), 'mesh.ply')).toMatchObject({ state: 'done' });
    const { clouds } = await host.api.read(jobId);
    expect(clouds[0]).toMatchObject({ pointCount: 3, columns: { rgb: true }, source: { format: 'text' } });
    expect(clouds[0]!.bounds.min[0]).toBeCloseTo(5_512_000.1234, 9);
    expect(clouds[0]!.warnings.map((w) => w.code)).toEqual(['lines-skipped', 'crs-missing']);
    expect(clouds[1]).toMatchObject({ pointCount: 2, source: { format: 'PLY, ascii' } });
    const wrong = await host.api.import(jobId, Buffer.from('Dear surveyor, no points here.'), 'letter.txt');
    expect(wrong).toMatchObject({ state: 'failed', error: { code: 'not-this-format' } });
    const layout = {
      delimiter: ' ',
      hasDecimalComma: false,
      skippedLines: 0,
      columns: ['northing', 'easting', 'elevation'],
    };
    const run = await host.api.import(jobId, Buffer.from('1 2 3\n4 5 6'), 'a.txt', { layout });
    expect(run.state).toBe('done');
    expect((await host.api.read(jobId)).clouds[2]!.bounds).toEqual({ min: [2, 1, 3], max: [5, 4, 6] });
    expect(await readdir(join(host.data, 'scratch'))).toEqual([]);
  });

  test('the report tells density, returns and what is odd; control is looked at, undone and looked at again', async () => {
    const { jobId, cloudId } = await jobWithField();
    const report = await host.api.call('readCloudReport', `/jobs/${jobId}/clouds/${cloudId}/report`);
    // 10 800 points on 60 x 60 m.
    expect(report.density.points).toBeGreaterThan(2.8);
    expect(report.density.points).toBeLessThan(3.6);
    expect(report.returns).toEqual({ single: 10_800, first: 0, intermediate: 0, last: 0 });
    expect(report.density.map.counts.reduce((sum, n) => sum + n, 0)).toBe(10_800);
    expect(report.elevation.counts.reduce((sum, n) => sum + n, 0)).toBeGreaterThan(10_700);
    // The first point's time is zero, which is none.
    expect(report.time!.last - report.time!.first).toBeCloseTo(10.798, 6);
    expect(report.findings[0]!.message).toBe('1 point has no time.');

    // On the plane 30 + 0.02 e + 0.01 n, surveyed 5 cm too low; one on the shed's roof, one beside the field.
    const places = [
      [10, 10],
      [50, 12],
      [12, 48],
      [45, 45],
      [25, 8],
      [8, 30],
      [48, 28],
    ];
    const rows = places.map(
      ([e, n], i) => `C${i},${6_150_000 + n!},${5_512_000 + e!},${(30 + 0.02 * e! + 0.01 * n! - 0.05).toFixed(3)},GCP`,
    );
    const text = ['point,northing,easting,elevation,code', ...rows, 'OUT,6150500,5512500,30,GCP'].join('\n');
    const run = await host.api.fromFile(jobId, 'import-control', text, 'c.csv', { order: 'PNEZD', role: 'check' });
    expect(run.outcome).toBe('8 check points from c.csv');
    const look = await host.api.call('lookAtControl', `/jobs/${jobId}/clouds/${cloudId}/control`);
    expect(look.points.filter((point) => point.difference !== undefined)).toHaveLength(7);
    // The field's scatter is 0 to 1 cm up: 5 mm in the mean.
    expect(look.pattern!.mean).toBeGreaterThan(0.05);
    expect(look.pattern!.mean).toBeLessThan(0.06);
    expect(look.pattern).toMatchObject({ count: 7, isTilted: false, isBowed: false });
    expect((await host.api.read(jobId)).controlCount).toBe(8);
    await host.api.call('undo', `/jobs/${jobId}/undo`);
    expect((await host.api.read(jobId)).controlCount).toBe(0);
    await host.api.call('redo', `/jobs/${jobId}/redo`);
    expect((await host.api.read(jobId)).controlCount).toBe(8);
    const wrong = await host.api.raw(`/jobs/${jobId}/operations/import-control/file?fileName=c.csv`, {
      method: 'POST',
      body: 'C1,1,2,3\nC2,x,2,3',
    });
    expect(wrong.json()).toMatchObject({ status: 422, detail: expect.stringMatching(/c\.csv, line 2/) as string });
  });

  test('a file whose bounds lie is sorted again and comes in whole', async () => {
    const { id: jobId } = await host.api.newJob('Lying');
    const lying = field.slice();
    const view = new DataView(lying.buffer);
    // Least and greatest easting a kilometre off; then all bounds at one place.
    view.setFloat64(179, 5_513_000, true);
    view.setFloat64(187, 5_512_990, true);
    const first = await host.api.import(jobId, lying, 'shifted.las');
    for (const at of [179, 187, 195, 203, 211, 219]) view.setFloat64(at, 0, true);
    const second = await host.api.import(jobId, lying, 'zero.las');
    expect([first.state, second.state]).toEqual(['done', 'done']);
    const { clouds } = await host.api.read(jobId);
    for (const cloud of clouds) {
      expect(cloud).toMatchObject({ pointCount: 10_800, classCounts: { '1': 10_800 } });
      expect(cloud.warnings.map((w) => w.code)).toEqual(['bounds-lie']);
      expect(cloud.bounds.max[0]).toBeCloseTo(5_512_060, 0);
    }
  });

  test('contours leave as DXF and the surface as LandXML, named after themselves', async () => {
    const { jobId, cloudId } = await jobWithField();
    const { productId: surfaceId } = await host.api.operate(jobId, 'build-surface', {
      clouds: [cloudId],
      classes: [1],
    });
    const { productId: contoursId } = await host.api.operate(jobId, 'draw-contours', { surfaceId });
    expect((await host.api.file(jobId, contoursId, 'dxf')).toString()).toMatch(/POLYLINE[\s\S]*EOF\s*$/);
    expect((await host.api.file(jobId, surfaceId, 'landxml')).toString()).toMatch(/<Surface name="Unclassified"/);
  });

  test('a cancelled import keeps nothing and says so', async () => {
    const { id: jobId } = await host.api.newJob('Cancelled');
    const run = await host.api.startFromFile(jobId, 'import-cloud', field, 'field.las');
    await host.api.call('cancelRun', `/jobs/${jobId}/runs/${run.id}`);
    expect((await host.api.ended(jobId, run)).state).toBe('cancelled');
    const now = await host.api.read(jobId);
    expect([now.clouds.length, now.job.pointCount]).toEqual([0, 0]);
  });

  test('two edits at once wait their turn and neither is lost', async () => {
    const { jobId, cloudId } = await jobWithField();
    const start = (distance: string) =>
      host.api.call('startOperation', `/jobs/${jobId}/operations/find-ground`, {
        // Without local planes the tolerance alone decides, so that each of the two changes what the other made.
        body: { clouds: [cloudId], tolerance: distance, refine: false },
      });
    const runs = await Promise.all([start('1 cm'), start('20 cm')]);
    for (const run of runs) expect((await host.api.ended(jobId, run)).state).toBe('done');
    const { history } = await host.api.read(jobId);
    const both = history.entries.slice(0, 2);
    expect(both.map((entry) => entry.parameters['tolerance']).sort()).toEqual([0.01, 0.2]);
    for (const { outcome } of both) expect(outcome).toMatch(/points to ground|out of ground/);
    await host.api.call('undo', `/jobs/${jobId}/undo`);
    await host.api.call('undo', `/jobs/${jobId}/undo`);
    expect((await host.api.read(jobId)).clouds[0]!.classCounts).toEqual({ '1': 10_800 });
  });

  test('whoever watches a job is told of progress and changes', async () => {
    const { jobId, cloudId } = await jobWithField();
    const abort = new AbortController();
    const stream = await fetch(`${host.server.url}/api/jobs/${jobId}/events`, { signal: abort.signal });
    const reader = stream.body!.pipeThrough(new TextDecoderStream()).getReader();
    await host.api.operate(jobId, 'find-ground', { clouds: [cloudId] });
    let text = '';
    while (!text.includes('"kind":"changed"')) text += (await reader.read()).value ?? '';
    abort.abort();
    expect(text).toMatch(/"state":"queued"[\s\S]*"state":"running"[\s\S]*"state":"done"/);
  });
});

describe('bad input', () => {
  test('a damaged file says what is wrong and leaves nothing behind', async () => {
    const { id: jobId } = await host.api.newJob('Damaged');
    const damaged = field.slice();
    new DataView(damaged.buffer).setFloat64(131, 0, true);
    const run = await host.api.import(jobId, damaged, 'bent.las');
    expect(run).toMatchObject({ state: 'failed', error: { code: 'scale-absurd', status: 422 } });
    expect(run.error!.detail).toMatch(/bent\.las, bytes 131-138.*scale 0/);
    const now = await host.api.read(jobId);
    expect([now.clouds.length, now.history.entries[0]!.state]).toEqual([0, 'failed']);
    expect(await readdir(join(host.data, 'scratch'))).toEqual([]);
  });

  test('a file cut short gives what is there, with a warning', async () => {
    const { id: jobId } = await host.api.newJob('Cut short');
    const run = await host.api.import(jobId, field.slice(0, field.length - 3000));
    expect(run.state).toBe('done');
    const [cloud] = (await host.api.read(jobId)).clouds;
    expect(cloud!.pointCount).toBe(10_700);
    expect(cloud!.warnings.map((w) => w.code)).toContain('file-cut-short');
  });

  test('a file in another system is moved into the job’s and back again to the millimetre; or kept as it is', async () => {
    const utm = await host.api.newJob('Elsewhere', { epsg: 32720 });
    expect(await host.api.import(utm.id, field)).toMatchObject({ state: 'done' });
    const [cloud] = (await host.api.read(utm.id)).clouds;
    expect(cloud!.warnings).toEqual([
      { code: 'moved', message: expect.stringMatching(/EPSG:5347.*EPSG:32720/) as string },
    ]);
    expect(cloud!.pointCount).toBe(10_800);
    // 5512000 E in zone 5 lies a little east of 60° W: by UTM zone 20 (63° W) about 774 km east; worked out with cs2cs.
    const planar = spawnSync('cs2cs', ['-f', '%.4f', ...projOf(5347), '+to', ...projOf(32720)], {
      input: '5512000 6150000\n',
    });
    if (planar.status === 0) {
      const [e, n] = planar.stdout.toString().trim().split(/\s+/).map(Number);
      expect(Math.abs(cloud!.bounds.min[0] - e!)).toBeLessThan(4); // the field's corner, turned by the convergence of 1.7°
      expect(Math.abs(cloud!.bounds.min[1] - n!)).toBeLessThan(4);
    }
    const { body } = await host.api.raw(`/jobs/${utm.id}/clouds/${cloud!.id}/points`);
    const { id: backId } = await host.api.newJob('Back');
    await host.api.import(backId, body);
    const [back] = (await host.api.read(backId)).clouds;
    for (let axis = 0; axis < 3; axis++)
      expect(Math.abs(back!.bounds.min[axis]! - (await fieldBounds())[axis]!)).toBeLessThan(0.0021);

    await host.api.import(utm.id, field, 'kept.las', { coordinates: 'kept' });
    expect((await host.api.read(utm.id)).clouds[1]!.warnings.map((w) => w.code)).toEqual([
      'crs-differs',
      'outside-area',
    ]);
  });

  test('a metre file in a job in US survey feet becomes feet, across and up', async () => {
    const { id: jobId } = await host.api.newJob('Feet', { epsg: 2277 });
    const run = await host.api.import(jobId, field);
    // A field of Argentina has its place in Texas' system too, a long way off.
    expect(run.state).toBe('done');
    const [cloud] = (await host.api.read(jobId)).clouds;
    expect(cloud!.warnings[0]!.message).toMatch(/Elevations turned from metres into US survey feet/);
    expect(cloud!.bounds.min[2]).toBeCloseTo(30 * (3937 / 1200), 0);
  });

  test.each([
    ['a job without a name', '/jobs', { name: '  ' }, 400, 'invalid', /Give the job a name/],
    ['a system that is none', '/jobs', { name: 'x', epsg: 4326 }, 404, 'not-found', /EPSG:4326/],
    ['a field nobody knows', '/jobs', { name: 'x', colour: 'red' }, 400, 'invalid', /colour/],
  ] as const)('%s', async (_, path, body, status, code, detail) => {
    const answer = await host.api.raw(path, {
      method: 'POST',
      body: JSON.stringify(body),
      headers: { 'content-type': 'application/json' },
    });
    expect(answer.type).toContain('application/problem+json');
    expect(answer.json()).toMatchObject({
      status,
      code,
      instance: `/api${path}`,
      detail: expect.stringMatching(detail) as string,
    });
  });

  test.each([
    ['a length that is none', { cell: 'wide' }, /\/cell/],
    ['a length out of range', { cell: '0.1 mm' }, /\/cell/],
    ['a shape nobody knows', { landShape: 'alpine' }, /\/landShape/],
  ])('an operation with %s names the parameter', async (_, parameters, pointer) => {
    const { jobId, cloudId } = await jobWithField();
    const answer = await host.api.raw(`/jobs/${jobId}/operations/find-ground`, {
      method: 'POST',
      body: JSON.stringify({ clouds: [cloudId], ...parameters }),
      headers: { 'content-type': 'application/json' },
    });
    expect(answer.json()).toMatchObject({
      status: 400,
      errors: [{ pointer: expect.stringMatching(pointer) as string }],
    });
  });

  test('a surface from a class with no points fails with a way out', async () => {
    const { jobId, cloudId } = await jobWithField();
    expect(await host.api.operate(jobId, 'build-surface', { clouds: [cloudId], classes: [9] })).toMatchObject({
      state: 'failed',
      error: { code: 'too-few-points', fix: expect.any(String) as string },
    });
  });

  test('a cloud, surface, job or address that is not there is a 404 with words', async () => {
    const { id } = await host.api.newJob();
    for (const path of [
      `/jobs/${id}/clouds/99`,
      `/jobs/${id}/products/1/file?format=landxml`,
      '/jobs/nowhere',
      '/nonsense',
    ]) {
      const answer = await host.api.raw(path);
      expect(answer.json(), path).toMatchObject({ status: 404, code: 'not-found' });
    }
    const bad = await host.api.raw('/jobs/..%2F..%2Fetc');
    expect(bad.status).toBe(400);
  });

  test('broken JSON, no body, a page of another site', async () => {
    const post = (init: RequestInit) => host.api.raw('/jobs', { method: 'POST', ...init });
    expect((await post({ body: '{', headers: { 'content-type': 'application/json' } })).json()).toMatchObject({
      status: 400,
    });
    expect((await post({})).json()).toMatchObject({ status: 400, code: 'bad-request' });
    expect(
      (
        await post({ body: '{}', headers: { 'content-type': 'application/json', 'sec-fetch-site': 'cross-site' } })
      ).json(),
    ).toMatchObject({ status: 403 });
  });

  test('nothing to undo is said, not an error of ours', async () => {
    const { id } = await host.api.newJob();
    expect((await host.api.raw(`/jobs/${id}/undo`, { method: 'POST' })).json()).toMatchObject({
      status: 409,
      code: 'nothing-to-undo',
    });
  });

  test('wrong settings are named', () => {
    expect(() => readSettings({ PAMPERO_PORT: 'eighty' })).toThrow(/PAMPERO_PORT/);
    expect(readSettings({}).host).toBe('127.0.0.1');
  });
});

test('OpenAPI describes every endpoint', async () => {
  const { paths } = (await host.api.raw('/openapi.json')).json() as {
    paths: Record<string, Record<string, { operationId: string }>>;
  };
  const described = Object.values(paths).flatMap((methods) => Object.values(methods).map((m) => m.operationId));
  expect(described.sort()).toEqual(Object.keys(endpoints).sort());
});
