import { copyFile, mkdir, readdir, readFile, rm, stat, writeFile } from 'node:fs/promises';
import { createReadStream } from 'node:fs';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { Sequelize } from 'sequelize';
import { seededRandom } from '@pampero/core/task';
import { fieldWithShed, lasBytes, testServer, type TestServer } from '../server.fixture.js';
import { spawnedServer } from '../spawned-server.fixture.js';

let host: TestServer;
beforeEach(async () => {
  host = await testServer();
});
afterEach(() => host.stop());

const BYTES = { 'content-type': 'application/octet-stream' };

/** A job with a field, as the file that is downloaded. */
async function downloaded(name = 'Reach'): Promise<{ jobId: string; bytes: Uint8Array }> {
  const jobId = (await host.api.newJob(name)).id;
  await host.api.import(jobId, await lasBytes(fieldWithShed()));
  return { jobId, bytes: (await host.api.raw(`/jobs/${jobId}/file`)).body };
}

/** Runs statements on a SQLite file as any other program could. */
async function tampered(bytes: Uint8Array, ...statements: string[]): Promise<Uint8Array> {
  const path = join(host.data, 'scratch', 'tampered.sqlite');
  await writeFile(path, bytes);
  const database = new Sequelize({ dialect: 'sqlite', storage: path, logging: false });
  try {
    await database.query('PRAGMA foreign_keys = OFF');
    for (const statement of statements) await database.query(statement);
  } finally {
    await database.close();
  }
  const changed = new Uint8Array(await readFile(path));
  await rm(path);
  return changed;
}

async function restore(bytes: Uint8Array): Promise<{ status: number; body: Record<string, unknown> }> {
  const answer = await host.api.raw('/jobs/file', { method: 'POST', body: Buffer.from(bytes), headers: BYTES });
  return { status: answer.status, body: answer.json() };
}

