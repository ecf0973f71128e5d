import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { Run } from '@pampero/contract';
import { seededRandom } from '@pampero/core/task';
import { fieldWithShed, lasBytes, QUANTISATION } from '../server.fixture.js';
import { spawnedServer, type SpawnedServer } from '../spawned-server.fixture.js';

/*
 * Several at once on one job, and the same work over and over. The long run: npm run soak -- MINUTES, which prints the table that the
 * documentation has.
 */
const MINUTES = Number(process.env['PAMPERO_SOAK_MINUTES'] ?? 0.4);
const EDITS = MINUTES > 5 ? 200 : 30;

let server: SpawnedServer;
let field: Uint8Array;
beforeAll(async () => {
  server = await spawnedServer();
  field = await lasBytes(fieldWithShed());
});
afterAll(() => server.stop());

const [E, N] = QUANTISATION.offset;
/** A square of the field as it is drawn in Plan, ten pixels a metre. */
const square = (west: number, south: number, side: number): object => ({
  how: 'add',
  shape: {
    kind: 'outline',
    view: {
      name: 'plan',
      matrix: [2 / 60, 0, 0, 0, 0, 2 / 60, 0, 0, 0, 0, -1 / 100, 0, -1, -1, 0, 1],
      origin: [E, N, 30],
      width: 600,
      height: 600,
    },
    corners: [
      [west, south],
      [west + side, south],
      [west + side, south + side],
      [west, south + side],
    ].map(([e, n]) => [e! * 10, 600 - n! * 10]),
  },
  visible: { hiddenClasses: [], withWithheld: false },
});

const JSON_TYPE = { 'content-type': 'application/json' };

async function newField(name: string): Promise<{ jobId: string; cloudId: number }> {
  const jobId = (await server.api.newJob(name)).id;
  expect((await server.api.import(jobId, field)).state).toBe('done');
  return { jobId, cloudId: (await server.api.read(jobId)).clouds[0]!.id };
}

describe('two pages and a script at once', () => {
  test(
    `${3 * EDITS} edits and their undos: none lost, none doubled, the field book in one order`,
    { timeout: 600_000 },
    async () => {
      const { jobId } = await newField('Together');
      const whole = (await server.api.read(jobId)).clouds[0]!.classCounts;
      // Each has a class of its own and a third of the field, so that what is lost or doubled shows in the counts.
      const hands = [2, 5, 6].map(async (classCode, k) => {
        const random = seededRandom(classCode);
        const events = await fetch(`${server.url}/api/jobs/${jobId}/events`);
        const runs: Run[] = [];
        for (let edit = 0; edit < EDITS; edit++) {
          const selection = [square(k * 20 + random() * 15, random() * 55, 5)];
          runs.push(
            await server.api.call('startOperation', `/jobs/${jobId}/operations/set-class`, {
              body: { selection, classCode: edit % 2 === 0 ? classCode : 1 },
            }),
          );
        }
        const ended: Run[] = [];
        for (const run of runs) ended.push(await server.api.ended(jobId, run));
        await events.body!.cancel();
        return ended;
      });
      const ended = (await Promise.all(hands)).flat();
      // An edit that meets no point is refused; every other is in the book, once.
      const done = ended.filter(({ state }) => state === 'done');
      expect(done.length).toBeGreaterThan(EDITS);
      const { history, clouds } = await server.api.read(jobId);
      const steps = history.entries.filter(({ operation, state }) => operation === 'set-class' && state === 'done');
      expect(new Set(steps.map(({ id }) => id))).toEqual(new Set(done.map(({ historyId }) => historyId)));
      expect(steps.map(({ id }) => id)).toEqual(steps.map(({ id }) => id).sort((a, b) => b - a));
      expect(Object.values(clouds[0]!.classCounts).reduce((a, b) => a + b)).toBe(10_800);
      const reached = clouds[0]!.classCounts;
      // All of it taken back by three at once: as often as there are steps, and not once more.
      const undone = await Promise.all(
        Array.from({ length: done.length + 6 }, () =>
          server.api.raw(`/jobs/${jobId}/undo`, { method: 'POST' }).then(({ status }) => status),
        ),
      );
      expect(undone.filter((status) => status === 200)).toHaveLength(done.length + 1); // and the import
      expect(undone.every((status) => status === 200 || status === 409)).toBe(true);
      for (let k = 0; k <= done.length; k++)
        expect((await server.api.raw(`/jobs/${jobId}/redo`, { method: 'POST' })).status).toBe(200);
      expect((await server.api.read(jobId)).clouds[0]!.classCounts).toEqual(reached);
      expect(whole).toEqual({ 1: 10_800 });
    },
  );

  test(
    'a job removed while runs are on it: they end with a clear word, and nothing comes back',
    { timeout: 120_000 },
    async () => {
      const { jobId, cloudId } = await newField('Removed');
      const runs = await Promise.all(
        ['find-ground', 'find-isolated'].map((operation) =>
          server.api.call('startOperation', `/jobs/${jobId}/operations/${operation}`, { body: { clouds: [cloudId] } }),
        ),
      );
      const importing = server.api.raw(`/jobs/${jobId}/operations/import-cloud/file?fileName=b.las`, {
        method: 'POST',
        body: Buffer.from(field),
        headers: { 'content-type': 'application/octet-stream' },
      });
      const removed = await server.api.raw(`/jobs/${jobId}`, { method: 'DELETE' });
      expect(removed.status).toBe(204);
      expect([202, 404]).toContain((await importing).status);
      for (const run of runs) expect((await server.api.raw(`/jobs/${jobId}/runs/${run.id}`)).status).toBe(404);
      for (const path of ['', '/undo', '/clouds/1']) {
        const answer = await server.api.raw(`/jobs/${jobId}${path}`, {
          method: path === '/undo' ? 'POST' : 'GET',
          headers: JSON_TYPE,
        });
        expect(answer.json()).toMatchObject({ status: 404, code: 'not-found' });
      }
      await expect.poll(() => readdir(join(server.data, 'scratch')), { timeout: 10_000 }).toEqual([]);
      expect((await readdir(server.data)).filter((name) => name.startsWith(jobId))).toEqual([]);
    },
  );

  test('a cloud taken back while it is worked on: what hangs on it says so', { timeout: 120_000 }, async () => {
    const { jobId, cloudId } = await newField('Taken back');
    const run = await server.api.call('startOperation', `/jobs/${jobId}/operations/find-ground`, {
      body: { clouds: [cloudId] },
    });
    const undo = await server.api.raw(`/jobs/${jobId}/undo`, { method: 'POST' });
    const { state } = await server.api.ended(jobId, run);
    // Either it was busy and the undo refused, or the run was over and was what the undo took back.
    expect([undo.status, state]).toEqual(undo.status === 409 ? [409, 'done'] : [200, 'done']);
    await server.api.undo(jobId);
    while ((await server.api.read(jobId)).history.undoes !== null) await server.api.undo(jobId);
    const late = await server.api.operate(jobId, 'find-isolated', { clouds: [cloudId] }).catch(() => undefined);
    expect(late?.state ?? 'refused').toMatch(/failed|refused/);
    if (late) expect(late.error).toMatchObject({ code: 'not-found' });
  });
});

