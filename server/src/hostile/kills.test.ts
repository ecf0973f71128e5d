import { mkdtemp, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { Sequelize } from 'sequelize';
import type { Run, Workbench } from '@pampero/contract';
import { seededRandom } from '@pampero/core/task';
import { newPointBatch } from '@pampero/core/cloud';
import { lasBytes } from '../server.fixture.js';
import { spawnedServer, type SpawnedServer } from '../spawned-server.fixture.js';

/*
 * The built server killed (SIGKILL) at random moments of everything that changes a job, one time after the other on the same data. After
 * each: SQLite finds the file whole, every step that was answered for is there, the one under way is there whole or not at all, and
 * nothing is left lying about. The long run: npm run kills -- COUNT [SEED].
 */
const KILLS = Number(process.env['PAMPERO_KILLS'] ?? 4);
const SEED = Number(process.env['PAMPERO_KILLS_SEED'] ?? 1);
const LATEST_MS = 900;

let data: string;
let server: SpawnedServer | undefined;
let field: Uint8Array;
beforeAll(async () => {
  data = await mkdtemp(join(tmpdir(), 'pampero-kills-'));
  const random = seededRandom(3);
  const points = newPointBatch(120_000, {
    gpsTime: true,
    rgb: false,
    nearInfrared: false,
    wavePacket: false,
    extraBytesLength: 0,
  });
  for (let i = 0; i < points.count; i++) {
    const [e, n] = [random() * 300, random() * 300];
    points.x[i] = Math.round(e * 1000);
    points.y[i] = Math.round(n * 1000);
    points.z[i] = Math.round((30 + 3 * Math.sin(e / 40) + (random() < 0.2 ? 6 * random() : 0)) * 1000);
    points.classification[i] = 1;
    points.returns[i] = 0x11;
    points.pointSourceId[i] = 1;
    points.gpsTime![i] = i / 1e4;
  }
  field = await lasBytes(points);
});
afterAll(async () => {
  await server?.stop();
  await rm(data, { recursive: true, force: true });
});

/** What a surveyor can see of a job that a lost or doubled step would change. */
function seen({ job, clouds, products, history }: Workbench): string {
  return JSON.stringify({
    points: job.pointCount,
    clouds: clouds.map(({ id, pointCount, classCounts }) => [id, pointCount, classCounts]),
    products: products.map(({ id, kind, name }) => [id, kind, name]),
    steps: history.entries
      .filter(({ state }) => state === 'done' || state === 'undone')
      .map(({ id, operation, state }) => [id, operation, state]),
  });
}

async function checkFile(path: string): Promise<void> {
  const database = new Sequelize({ dialect: 'sqlite', storage: path, logging: false });
  try {
    const [rows] = await database.query('PRAGMA integrity_check');
    expect(rows).toEqual([{ integrity_check: 'ok' }]);
    const [[left]] = (await database.query(
      "SELECT (SELECT COUNT(*) FROM clouds WHERE state = 'importing') AS half, (SELECT COUNT(*) FROM nodes WHERE cloudId NOT IN (SELECT id FROM clouds)) AS strays, (SELECT COUNT(*) FROM node_geometry WHERE nodeId NOT IN (SELECT id FROM nodes)) AS loose, (SELECT COUNT(*) FROM moved_nodes WHERE setId NOT IN (SELECT id FROM position_sets WHERE state = 'ready')) AS astray",
    )) as unknown as [[Record<string, number>]];
    expect(left).toEqual({ half: 0, strays: 0, loose: 0, astray: 0 });
  } finally {
    await database.close();
  }
}

test(
  `killed ${KILLS} times: every step that was answered for is there, and nothing half`,
  { timeout: 6 * 3_600_000 },
  async () => {
    const random = seededRandom(SEED);
    server = await spawnedServer({}, { data });
    const { id: jobId } = await server.api.newJob('Kills');
    expect((await server.api.import(jobId, field)).state).toBe('done');
    const moments: Record<string, number> = {};
    const outcomes = { kept: 0, gone: 0 };

    for (let k = 0; k < KILLS; k++) {
      const { api } = server;
      const before = await api.read(jobId);
      const cloudIds = before.clouds.map(({ id }) => id);
      const surface = before.products.find(({ kind }) => kind === 'surface');
      const start = (operation: string, parameters: Record<string, unknown>) => (): Promise<unknown> =>
        api.raw(`/jobs/${jobId}/operations/${operation}`, {
          method: 'POST',
          body: JSON.stringify(parameters),
          headers: { 'content-type': 'application/json' },
        });
      const clouds = cloudIds.slice(0, 1);
      const deeds: Record<string, () => Promise<unknown>> = {
        import: () => api.startFromFile(jobId, 'import-cloud', field, 'more.las'),
        ...(clouds.length > 0 && {
          ground: start('find-ground', { clouds }),
          isolated: start('find-isolated', { clouds }),
          thin: start('thin-cloud', { clouds, method: 'spacing', distance: 3, classes: [1] }),
          surface: start('build-surface', { clouds, classes: [1, 2], maximumEdge: 30 }),
          download: () => fetch(`${server!.url}/api/jobs/${jobId}/file`).then((answer) => answer.arrayBuffer()),
        }),
        ...(surface && { contours: start('draw-contours', { on: 'surface', surfaceId: surface.id, interval: 0.5 }) }),
        ...(before.history.undoes !== null && { undo: () => api.raw(`/jobs/${jobId}/undo`, { method: 'POST' }) }),
        ...(before.history.redoes !== null && { redo: () => api.raw(`/jobs/${jobId}/redo`, { method: 'POST' }) }),
      };
      const names = Object.keys(deeds);
      const name = names[Math.floor(random() * names.length)]!;
      moments[name] = (moments[name] ?? 0) + 1;
      const doing = deeds[name]!().catch(() => undefined);
      await wait(random() * (name === 'undo' || name === 'redo' ? 60 : LATEST_MS));
      // What is answered for by now has to be there afterwards.
      const runs: Run[] = await api.read(jobId).then(
        (now) => now.runs.filter(({ state }) => state === 'done'),
        () => [],
      );
      const promised = await api
        .read(jobId)
        .then(({ history }) => history.entries.filter(({ state }) => state === 'done').map(({ id }) => id));
      await server.kill();
      await doing;
      await checkHalf();
      server = await spawnedServer({}, { data });
      const after = await server.api.read(jobId);
      await checkFile(join(data, `${jobId}.pampero`));
      const kept = new Set(
        after.history.entries.filter(({ state }) => state === 'done' || state === 'undone').map(({ id }) => id),
      );
      for (const id of promised) expect(kept.has(id), `kill ${k + 1}, ${name}: step ${id} was answered for`).toBe(true);
      expect(runs.every((run) => run.historyId === undefined || kept.has(run.historyId))).toBe(true);
      expect(after.history.entries.filter(({ state }) => state === 'running')).toEqual([]);
      expect(await readdir(join(data, 'scratch'))).toEqual([]);
      if (seen(after) === seen(before)) outcomes.gone++;
      else outcomes.kept++;
      // Where its step is not in the book as done, nothing else may have changed.
      const steps = (of: Workbench): number => of.history.entries.filter(({ state }) => state === 'done').length;
      if (steps(after) === steps(before)) expect(seen(after), `kill ${k + 1}, ${name}`).toBe(seen(before));
      // Many clouds would only make it slow.
      while ((await server.api.read(jobId)).clouds.length > 2) await server.api.undo(jobId);
    }
    console.log(
      `Killed in ${JSON.stringify(moments)}: ${outcomes.gone} times the step was gone, ${outcomes.kept} times there.`,
    );

    /** Before the server looks again: SQLite alone finds the file whole. */
    async function checkHalf(): Promise<void> {
      const database = new Sequelize({ dialect: 'sqlite', storage: join(data, `${jobId}.pampero`), logging: false });
      const [rows] = await database.query('PRAGMA quick_check');
      await database.close();
      expect(rows).toEqual([{ quick_check: 'ok' }]);
    }
  },
);