describe('the list of jobs', () => {
  test('shows the good ones at once, and says of everything else what is wrong with it', async () => {
    const { jobId, bytes } = await downloaded();
    const at = (name: string): string => join(host.data, name);
    await mkdir(at('folder.pampero'));
    await writeFile(at('text.pampero'), 'not SQLite');
    await writeFile(at('empty.pampero'), '');
    await writeFile(at('short.pampero'), bytes.subarray(0, Math.floor(bytes.length / 3)));
    await writeFile(at('newer.pampero'), await tampered(bytes, 'PRAGMA user_version = 999'));
    await writeFile(at('bare.pampero'), await tampered(bytes, 'DROP TABLE clouds'));
    await writeFile(
      at('view.pampero'),
      await tampered(
        bytes,
        'DROP TABLE pins',
        'CREATE VIEW pins AS WITH RECURSIVE r(n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM r) SELECT n AS id FROM r',
      ),
    );
    await writeFile(at('UPPER.pampero'), bytes);
    await writeFile(
      at('facts.pampero'),
      await tampered(bytes, `UPDATE meta SET value = '{"name":5}' WHERE key = 'job'`),
    );
    const begun = performance.now();
    const jobs = await host.api.call('listJobs', '/jobs');
    expect(performance.now() - begun).toBeLessThan(3000);
    expect(jobs.map(({ id }) => id)).toEqual([jobId]);
    const unreadable = await host.api.call('listUnreadableJobs', '/unreadable-jobs');
    const what = Object.fromEntries(unreadable.map((each) => [each.fileName, each.what]));
    expect(what).toEqual({
      'bare.pampero': 'The job file lacks its table “clouds”.',
      'empty.pampero': 'The file is not a Pampero job.',
      'facts.pampero': 'What the job file says of its job cannot be read.',
      'folder.pampero': 'It is a folder and no job file.',
      'newer.pampero': 'The job file was made by a newer Pampero (schema 999, known up to 10).',
      'short.pampero': 'The job file is damaged.',
      'text.pampero': 'The file is not a Pampero job.',
      'UPPER.pampero': 'A job file’s name is made of small letters, digits and dashes.',
      'view.pampero': 'The file holds a view “pins” that is not of a Pampero job.',
    });
    expect(unreadable.every(({ fix }) => fix !== undefined)).toBe(true);
    // The good job goes on being one.
    expect((await host.api.read(jobId)).job.pointCount).toBe(10_800);
  });

  test('moves aside what cannot be opened, whole, and nothing else', async () => {
    const { jobId } = await downloaded();
    await writeFile(join(host.data, 'text.pampero'), 'not SQLite');
    await host.api.call('moveJobAside', '/unreadable-jobs/aside', { body: { fileName: 'text.pampero' } });
    expect(await host.api.call('listUnreadableJobs', '/unreadable-jobs')).toEqual([]);
    const [kept] = await readdir(join(host.data, 'aside'));
    expect(await readFile(join(host.data, 'aside', kept!), 'utf8')).toBe('not SQLite');
    for (const fileName of [`${jobId}.pampero`, '../x.pampero', 'text.pampero']) {
      const answer = await host.api.raw('/unreadable-jobs/aside', {
        method: 'POST',
        body: JSON.stringify({ fileName }),
        headers: { 'content-type': 'application/json' },
      });
      expect(answer.status, fileName).toBe(404);
    }
    expect((await host.api.read(jobId)).job.pointCount).toBe(10_800);
  });

  test('a job that another program holds is told as such, and shown when it lets go', async () => {
    const { jobId, bytes } = await downloaded('Held');
    await host.api.call('removeJob', `/jobs/${jobId}`);
    const path = join(host.data, 'held.pampero');
    await writeFile(path, bytes);
    const holder = new Sequelize({ dialect: 'sqlite', storage: path, logging: false });
    await holder.query('PRAGMA locking_mode = EXCLUSIVE');
    await holder.query('BEGIN EXCLUSIVE');
    const begun = performance.now();
    expect(await host.api.call('listJobs', '/jobs')).toEqual([]);
    expect(performance.now() - begun).toBeLessThan(5000);
    const [told] = await host.api.call('listUnreadableJobs', '/unreadable-jobs');
    expect(told!.what).toBe('Another program has the job file open and locked.');
    await holder.query('ROLLBACK');
    await holder.close();
    expect((await host.api.call('listJobs', '/jobs')).map(({ id }) => id)).toEqual(['held']);
  });

  test('noise in pages of a job file never hides the others, nor stops the server', { timeout: 120_000 }, async () => {
    const { jobId, bytes } = await downloaded();
    for (let seed = 1; seed <= 20; seed++) {
      const random = seededRandom(seed);
      const noisy = Uint8Array.from(bytes);
      for (let page = 0; page < 3; page++) {
        const at = Math.floor(random() * (noisy.length / 65_536)) * 65_536;
        for (let k = 0; k < 200; k++) noisy[at + Math.floor(random() * 65_536)] = Math.floor(random() * 256);
      }
      await writeFile(join(host.data, 'noisy.pampero'), noisy);
      for (const path of ['/jobs', '/unreadable-jobs'])
        expect((await host.api.raw(path)).status, `seed ${seed}`).toBe(200);
      const opened = await host.api.raw('/jobs/noisy');
      expect(opened.status, `seed ${seed}: ${Buffer.from(opened.body).toString()}`).toBeLessThan(500);
      expect((await host.api.call('listJobs', '/jobs')).map(({ id }) => id)).toContain(jobId);
      await host.api.raw('/jobs/noisy', { method: 'DELETE' });
      for (const part of ['', '-wal', '-shm']) await rm(join(host.data, `noisy.pampero${part}`), { force: true });
    }
  });
});