interface Repeated {
  readonly jobId: string;
  readonly work: Readonly<Record<string, () => Promise<void>>>;
}

/** A job with ground, a surface and contours, and the kinds of work that are done on it and taken back. */
async function repeatedWork(): Promise<Repeated> {
  const { jobId, cloudId } = await newField('Again');
  expect((await server.api.operate(jobId, 'find-ground', { clouds: [cloudId] })).state).toBe('done');
  // So that ground looked for once more has something to change.
  await server.api.operate(jobId, 'set-class', { selection: [square(30, 5, 10)], classCode: 1 });
  const surface = await server.api.operate(jobId, 'build-surface', {
    clouds: [cloudId],
    classes: [2],
    maximumEdge: 20,
  });
  const lines = await server.api.operate(jobId, 'draw-contours', { surfaceId: surface.productId, interval: 0.5 });
  expect([surface.state, lines.state]).toEqual(['done', 'done']);
  const across = [
    [E + 5, N + 5],
    [E + 50, N + 40],
  ];
  const edge = {
    code: 'EDGE',
    easting: across.map(([e]) => e),
    northing: across.map(([, n]) => n),
    elevation: [30, null],
  };
  const undone = async (operation: string, parameters: Record<string, unknown>): Promise<void> => {
    const run = await server.api.operate(jobId, operation, parameters);
    expect(run.state, `${operation}: ${run.outcome}`).toBe('done');
    // What changed nothing is nothing to take back.
    if ((await server.api.read(jobId)).history.undoes === run.historyId) await server.api.undo(jobId);
  };
  const read = async (path: string): Promise<void> => {
    expect((await server.api.raw(`/jobs/${jobId}${path}`)).status, path).toBe(200);
  };
  const work: Repeated['work'] = {
    import: async () => {
      expect((await server.api.import(jobId, field)).state).toBe('done');
      await server.api.undo(jobId);
    },
    ground: () => undone('find-ground', { clouds: [cloudId] }),
    isolated: () => undone('find-isolated', { clouds: [cloudId], radius: 0.4, stopAbove: 100 }),
    thin: () => undone('thin-cloud', { clouds: [cloudId], method: 'spacing', distance: 2, classes: [2] }),
    surface: () => undone('build-surface', { clouds: [cloudId], classes: [2], maximumEdge: 20 }),
    contours: () => undone('draw-contours', { on: 'surface', surfaceId: surface.productId, interval: 0.5 }),
    grid: () => undone('make-grid', { method: 'tin', surfaceId: surface.productId, cell: 1 }),
    edit: () => undone('set-class', { selection: [square(10, 10, 20)], classCode: 6 }),
    low: () => undone('find-low', { clouds: [cloudId], stopAbove: 100 }),
    outliers: () => undone('find-outliers', { clouds: [cloudId], stopAbove: 100 }),
    objects: () => undone('find-objects', { clouds: [cloudId] }),
    voids: () => undone('outline-voids', { clouds: [cloudId] }),
    breaks: () => undone('find-breaks', { clouds: [cloudId], kind: 'wall', classes: [2] }),
    channels: () => undone('find-channels', { surfaceId: surface.productId }),
    line: () => undone('draw-lines', { put: [edge] }),
    volume: () => undone('measure-volume', { surfaceId: surface.productId, against: 'level', level: 30 }),
    profile: () => undone('draw-profile', { surfaceIds: [surface.productId], line: across }),
    plan: () => undone('draw-plan', { contours: [lines.productId] }),
    picture: () => undone('draw-picture', { clouds: [cloudId], pixel: 0.5 }),
    copy: () => undone('copy-to-cloud', { selection: [square(10, 10, 20)], name: 'Copy' }),
    'points as LAZ': () => read(`/clouds/${cloudId}/points?format=laz`),
    'surface as LandXML': () => read(`/products/${surface.productId}/file?format=landxml`),
    'job as a file': () => read('/file'),
    'the whole job read': () => read(''),
  };
  return { jobId, work };
}

