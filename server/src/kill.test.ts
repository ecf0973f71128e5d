import { mkdtemp, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { slicePoints } from '@pampero/core/cloud';
import { surveyScene } from '@pampero/demo';
import type { Run } from '@pampero/contract';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { fieldWithShed, lasBytes, QUANTISATION, type ApiClient } from './server.fixture.js';
import { spawnedServer, type SpawnedServer } from './spawned-server.fixture.js';

/** Watches a run until it has come as far as `share`, or has ended. */
async function progressed(api: ApiClient, jobId: string, run: Run, share: number): Promise<Run> {
  for (;;) {
    const now = await api.call('readRun', `/jobs/${jobId}/runs/${run.id}`);
    if (now.progress >= share || (now.state !== 'running' && now.state !== 'queued')) return now;
    await new Promise((resolve) => setTimeout(resolve, 5));
  }
}

describe('a server killed in the middle', () => {
  let data: string;
  let server: SpawnedServer | undefined;
  beforeEach(async () => {
    data = await mkdtemp(join(tmpdir(), 'pampero-kill-'));
  });
  afterEach(async () => {
    await server?.kill();
    await rm(data, { recursive: true, force: true });
  });

  const start = async (): Promise<ApiClient> => {
    server = await spawnedServer({}, { data });
    return server.api;
  };

  test('of an import, then of a classification: the job opens again, whole, without the half step', async () => {
    const cloud = slicePoints(surveyScene('wooded-hill', 7).cloud, 0, 200_000);
    const bytes = await lasBytes({ ...cloud, classification: new Uint8Array(cloud.count).fill(1) });
    let api = await start();
    const { id: jobId } = await api.newJob('Kill');
    const importing = () => api.startFromFile(jobId, 'import-cloud', bytes, 'hill.las');

    const first = await progressed(api, jobId, await importing(), 0.6);
    expect(first.state).toBe('running');
    await server!.kill();
    const grown = (await stat(join(data, `${jobId}.pampero`))).size;

    api = await start();
    let now = await api.read(jobId);
    expect([now.clouds.length, now.job.pointCount]).toEqual([0, 0]);
    expect(now.history.entries.map((entry) => entry.state)).toEqual(['interrupted']);
    expect((await stat(join(data, `${jobId}.pampero`))).size).toBeLessThan(Math.max(grown, 4e6));
    // The journal gives its room back too: together they are as small as an empty job's.
    const journal = await stat(join(data, `${jobId}.pampero-wal`)).catch(() => ({ size: 0 }));
    expect((await stat(join(data, `${jobId}.pampero`))).size + journal.size).toBeLessThan(6e6);

    const imported = await api.ended(jobId, await importing());
    expect(imported.state).toBe('done');
    const before = (await api.read(jobId)).clouds[0]!;

    // Killed at several places of the way: while rasters are gathered, the cloth laid, points classed and classes stored.
    for (const share of [0.1, 0.6, 0.96]) {
      const run = await api.call('startOperation', `/jobs/${jobId}/operations/find-ground`, {
        body: { clouds: [before.id] },
      });
      const seen = await progressed(api, jobId, run, share);
      await server!.kill();
      api = await start();
      now = await api.read(jobId);
      const [entry] = now.history.entries;
      if (entry!.state === 'done') {
        // It was quicker than the kill: then all of it is there.
        expect(now.clouds[0]!.classCounts['2']).toBeGreaterThan(50_000);
        await api.call('undo', `/jobs/${jobId}/undo`);
        now = await api.read(jobId);
      } else expect([seen.state, entry!.state]).toEqual(['running', 'interrupted']);
      expect(now.clouds[0]!.classCounts).toEqual(before.classCounts);
    }
    const finished = await api.operate(jobId, 'find-ground', { clouds: [before.id] });
    expect(finished.state).toBe('done');

    // What was acknowledged is there after a kill right behind it.
    await server!.kill();
    api = await start();
    now = await api.read(jobId);
    expect(now.history.entries[0]!.state).toBe('done');
    expect(now.clouds[0]!.classCounts['2']).toBeGreaterThan(50_000);
  }, 300_000); // ground five times and five servers: on a busy machine two minutes are not enough

  test('between one hand edit and the next: what was acknowledged is there, what was not is there whole or not at all', async () => {
    let api = await start();
    const { id: jobId } = await api.newJob('Hand');
    await api.import(jobId, await lasBytes(fieldWithShed()));
    const visible = { hiddenClasses: [], withWithheld: false };
    const [e, n] = QUANTISATION.offset;
    // Squares of ten metres, one after another.
    const square = (k: number) => {
      const [west, south] = [e + 10 * (k % 6), n + 10 * Math.floor(k / 6)];
      const corners = [[west, south], [west + 10, south], [west + 10, south + 10], [west, south + 10]]; // prettier-ignore
      return [{ how: 'add', shape: { kind: 'boundary', corners, buffer: 0 }, visible }];
    };
    const edit = (k: number) =>
      api.call('startOperation', `/jobs/${jobId}/operations/set-class`, {
        body: { selection: square(k), classCode: 64 + k },
      });
    const known = new Map<number, number>();
    for (let k = 0; k < 4; k++) {
      const acknowledged = await api.ended(jobId, await edit(2 * k));
      expect(acknowledged.state).toBe('done');
      known.set(64 + 2 * k, (await api.read(jobId)).clouds[0]!.classCounts[64 + 2 * k]!);
      // The next is under way, or not yet, when the server dies.
      void edit(2 * k + 1).catch(() => undefined);
      await new Promise((resolve) => setTimeout(resolve, 4 * k));
      await server!.kill();
      api = await start();
      const { clouds, history } = await api.read(jobId);
      const counts = clouds[0]!.classCounts;
      for (const [code, count] of known) expect(counts[code]).toBe(count);
      const next = counts[64 + 2 * k + 1];
      const isDone = history.entries[0]!.state === 'done' && history.entries[0]!.parameters['classCode'] === 65 + 2 * k;
      expect(next !== undefined).toBe(isDone);
      if (next !== undefined) known.set(65 + 2 * k, next);
      expect(Object.values(counts).reduce((sum, count) => sum + count, 0)).toBe(10_800);
    }
    // And undo still goes back over all of it.
    for (const _ of known) await api.call('undo', `/jobs/${jobId}/undo`);
    expect((await api.read(jobId)).clouds[0]!.classCounts).toEqual({ 1: 10_800 });
  });
});
