import { mkdir, mkdtemp, readdir, rm, writeFile } from 'node:fs/promises';
import { createServer, type RequestListener, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import { fieldWithShed, QUANTISATION, testJob, type TestJob, type TestServer } from '../server.fixture.js';
import { Outside } from '../network/outside.js';
import { cadReceiver } from './cad-receiver.js';
import { ANSWER, putInFolder } from './drawing-folder.js';
import { watchFolder } from './folder-watcher.js';
import { readDrawing } from './read-drawing.js';
import { differences, sendDrawing } from './send-drawing.js';

/** What leaves for a drawing office, told by what the office understood of it. */
const [E, N] = QUANTISATION.offset;
const outside = new Outside();
let job: TestJob;
let host: TestServer;
let jobId: string;
let folder: string;
let address: string;
const open: Server[] = [];
async function listening(server: Server): Promise<string> {
  open.push(server);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
}
const serving = (listener: RequestListener): Promise<string> => listening(createServer(listener));
let surface: number;
let contours: number;
let lines: number;

beforeAll(async () => {
  job = await testJob(fieldWithShed());
  ({ host, jobId } = job);
  folder = await mkdtemp(join(tmpdir(), 'pampero-cad-'));
  address = await listening(cadReceiver(folder));
  surface = (await host.api.operate(jobId, 'build-surface', { clouds: [job.cloudId], classes: [1] })).productId!;
  contours = (await host.api.operate(jobId, 'draw-contours', { surfaceId: surface, interval: 0.5 })).productId!;
  const ditch = JSON.stringify({ type: 'LineString', coordinates: [[E + 5, N + 20, 31], [E + 55, N + 20, 31]] }); // prettier-ignore
  await host.api.fromFile(jobId, 'import-lines', ditch, 'ditch.geojson');
  lines = (await host.api.newest(jobId, 'lines')).id;
});
afterAll(async () => {
  for (const server of open) {
    server.closeAllConnections();
    server.close();
  }
  await job.stop();
  await rm(folder, { recursive: true, force: true });
});
const send = (given: Record<string, unknown>) => host.api.operate(jobId, 'send-to-cad', { address, ...given });

describe('sent to a drawing program', () => {
  test('surface, contours and lines are understood as sent, and lie in its folder', async () => {
    const run = await send({ surfaces: [surface], contours: [contours], lines: [lines] });
    expect(run.state, run.outcome).toBe('done');
    expect(run.outcome).toBe('3 files sent and understood as sent');
    const { figures } = (await host.api.read(jobId)).history.entries[0]!;
    const facets = (await host.api.newest(jobId, 'surface')).facts.facets;
    expect(figures.map(({ value }) => value)).toEqual([
      expect.stringMatching(
        new RegExp(
          `^LandXML; metres; surface .* with ${String(facets).replace(/(\d)(?=(\d{3})+$)/g, '$1.')} triangles`,
        ),
      ),
      expect.stringMatching(/^DXF; metres; .*lines/),
      expect.stringMatching(/^DXF; metres; .*: 1 lines/),
    ]);
    expect((await readdir(folder)).filter((name) => name.endsWith('.part'))).toEqual([]);
    expect(await readdir(folder)).toHaveLength(3);
  });

  test('as faces, every triangle is one', async () => {
    const run = await send({ surfaces: [surface], as: 'dxf' });
    expect(run.state, run.outcome).toBe('done');
  });

  test('a drawing that is open there, and a folder that is gone, are told in its words; then it is sent', async () => {
    const name = (await readdir(folder)).find((file) => file.endsWith('.xml'))!;
    await writeFile(join(folder, `${name}.lock`), '');
    const inUse = await send({ surfaces: [surface] });
    expect(inUse).toMatchObject({ state: 'failed', error: { code: 'cad-refuses' } });
    expect(inUse.outcome).toContain('is open in a drawing');
    await rm(join(folder, `${name}.lock`));
    expect((await send({ surfaces: [surface] })).state).toBe('done');
    const nowhere = await listening(cadReceiver(join(folder, 'gone')));
    const gone = await send({ address: nowhere, surfaces: [surface] });
    expect(gone.outcome).toContain('The folder for drawings is not there');
  });

  test('a program that reads it otherwise is told apart: unit, counts, place', async () => {
    const odd = await serving((_, response) => response.end(JSON.stringify({ fileName: 'x', format: 'DXF', unit: 'international-foot', layers: [], surfaces: [{ name: 'Ground', points: 3, triangles: 1 }], extent: { min: [0, 0, 0], max: [1, 1, 1] } }))); // prettier-ignore
    const run = await send({ address: odd, surfaces: [surface] });
    expect(run).toMatchObject({ state: 'failed', error: { code: 'cad-differs' } });
    expect(run.outcome).toMatch(
      /it read international feet; the job is in metres; it read 1 triangles of .*; it found it about 0 E 0 N/,
    );
  });

  test('nobody there, rubbish, and nothing chosen are refused in words', async () => {
    expect(await send({ address: 'file:///tmp', lines: [lines] })).toMatchObject({ error: { code: 'cad-silent' } });
    const rubbish = await serving((_, response) => response.end('<html>'));
    expect(await send({ address: rubbish, lines: [lines] })).toMatchObject({ error: { code: 'cad-rubbish' } });
    const refusing = await serving((_, response) => response.writeHead(500).end('no'));
    const run = await send({ address: refusing, lines: [lines] });
    expect(run.outcome).toContain('status 500');
    const silent = await serving(() => undefined);
    const path = join(folder, (await readdir(folder))[0]!);
    const signal = new AbortController().signal;
    await expect(sendDrawing(outside, silent, 'x.dxf', path, signal, 200)).rejects.toThrow('has not answered in');
    const answer = await host.api.raw(`/jobs/${jobId}/operations/send-to-cad`, { method: 'POST', body: JSON.stringify({ address }), headers: { 'content-type': 'application/json' } }); // prettier-ignore
    expect(answer.status).toBe(400);
  });
});

describe('sent by the folder that a drawing program watches', () => {
  let watched: string;
  let file: string;
  let endWatching: (() => void) | undefined;
  const never = new AbortController().signal;
  beforeEach(async () => {
    watched = await mkdtemp(join(tmpdir(), 'pampero-watched-'));
    file = join(watched, '..', `${watched.split('/').pop()!}-sent`);
    await writeFile(file, '0\nSECTION\n2\nENTITIES\n0\nLINE\n8\nWALL\n10\n1\n20\n2\n30\n3\n11\n4\n21\n5\n31\n6\n0\nENDSEC\n0\nEOF\n'); // prettier-ignore
  });
  afterEach(async () => {
    endWatching?.();
    await rm(watched, { recursive: true, force: true });
    await rm(file, { force: true });
  });
  const put = (patience = 5000, name = 'wall.dxf') => putInFolder(watched, name, file, never, patience);

  test('what it read is told, anew each time, and nothing half lies there', async () => {
    endWatching = watchFolder(watched, 20);
    expect((await put()).layers).toEqual([{ name: 'WALL', lines: 1, faces: 0, points: 0, texts: 0 }]);
    await writeFile(file, '0\nSECTION\n2\nENTITIES\n0\nENDSEC\n0\nEOF\n');
    expect((await put()).layers).toEqual([]);
    expect((await readdir(watched)).sort()).toEqual(['wall.dxf', `wall.dxf${ANSWER}`]);
  });

  test('why it was not taken is told in its words', async () => {
    endWatching = watchFolder(watched, 20);
    await writeFile(file, '<?xml version="1.0"?><LandXML><Units><Metric linearUnit="furlong"/></Units></LandXML>');
    await expect(put(5000, 'ground.xml')).rejects.toThrow('furlong');
  });

  test('nobody who reads it, rubbish, a file in use and a folder that is gone: each has its own words', async () => {
    await expect(put(100)).rejects.toMatchObject({ code: 'cad-silent', what: expect.stringContaining('The file lies in the folder') as string }); // prettier-ignore
    const rubbish = setInterval(() => void writeFile(join(watched, `wall.dxf${ANSWER}`), '{"ok":true}'), 10);
    await expect(put()).rejects.toMatchObject({ code: 'cad-rubbish' });
    clearInterval(rubbish);
    await writeFile(join(watched, 'wall.dxf.lock'), '');
    await expect(put()).rejects.toMatchObject({ code: 'cad-in-use' });
    await rm(watched, { recursive: true });
    await expect(put()).rejects.toMatchObject({ code: 'cad-folder-gone' });
  });

  test('who waits can stop, and a folder with the name of the file is told', async () => {
    await expect(putInFolder(watched, 'wall.dxf', file, AbortSignal.timeout(50))).rejects.toThrow('abort');
    await rm(join(watched, 'wall.dxf'));
    await mkdir(join(watched, 'wall.dxf'));
    await expect(put()).rejects.toThrow('a folder of that name is there');
    expect(await readdir(watched)).toEqual(['wall.dxf']);
  });

  test('a job sends by it where the server has one, and says so where it has none', async () => {
    const none = await send({ by: 'folder', address: undefined, surfaces: [surface] });
    expect(none).toMatchObject({ state: 'failed', error: { code: 'no-drawing-folder' } });
    endWatching = watchFolder(watched, 20);
    const own = await testJob(fieldWithShed(), { drawings: watched });
    try {
      const built = await own.host.api.operate(own.jobId, 'build-surface', { clouds: [own.cloudId], classes: [1] });
      const run = await own.host.api.operate(own.jobId, 'send-to-cad', { by: 'folder', surfaces: [built.productId] });
      expect(run.outcome).toBe('1 file sent and understood as sent');
      expect((await readdir(watched)).some((name) => name.endsWith('.xml'))).toBe(true);
    } finally {
      await own.stop();
    }
  });
});

describe('what the receiver reads', () => {
  test('a file of another make: no unit, feet, points, a damaged one', () => {
    const dxf = (header: string, entities: string): string => `0\nSECTION\n2\nHEADER\n${header}0\nENDSEC\n0\nSECTION\n2\nENTITIES\n${entities}0\nENDSEC\n0\nEOF\n`; // prettier-ignore
    const line = '0\nLINE\n8\nWALL\n10\n1\n20\n2\n30\n3\n11\n4\n21\n5\n31\n6\n';
    const plain = readDrawing(dxf('', line), 'a.dxf');
    expect(plain).toEqual({ fileName: 'a.dxf', format: 'DXF', layers: [{ name: 'WALL', lines: 1, faces: 0, points: 0, texts: 0 }], surfaces: [], extent: { min: [1, 2, 3], max: [4, 5, 6] } }); // prettier-ignore
    const far = { min: [0, 0], max: [10, 10] };
    expect(differences(plain, { unit: 'metre', lines: 2, job: far })).toEqual(['it found no unit; the job is in metres', 'it read 1 lines of 2']); // prettier-ignore
    expect(readDrawing(dxf('9\n$INSUNITS\n70\n2\n', line), 'b.dxf').unit).toBe('international-foot');
    expect(differences(readDrawing(dxf('', ''), 'c.dxf'), { unit: 'metre', job: far })).toContain(
      'it found nothing in it',
    );
    expect(() => readDrawing('<?xml version="1.0"?><LandXML><Units><Metric linearUnit="furlong"/></Units></LandXML>', 'd.xml')).toThrow('furlong'); // prettier-ignore
  });
});