type Memory = Awaited<ReturnType<SpawnedServer['megabytesAtRest']>>;

/** A job is worked on as long as this; after it comes the next, since a book of ten thousand steps is none that a surveyor has. */
const ROUNDS_OF_A_JOB = 200;

describe('the same again and again', () => {
  test(
    `${MINUTES} minutes: memory, descriptors and the job's file stay as they were`,
    { timeout: (MINUTES + 10) * 60_000 },
    async () => {
      let at = await repeatedWork();
      const until = performance.now() + MINUTES * 60_000;
      const table: string[] = [];
      let rounds = 0;
      let early: Memory | undefined;
      let last: Memory = { process: 0, alive: 0 };
      while (performance.now() < until || rounds < 3) {
        if (rounds > 0 && rounds % ROUNDS_OF_A_JOB === 0) {
          await server.api.call('removeJob', `/jobs/${at.jobId}`);
          at = await repeatedWork();
        }
        for (const [name, work] of Object.entries(at.work))
          await work().catch((error: unknown) => {
            throw new Error(`round ${rounds + 1}, ${name}: ${String(error)}`);
          });
        rounds++;
        if ([1, 3, 10, 20, 50, 100].includes(rounds) || rounds % 100 === 0) {
          last = await server.megabytesAtRest();
          if (rounds === 20) early = last;
          const { fileBytes } = (await server.api.read(at.jobId)).job;
          table.push(
            `${rounds} rounds: ${Math.round(last.process)} MB, ${last.alive.toFixed(1)} of them in use, ${await server.descriptors()} descriptors, ${(fileBytes / 1e6).toFixed(1)} MB of job`,
          );
          if (MINUTES > 5) console.log(table.at(-1));
        }
      }
      console.log([`${rounds} rounds of ${Object.keys(at.work).join(', ')}`, ...table].join('\n'));
      const { job, history } = await server.api.read(at.jobId);
      expect(job.fileBytes).toBeLessThan(14e6);
      expect(history.entries.length).toBeGreaterThan((rounds % ROUNDS_OF_A_JOB) * 18);
      expect(await server.descriptors()).toBeLessThan(140);
      // What was measured after 20 rounds is what stays; a run too short for that has its heap still growing.
      if (early !== undefined && rounds >= 100) {
        expect(last.process / early.process).toBeLessThan(1.1);
        expect(last.alive / early.alive).toBeLessThan(1.1);
      }
      expect(last.process).toBeLessThan(1500);
      await expect.poll(() => readdir(join(server.data, 'scratch')), { timeout: 10_000 }).toEqual([]);
    },
  );
});
