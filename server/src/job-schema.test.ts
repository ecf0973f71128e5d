import { readFile } from 'node:fs/promises';
import { gunzipSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { testServer, type TestServer } from './server.fixture.js';

/** A job as schema 4 wrote it: one product of each kind, all with the names parameters had then. It ends with a stale surface. */
const OLD = new URL('../fixtures/job-schema-4.pampero.gz', import.meta.url);

let host: TestServer;
let jobId: string;
beforeAll(async () => {
  host = await testServer();
  jobId = (await host.api.call('restoreJob', '/jobs/file', { body: gunzipSync(await readFile(OLD)) })).id;
});
afterAll(() => host.stop());

describe('a job file of schema 4', () => {
  test('opens with all that was in it, and what was stale is stale', async () => {
    const { clouds, products, history, controlCount } = await host.api.read(jobId); // held against the contract
    expect(clouds.map(({ pointCount }) => pointCount)).toEqual([2160]);
    expect(controlCount).toBe(3);
    expect(products.map(({ kind, isStale }) => `${kind}${isStale ? ', stale' : ''}`)).toEqual([
      'lines',
      'surface',
      'contours, stale',
      'grid',
      'grid, stale',
      'grid, stale',
      'contours, stale',
      'volume, stale',
      'profile, stale',
      'accuracy, stale',
      'grid',
      'spots',
    ]);
    expect(history.entries.every(({ state }) => state === 'done')).toBe(true);
  });

  test('names parameters as they are named now', async () => {
    const surface = (await host.api.made(jobId, 'surface'))[0]!;
    expect(surface.parameters).toMatchObject({ clouds: [1], maximumEdge: 25, vertexSpacing: 4, keepBreaks: false });
    expect(surface.parameters['edits']).toHaveLength(1);
    expect(surface.facts.longestEdge).toBeGreaterThan(1);
    const [onSurface, onGrid] = await host.api.made(jobId, 'contours');
    expect(onSurface!.parameters).toMatchObject({
      on: 'surface',
      labelSpacing: 70,
      labelHeight: 1.2,
      labelReading: 'uphill',
      dashFrom: 4,
      minimumLength: 3,
      baseElevation: 0,
    });
    expect(onGrid!.parameters).toMatchObject({ on: 'grid' });
    const ground = (await host.api.read(jobId)).history.entries.find(({ operation }) => operation === 'find-ground')!;
    expect(ground.parameters).toMatchObject({ clouds: [1], refine: true, lowPointDepth: 0.5 });
  });

  test('all that is stale is built again, the edit by hand with it', async () => {
    const { runs, left } = await host.api.rebuild(jobId);
    expect(left).toEqual([]);
    expect(runs.map(({ state }) => state)).toEqual(runs.map(() => 'done'));
    const { products } = await host.api.read(jobId);
    expect(products.filter(({ isStale }) => isStale)).toEqual([]);
  });

  test('steps of then are undone: the edited triangle comes back', async () => {
    const before = (await host.api.made(jobId, 'surface'))[0]!;
    const isEdited = async (): Promise<boolean> =>
      ((await host.api.made(jobId, 'surface'))[0]!.parameters['edits'] as unknown[]).length > 0;
    for (let i = 0; i < 30 && (await isEdited()); i++) await host.api.undo(jobId);
    const earlier = (await host.api.made(jobId, 'surface'))[0]!;
    expect(earlier.seriesId).toBe(before.seriesId);
    expect(earlier.facts.facets).toBe(before.facts.facets + 1);
    // Back to the bare cloud, and forth again.
    for (let i = 0; i < 60 && (await host.api.read(jobId)).history.undoes !== null; i++) await host.api.undo(jobId);
    expect((await host.api.read(jobId)).products).toEqual([]);
    for (let i = 0; i < 60 && (await host.api.read(jobId)).history.redoes !== null; i++)
      await host.api.call('redo', `/jobs/${jobId}/redo`);
    expect((await host.api.read(jobId)).products.filter(({ isStale }) => isStale)).toEqual([]);
  });
});
