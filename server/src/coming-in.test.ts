import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { newPointBatch, type PointBatch } from '@pampero/core/cloud';
import { bufferSink, bufferSource } from '@pampero/core/formats';
import { openLas, writeLas } from '@pampero/core/formats/las';
import { seededRandom } from '@pampero/core/task';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { lasBytes, QUANTISATION, testServer, type TestServer } from './server.fixture.js';
import { sampleLas } from './tasks/import/sample-las.js';

const COLUMNS = { gpsTime: true, rgb: false, nearInfrared: false, wavePacket: false, extraBytesLength: 0 };
const COUNT = 2_600_000;
const SIDE = 600;

/** Scan lines over a square of land, one after another, as a flight leaves them. */
function flight(count = COUNT): PointBatch {
  const random = seededRandom(9);
  const points = newPointBatch(count, COLUMNS);
  for (let i = 0; i < count; i++) {
    const n = (SIDE * i) / count;
    points.x[i] = Math.round(1000 * SIDE * random());
    points.y[i] = Math.round(1000 * n);
    points.z[i] = Math.round(1000 * (20 + 0.01 * n));
    points.returns[i] = 0x11;
    points.gpsTime![i] = i / 1e5;
  }
  return points;
}

let host: TestServer;
let bytes: Uint8Array;
beforeAll(async () => {
  host = await testServer();
  bytes = await lasBytes(flight());
});
afterAll(() => host.stop());

/** Asks again until it is so; the import is still running meanwhile. */
async function until<T>(ask: () => Promise<T | undefined>): Promise<T> {
  for (let i = 0; i < 600; i++) {
    const answer = await ask();
    if (answer !== undefined) return answer;
    await new Promise((resolve) => setTimeout(resolve, 15));
  }
  throw new Error('It never came.');
}

