import { mkdir, readdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { spawnedServer, type SpawnedServer } from '../spawned-server.fixture.js';
import { mutated, withChecksums } from './mutate.fixture.js';
import type { Seed } from './seed.fixture.js';
import { seeds } from './seeds.fixture.js';

/*
 * Files damaged at random through the real import of the built server: whatever they hold, the server answers, stays alive, keeps
 * to its memory, and says what is wrong in its own words. The long run: npm run fuzz -- FORMAT COUNT [FIRST SEED].
 */

const FORMATS = [
  'las',
  'laz',
  'copc',
  'e57',
  'ply',
  'text',
  'ptx',
  'list',
  'lines',
  'dxf',
  'landxml',
  'asc',
  'tif',
  'gtx',
  'job',
  'trajectory',
  'scan',
  'picture',
  'photographs',
  'shp',
  'gpkg',
  'codes',
];
const { PAMPERO_FUZZ_FORMAT, PAMPERO_FUZZ_COUNT, PAMPERO_FUZZ_SEED, PAMPERO_FUZZ_KEEP } = process.env;
/** Formats that take longer, some because a process of its own reads each file: seconds for a few. */
const FEWER: Readonly<Record<string, number>> = { job: 40, scan: 40, picture: 8, photographs: 8 };
const countOf = (format: string): number => Number(PAMPERO_FUZZ_COUNT ?? FEWER[format] ?? 100);
const FIRST_SEED = Number(PAMPERO_FUZZ_SEED ?? 1);
/** A file of a few kilobytes that takes longer, or more than the memory the server was given, is a fault. */
const [LONGEST_MS, MEGABYTES] = [30_000, 900];
const JOBS_ANEW = 100;
const AT_ONCE = 4;

let server: SpawnedServer;
let all: Map<string, Seed[]>;
beforeAll(async () => {
  server = await spawnedServer({ PAMPERO_MEMORY: String(MEGABYTES) });
  all = await seeds(server.api);
  await mkdir(join(server.data, 'geoids'), { recursive: true });
});
afterAll(() => server.stop());

/** What went wrong with a file, if anything. */
async function tried(
  jobId: string,
  { operation, fileName, parameters }: Seed,
  bytes: Uint8Array,
  isWhole = false,
): Promise<string | undefined> {
  const { api } = server;
  const begun = performance.now();
  const problemOf = (of: Record<string, unknown>): string | undefined =>
    Number(of['status']) >= 500 ? JSON.stringify(of) : undefined;
  const late = (): string | undefined => {
    const ms = performance.now() - begun;
    return ms > LONGEST_MS ? `took ${Math.round(ms)} ms` : undefined;
  };
  if (operation === 'restore') {
    const answer = await api.raw('/jobs/file', {
      method: 'POST',
      body: Buffer.from(bytes),
      headers: { 'content-type': 'application/octet-stream' },
    });
    if (answer.status !== 201) return problemOf(answer.json()) ?? late();
    const { id } = answer.json() as { id: string };
    // A job that came in can be read and removed, whatever is in it.
    for (const path of [`/jobs/${id}`, '/jobs']) {
      const read = await api.raw(path);
      if (read.status >= 500) return `${path}: ${Buffer.from(read.body).toString()}`;
    }
    const removed = await api.raw(`/jobs/${id}`, { method: 'DELETE' });
    return removed.status === 204 ? late() : `not removed: ${removed.status}`;
  }
  if (operation === 'geoid') {
    await writeFile(join(server.data, 'geoids', 'fuzz.gtx'), bytes);
    const answer = await api.raw('/geoids');
    return answer.status === 200 ? late() : `GET /geoids: ${answer.status}`;
  }
  const query = new URLSearchParams({ fileName, parameters: JSON.stringify(parameters ?? {}) });
  const started = await api.raw(`/jobs/${jobId}/operations/${operation}/file?${query.toString()}`, {
    method: 'POST',
    body: Buffer.from(bytes),
    headers: { 'content-type': 'application/octet-stream' },
  });
  if (started.status !== 202) return problemOf(started.json()) ?? late();
  const run = await api.ended(jobId, started.json() as never);
  if (isWhole && run.state !== 'done') return run.outcome;
  return (run.error && problemOf(run.error as never)) ?? late();
}

describe.each(FORMATS.filter((format) => PAMPERO_FUZZ_FORMAT === undefined || format === PAMPERO_FUZZ_FORMAT))(
  'damaged %s',
  (format) => {
    test(
      `${countOf(format)} ${format} files: no crash, no hang, no raw error, no more memory than there is`,
      { timeout: 24 * 3_600_000 },
      async () => {
        const faults: string[] = [];
        const count = countOf(format);
        // A job runs one thing at a time: side by side means jobs of their own.
        let jobs: string[] = [];
        let peak = 0;
        const watch = setInterval(() => void server.megabytes().then((now) => (peak = Math.max(peak, now))), 250);
        const kinds = all.get(format)!;
        const newJob = async (): Promise<string> => {
          const { id } = await server.api.newJob('Fuzz');
          const before = kinds.find((kind) => kind.before)?.before;
          if (before) expect(await tried(id, before, before.bytes)).toBeUndefined();
          return id;
        };
        // Uncut first: the harness itself has to get through, and what is whole has to come in.
        for (const seed of kinds) {
          const [jobId] = (jobs = jobs.length > 0 ? jobs : [await newJob()]);
          expect(await tried(jobId!, seed, seed.bytes, true), `${seed.fileName} as it is`).toBeUndefined();
        }
        for (let at = 0; at < count; at += AT_ONCE) {
          if (at % JOBS_ANEW < AT_ONCE) {
            for (const id of jobs) await server.api.raw(`/jobs/${id}`, { method: 'DELETE' });
            jobs = await Promise.all(Array.from({ length: AT_ONCE }, newJob));
          }
          await Promise.all(
            Array.from({ length: Math.min(AT_ONCE, count - at) }, async (_, k) => {
              const seed = FIRST_SEED + at + k;
              const kind = kinds[seed % kinds.length]!;
              const damaged = mutated(kind.bytes, seed, kind.isText);
              const bytes = format === 'e57' && seed % 2 === 0 ? withChecksums(damaged) : damaged;
              const fault = await tried(jobs[k]!, kind, bytes).catch(
                (error: unknown) => `the harness: ${String(error)}`,
              );
              if (fault === undefined) return;
              faults.push(`seed ${seed}, ${kind.fileName}: ${fault.slice(0, 300)} ${server.output().slice(-600)}`);
              if (PAMPERO_FUZZ_KEEP) await writeFile(join(PAMPERO_FUZZ_KEEP, `${seed}-${kind.fileName}`), bytes);
            }),
          );
          if (!server.isAlive()) {
            faults.push(`the server ended at about seed ${FIRST_SEED + at}`);
            break;
          }
        }
        clearInterval(watch);
        expect(faults).toEqual([]);
        await expect.poll(() => readdir(join(server.data, 'scratch'))).toEqual([]);
        expect(peak, 'megabytes').toBeLessThan(MEGABYTES + 600);
      },
    );
  },
);
