import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import type { Run } from '@pampero/contract';
import { newPointBatch } from '@pampero/core/cloud';
import { seededRandom } from '@pampero/core/task';
import { lasBytes } from '../server.fixture.js';
import { spawnedServer, type SpawnedServer } from '../spawned-server.fixture.js';

/*
 * The built server on a disk of its own that is really full: a file system in memory, seen by the server's process alone. What fills
 * it is a file that the server does not know of.
 */

const MEGABYTES = 60;
/** As root, or in a namespace of users where the system lets one be made. */
const ISOLATE = [
  ['unshare', '--mount'],
  ['unshare', '--user', '--map-root-user', '--mount'],
].find(([program, ...args]) => spawnSync(program!, [...args, 'true']).status === 0);

let server: SpawnedServer;
let folder: string;
beforeEach(async () => {
  expect(ISOLATE, 'unshare has to be allowed here').toBeDefined();
  folder = mkdtempSync(join(tmpdir(), 'pampero-full-'));
  const mount = `mount -t tmpfs -o size=${MEGABYTES}m tmpfs ${folder} && exec "$@"`;
  server = await spawnedServer({}, { data: folder, command: [...ISOLATE!, 'sh', '-c', mount, 'sh'] });
});
afterEach(async () => {
  await server.stop();
  rmSync(folder, { recursive: true, force: true });
});

/** Runs a shell command where the server's disk is seen. */
function there(command: string): string {
  const { stdout, stderr } = spawnSync(
    'nsenter',
    [
      '-t',
      String(server.process.pid),
      ...(ISOLATE!.includes('--user') ? ['-U', '--preserve-credentials'] : []),
      '-m',
      'sh',
      '-c',
      command,
    ],
    { encoding: 'utf8' },
  );
  return stdout + stderr;
}

/** Leaves so many kilobytes. */
function fill(leftKilobytes = 0): void {
  there(
    `rm -f ${folder}/ballast; dd if=/dev/zero of=${folder}/ballast bs=1k count=$(( $(df -k --output=avail ${folder} | tail -1) - ${leftKilobytes} )) 2>/dev/null; true`,
  );
}
const makeRoom = (): string => there(`rm ${folder}/ballast`);

/** A cloud of so many points, scattered so that it does not compress away. */
function cloud(count: number): Promise<Uint8Array> {
  const random = seededRandom(5);
  const points = newPointBatch(count, {
    gpsTime: true,
    rgb: false,
    nearInfrared: false,
    wavePacket: false,
    extraBytesLength: 0,
  });
  for (let i = 0; i < count; i++) {
    points.x[i] = Math.round(random() * 200_000);
    points.y[i] = Math.round(random() * 200_000);
    points.z[i] = Math.round(random() * 5_000);
    points.classification[i] = 1;
    points.returns[i] = 0x11;
    points.gpsTime![i] = random() * 1e5;
  }
  return lasBytes(points);
}

const entries = async (jobId: string): Promise<string[]> =>
  (await server.api.read(jobId)).history.entries.map(({ operation, state }) => `${operation} ${state}`);

function expectFull(error: Run['error'] | Record<string, unknown>): void {
  expect(error).toMatchObject({ status: 507, code: 'disk-full' });
  expect(String(error!.detail)).toMatch(/full|free/);
}

describe('on a full disk', () => {
  test(
    'nothing is promised, nothing is half done, and work goes on when there is room again',
    { timeout: 180_000 },
    async () => {
      const { api } = server;
      const { id: jobId } = await api.newJob('Full');
      expect((await api.import(jobId, await cloud(150_000))).state).toBe('done');
      const { clouds } = await api.read(jobId);
      const cloudId = clouds[0]!.id;
      const selection = (size: number): object => ({
        steps: [{ kind: 'range', of: 'elevation', from: 0, to: size, mode: 'add' }],
      });
      void selection;
      expect((await api.operate(jobId, 'find-low', { clouds: [cloudId] })).state).toBe('done');
      const before = await api.read(jobId);

      fill();
      // An import that was sent cannot even arrive.
      const bytes = await cloud(300_000);
      const sent = await api.raw(`/jobs/${jobId}/operations/import-cloud/file?fileName=more.las`, {
        method: 'POST',
        body: Buffer.from(bytes),
        headers: { 'content-type': 'application/octet-stream' },
      });
      expectFull(sent.json());
      expect(String(sent.json()['detail'])).toMatch(/needs \d+ MB, and 0 MB are free/);
      // An edit is not acknowledged.
      const edit = await api
        .operate(jobId, 'find-isolated', { clouds: [cloudId], radius: 50, leastNeighbours: 200, stopAbove: 100 })
        .catch((error: unknown) => error);
      if (!(edit instanceof Error)) {
        const run = edit as Run;
        expect(['failed', 'done']).toContain(run.state);
        if (run.state === 'failed') expectFull(run.error);
      }
      // Undo either goes or says why; both ends agree afterwards.
      const undone = await api.raw(`/jobs/${jobId}/undo`, { method: 'POST' });
      if (undone.status !== 200) expectFull(undone.json());
      // An export and a copy say so and leave nothing.
      const copy = await api.raw(`/jobs/${jobId}/file`);
      expectFull(copy.json());
      const exported = await api.raw(`/jobs/${jobId}/clouds/${cloudId}/points?format=las`);
      expectFull(exported.json());
      expect(there(`ls ${folder}/scratch`)).toBe('');
      const created = await api.raw('/jobs', {
        method: 'POST',
        body: '{"name":"Another"}',
        headers: { 'content-type': 'application/json' },
      });
      expectFull(created.json());
      expect(server.isAlive()).toBe(true);

      makeRoom();
      const after = await api.read(jobId);
      expect(after.job.pointCount).toBe(before.job.pointCount);
      // What the book says is done can be taken back to the very beginning, and done again.
      const counts = (of: typeof after): unknown => of.clouds.map((each) => each.classCounts);
      const reached = counts(after);
      let steps = 0;
      while ((await api.raw(`/jobs/${jobId}/undo`, { method: 'POST' })).status === 200) steps++;
      expect((await api.read(jobId)).clouds).toEqual([]);
      for (let k = 0; k < steps; k++)
        expect((await api.raw(`/jobs/${jobId}/redo`, { method: 'POST' })).status).toBe(200);
      if (undone.status !== 200) expect(counts(await api.read(jobId))).toEqual(reached);
      expect((await api.operate(jobId, 'find-low', { clouds: [cloudId] })).state).toBe('done');
    },
  );

  test(
    'that fills in the middle of an import: the half cloud is gone, its room given back, and the next import goes through',
    { timeout: 180_000 },
    async () => {
      const { api } = server;
      const { id: jobId } = await api.newJob('Half');
      const bytes = await cloud(330_000);
      // Room for the file and for sorting it, and not for the cloud.
      fill(Math.round((bytes.length * 2.35) / 1024));
      const run = await api.import(jobId, bytes);
      expect(run.state).toBe('failed');
      expectFull(run.error);
      const { clouds, history } = await api.read(jobId);
      expect([clouds.length, history.undoes]).toEqual([0, null]);
      makeRoom();
      await expect.poll(() => there(`ls ${folder}/scratch`)).toBe('');
      expect((await api.import(jobId, await cloud(100_000))).state).toBe('done');
      expect((await api.read(jobId)).job.pointCount).toBe(100_000);
      // Killed and opened again: nothing of the half one.
      expect(await entries(jobId)).toEqual([
        'import-cloud done',
        expect.stringMatching(/^import-cloud (failed|interrupted|running)$/),
      ]);
    },
  );
});