describe('a look while a cloud comes in', () => {
  test('shows a sample of all of it, is no cloud to work on, and is gone when the cloud is there', async () => {
    const { id: jobId } = await host.api.newJob('Early');
    const run = await host.api.startFromFile(jobId, 'import-cloud', bytes, 'flight.las');
    const [seen] = await until(async () => {
      const { comingIn } = await host.api.read(jobId);
      return comingIn.length > 0 ? comingIn : undefined;
    });
    expect((await host.api.call('readRun', `/jobs/${jobId}/runs/${run.id}`)).state).toBe('running');
    expect(seen!.pointCount).toBe(COUNT);
    for (const axis of [0, 1] as const) {
      expect(seen!.bounds.min[axis] - QUANTISATION.offset[axis]).toBeLessThan(SIDE * 0.01);
      expect(seen!.bounds.max[axis] - QUANTISATION.offset[axis]).toBeGreaterThan(SIDE * 0.99);
    }
    const { nodes } = await host.api.call('listNodes', `/jobs/${jobId}/clouds/${seen!.id}/nodes`);
    const shown = nodes.reduce((sum, { count }) => sum + count, 0);
    expect(shown).toBeGreaterThan(100_000);
    expect(shown).toBeLessThan(200_000);
    const refused = await host.api.raw(`/jobs/${jobId}/operations/find-ground`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ clouds: [seen!.id] }),
    });
    expect(refused.status).toBe(404);
    expect(String(refused.json()['detail'])).toMatch(/still coming in/);

    const ended = await host.api.ended(jobId, run);
    expect(ended.state, JSON.stringify(ended)).toBe('done');
    const { clouds, comingIn } = await host.api.read(jobId);
    expect(comingIn).toEqual([]);
    expect(clouds.map(({ pointCount }) => pointCount)).toEqual([COUNT]);
  });

  test('of a PLY file too, before it is turned into what is imported', async () => {
    const { id: jobId } = await host.api.newJob('Early PLY');
    const head = `ply\nformat binary_little_endian 1.0\nelement vertex ${COUNT}\nproperty float x\nproperty float y\nproperty float z\nend_header\n`;
    const body = new Float32Array(3 * COUNT);
    for (let i = 0; i < COUNT; i++) body.set([SIDE * ((i * 0.618) % 1), (SIDE * i) / COUNT, 20], 3 * i);
    const ply = Buffer.concat([Buffer.from(head), Buffer.from(body.buffer)]);
    const run = await host.api.startFromFile(jobId, 'import-cloud', ply, 'dense.ply');
    const steps = new Set<string>();
    const [seen] = await until(async () => {
      const { comingIn } = await host.api.read(jobId);
      if (comingIn.length === 0) return undefined;
      steps.add((await host.api.call('readRun', `/jobs/${jobId}/runs/${run.id}`)).step);
      return comingIn;
    });
    // It is seen while the file is read, or even before.
    expect([...steps].join()).toMatch(/first look|Reading the file/);
    expect(seen!.pointCount).toBe(COUNT);
    expect(seen!.bounds.max[1] - seen!.bounds.min[1]).toBeGreaterThan(SIDE * 0.99);
    expect((await host.api.ended(jobId, run)).state).toBe('done');
    const { clouds, comingIn } = await host.api.read(jobId);
    expect([clouds.map(({ pointCount }) => pointCount), comingIn]).toEqual([[COUNT], []]);
  });

  test('a cancelled import leaves neither cloud nor sample', async () => {
    const { id: jobId } = await host.api.newJob('Wrong place');
    const run = await host.api.startFromFile(jobId, 'import-cloud', bytes, 'flight.las');
    await until(async () => ((await host.api.read(jobId)).comingIn.length > 0 ? true : undefined));
    await host.api.call('cancelRun', `/jobs/${jobId}/runs/${run.id}`);
    expect((await host.api.ended(jobId, run)).state).toBe('cancelled');
    const { clouds, comingIn } = await host.api.read(jobId);
    expect([clouds, comingIn]).toEqual([[], []]);
  });

  test('a cloud that is in before anyone looks is not shown twice', async () => {
    const { id: jobId } = await host.api.newJob('Small');
    const small = await lasBytes(flight(20_000));
    const run = await host.api.startFromFile(jobId, 'import-cloud', small, 'small.las');
    const seen = new Set<number>();
    while ((await host.api.call('readRun', `/jobs/${jobId}/runs/${run.id}`)).state === 'running')
      (await host.api.read(jobId)).comingIn.forEach(({ id }) => seen.add(id));
    expect(seen.size).toBe(0);
  });
});

describe('a sample of a file', () => {
  let folder: string;
  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'sample-'));
  });
  afterAll(() => rm(folder, { recursive: true, force: true }));

  test.each([
    ['LAS', false],
    ['LAZ', true],
  ])('%s: points of the file itself, from its first to its last', async (_, isCompressed) => {
    const points = flight(400_000);
    const path = join(folder, `flight-${isCompressed}`);
    const sink = bufferSink();
    const options = { version: '1.2', pointFormat: 1, quantisation: QUANTISATION } as const;
    await writeLas(sink, [points], { ...options, ...(isCompressed && { isCompressed }) });
    await writeFile(path, sink.bytes());
    const target = `${path}-sample.las`;
    const { pointCount } = await sampleLas({ path, fileName: 'flight.las', target, points: 10_000 });
    expect(pointCount).toBeGreaterThan(7000);
    expect(pointCount).toBeLessThan(13_000);
    const las = await openLas(bufferSource('sample.las', await readFile(target)));
    const there = new Set<string>();
    for (let i = 0; i < points.count; i++) there.add(`${points.x[i]} ${points.y[i]} ${points.z[i]}`);
    let [first, last] = [Infinity, 0];
    for await (const batch of las.batches())
      for (let i = 0; i < batch.count; i++) {
        expect(there.has(`${batch.x[i]} ${batch.y[i]} ${batch.z[i]}`)).toBe(true);
        first = Math.min(first, batch.y[i]!);
        last = Math.max(last, batch.y[i]!);
      }
    const span = 1000 * SIDE;
    expect(first).toBeLessThan(isCompressed ? 0.13 * span : 0.01 * span);
    expect(last).toBeGreaterThan(isCompressed ? 0.8 * span : 0.99 * span);
  });
});