describe('a job that is restored', () => {
  test('goes under an id the server makes: what the file says of itself leads nowhere', async () => {
    const { bytes } = await downloaded();
    const before = new Set(await readdir(join(host.data, '..')));
    for (const id of ['../../x', '/etc/x', 'UPPER', '', '..', 'a/b', 'x'.repeat(300), 'con\u0000trol']) {
      const facts = JSON.stringify({
        id,
        name: 'Reach',
        unit: 'metre',
        crs: {},
        createdAt: '2026-01-01T00:00:00.000Z',
      }).replaceAll("'", "''");
      const { status, body } = await restore(
        await tampered(bytes, `UPDATE meta SET value = '${facts}' WHERE key = 'job'`),
      );
      expect(status, id).toBe(201);
      expect(body['id']).toMatch(/^reach-[0-9a-f]{4}$/);
      expect((await host.api.read(body['id'] as string)).job.pointCount).toBe(10_800);
      await host.api.call('removeJob', `/jobs/${body['id'] as string}`);
    }
    expect(
      (await readdir(join(host.data, '..'))).filter((name) => !before.has(name) && !name.startsWith('pampero')),
    ).toEqual([]);
  });

  test('is refused where it is not ours or damaged, each time in words, and leaves neither a file nor a descriptor', async () => {
    const { bytes } = await downloaded();
    const evil = {
      'a trigger': ['CREATE TRIGGER t AFTER INSERT ON history BEGIN DELETE FROM clouds; END'],
      'a view in place of a table': ['DROP TABLE meta', "CREATE VIEW meta AS SELECT 'job' AS key, '{}' AS value"],
      'a table of its own': ['CREATE TABLE extra (x)'],
      'a virtual table': ['CREATE VIRTUAL TABLE pins2 USING fts5(x)'],
      'tables missing': ['DROP TABLE history', 'DROP TABLE nodes'],
      'a column missing': ['ALTER TABLE pins DROP COLUMN body'],
      'no facts': ["DELETE FROM meta WHERE key = 'job'"],
      'facts that are none': ["UPDATE meta SET value = '[' WHERE key = 'job'"],
      'another application': ['PRAGMA application_id = 1'],
      'a piece of cloud that states another size': ['UPDATE nodes SET count = 3'],
    };
    const folder = async (): Promise<string[]> =>
      [...(await readdir(host.data)), ...(await readdir(join(host.data, 'scratch')))].sort();
    await expect.poll(() => readdir(join(host.data, 'scratch'))).toEqual([]);
    const before = await folder();
    const descriptors = (await readdir('/proc/self/fd')).length;
    for (const [what, statements] of Object.entries(evil)) {
      const { status, body } = await restore(await tampered(bytes, ...statements));
      expect([404, 422], `${what}: ${JSON.stringify(body)}`).toContain(status);
      expect(String(body['detail']), what).not.toContain(host.data);
    }
    expect((await restore(bytes.subarray(0, 200_000))).status).toBe(422);
    expect((await restore(new Uint8Array(0))).status).toBeLessThan(500);
    expect(await folder()).toEqual(before);
    expect((await readdir('/proc/self/fd')).length).toBeLessThan(descriptors + 8);
    expect(await host.api.call('listJobs', '/jobs')).toHaveLength(1);
  });

  test('removing it twice at once is no mistake of ours', async () => {
    const { jobId } = await downloaded();
    const statuses = await Promise.all(
      [1, 2, 3].map(() => host.api.raw(`/jobs/${jobId}`, { method: 'DELETE' }).then(({ status }) => status)),
    );
    expect(statuses).toContain(204);
    expect(
      statuses.every((status) => status === 204 || status === 404),
      statuses.join(),
    ).toBe(true);
    expect((await readdir(host.data)).filter((name) => name.startsWith(jobId))).toEqual([]);
  });
});

describe('the one file of a job', () => {
  test('holds all of it when work rests: a plain copy has every edit', async () => {
    const { jobId } = await downloaded();
    const { clouds } = await host.api.read(jobId);
    const run = await host.api.operate(jobId, 'find-isolated', { clouds: [clouds[0]!.id] });
    expect(run.state).toBe('done');
    const wal = join(host.data, `${jobId}.pampero-wal`);
    await expect
      .poll(
        () =>
          stat(wal).then(
            ({ size }) => size,
            () => 0,
          ),
        { timeout: 10_000 },
      )
      .toBe(0);
    await copyFile(join(host.data, `${jobId}.pampero`), join(host.data, 'copied.pampero'));
    const copy = await host.api.read('copied');
    expect(copy.history.entries.map(({ operation }) => operation)).toEqual(['find-isolated', 'import-cloud']);
    expect(copy.job.pointCount).toBe(10_800);
  });

  test('after the server has stopped there is no journal beside it', async () => {
    const server = await spawnedServer();
    try {
      const { id } = await server.api.newJob('Rest');
      await server.api.import(id, await lasBytes(fieldWithShed()));
      const ended = new Promise((resolve) => server.process.once('exit', resolve));
      server.process.kill('SIGTERM');
      await ended;
      expect((await readdir(server.data)).filter((name) => name.includes(id))).toEqual([`${id}.pampero`]);
    } finally {
      await server.stop();
    }
  });

  test('does not keep what was taken back and replaced: builds undone in turn leave the file as large as one', async () => {
    const { jobId } = await downloaded();
    const { clouds } = await host.api.read(jobId);
    const build = (): Promise<unknown> =>
      host.api.operate(jobId, 'build-surface', { clouds: [clouds[0]!.id], classes: [1], maximumEdge: 20 });
    const size = async (): Promise<number> => {
      await expect
        .poll(
          () =>
            stat(join(host.data, `${jobId}.pampero-wal`)).then(
              ({ size: of }) => of,
              () => 0,
            ),
          { timeout: 10_000 },
        )
        .toBe(0);
      return (await stat(join(host.data, `${jobId}.pampero`))).size;
    };
    await build();
    const once = await size();
    for (let k = 0; k < 12; k++) {
      await host.api.undo(jobId);
      await build();
    }
    expect((await size()) / once).toBeLessThan(1.3);
    const { products } = await host.api.read(jobId);
    expect(products).toHaveLength(1);
    expect((await host.api.shown(jobId, products[0]!.id)).length).toBeGreaterThan(1000);
  });
});

describe('many jobs', () => {
  test(
    'are closed when nobody works on them: descriptors do not grow with their number',
    { timeout: 180_000 },
    async () => {
      const server = await spawnedServer();
      try {
        for (let k = 0; k < 60; k++) await server.api.newJob(`Job ${k}`);
        const jobs = await server.api.call('listJobs', '/jobs');
        expect(jobs).toHaveLength(60);
        for (const { id } of jobs) await server.api.read(id);
        await expect.poll(() => server.descriptors(), { timeout: 30_000 }).toBeLessThan(180);
        // ... and open again when they are asked for.
        expect((await server.api.read(jobs[7]!.id)).job.name).toBe(jobs[7]!.name);
      } finally {
        await server.stop();
      }
    },
  );
});

describe('uploads', () => {
  const tus = (path: string, method: string, headers: Record<string, string>): Promise<Response> =>
    fetch(`${host.server.url}/api/uploads${path}`, { method, headers: { 'tus-resumable': '1.0.0', ...headers } });

  test('that cannot fit on the disk are refused before the first byte, with what is needed and what is free', async () => {
    const answer = await tus('', 'POST', { 'upload-length': String(2 ** 50) });
    expect(answer.status).toBe(507);
    expect(await answer.text()).toMatch(/needs 1125899\.9 GB, and .* GB are free/);
    const whole = await host.api
      .raw('/jobs/file', {
        method: 'POST',
        headers: { ...BYTES, 'content-length': String(2 ** 50) },
        body: createReadStream('/dev/null') as never,
        duplex: 'half',
      } as never)
      .catch(() => ({ status: 507 }));
    expect(whole.status).toBe(507);
  });

  test('are limited in number, and those that were forgotten do not count for ever', { timeout: 60_000 }, async () => {
    const statuses = new Set<number>();
    for (let k = 0; k < 210; k++) statuses.add((await tus('', 'POST', { 'upload-length': '10' })).status);
    expect([...statuses]).toEqual([201, 429]);
  });

  test('for a job that was removed meanwhile are taken away', async () => {
    const { id: jobId } = await host.api.newJob('Gone');
    const made = await tus('', 'POST', { 'upload-length': '4' });
    const uploadId = made.headers.get('location')!.split('/').at(-1)!;
    const sent = await fetch(`${host.server.url}/api/uploads/${uploadId}`, {
      method: 'PATCH',
      headers: { 'tus-resumable': '1.0.0', 'upload-offset': '0', 'content-type': 'application/offset+octet-stream' },
      body: 'LASF',
    });
    expect(sent.status).toBe(204);
    await host.api.call('removeJob', `/jobs/${jobId}`);
    const answer = await host.api.raw(`/jobs/${jobId}/operations/import-cloud`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ file: { uploadId, fileName: 'a.las' } }),
    });
    expect(answer.status).toBe(404);
    expect((await readdir(join(host.data, 'uploads'))).filter((name) => name.startsWith(uploadId))).toEqual([]);
  });
});
