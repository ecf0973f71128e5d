import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { startServer, type RunningServer } from '@pampero/server';
import { writeBenchFile } from './bench-cloud.js';
import type { Row } from './rows.js';

/** Ground, objects and thinning on clouds of several sizes: points a second, how time grows with size, and memory. */
export async function* classifyBench(folder: string, counts: readonly number[]): AsyncGenerator<Row> {
  const seconds = new Map<string, number[]>();
  for (const count of counts) {
    const data = join(folder, `classify-${count}`);
    await mkdir(data);
    const server = await startServer({ data, port: 0, host: '127.0.0.1', workers: 2, memory: 1500, log: 'silent' });
    try {
      const jobId = await importCloud(server, count);
      const operate = async (id: string, parameters: Record<string, unknown>): Promise<number> => {
        const begun = performance.now();
        const run = await (await server.operations.start(jobId, id, { clouds: [1], ...parameters })).finished;
        if (run.state !== 'done') throw new Error(`${id}: ${run.outcome ?? run.state}`);
        return (performance.now() - begun) / 1000;
      };
      const work: readonly (readonly [string, string, Record<string, unknown>, number])[] = [
        ['ground by cloth alone', 'find-ground', { method: 'cloth', refine: false, tolerance: 0.12 }, 2],
        ['ground by TIN alone', 'find-ground', { method: 'tin', refine: false, tolerance: 0.12 }, 0.5],
        ['ground as proposed, with a second look', 'find-ground', { method: 'tin' }, 0.5],
        ['objects', 'find-objects', {}, 0.5],
        ['thinning by spacing', 'thin-cloud', { method: 'spacing', distance: 1 }, 3],
        ['key points', 'thin-cloud', { method: 'key-points', tolerance: 0.1 }, 0.5],
      ];
      for (const [what, id, parameters, target] of work) {
        const taken = await operate(id, parameters);
        seconds.set(what, [...(seconds.get(what) ?? []), taken]);
        yield {
          name: `${what}, ${count / 1e6} M points`,
          measured: count / taken / 1e6,
          unit: 'M points/s',
          target,
          isMoreBetter: true,
        };
      }
      yield {
        name: `memory of the server after all that, ${count / 1e6} M points`,
        measured: process.memoryUsage().rss / 1024 ** 2,
        unit: 'MB',
      };
    } finally {
      await server.close();
      await rm(data, { recursive: true, force: true });
    }
  }
  if (counts.length < 2) return;
  const [small, large] = [counts[0]!, counts.at(-1)!];
  for (const [what, taken] of seconds)
    yield {
      name: `${what}: time at ${large / 1e6} M against ${small / 1e6} M points`,
      measured: taken.at(-1)! / taken[0]!,
      unit: 'times',
      target: (large / small) * 1.1,
    };
}

async function importCloud(server: RunningServer, count: number): Promise<string> {
  const job = await server.library.create({ name: 'Bench', unit: 'metre' });
  const received = server.library.scratchPath('.received');
  await writeBenchFile(received, count);
  const run = await (
    await server.operations.startWithFile(job.id, 'import-cloud', { path: received, fileName: 'bench.las' }, {})
  ).finished;
  if (run.state !== 'done') throw new Error(run.outcome ?? run.state);
  return job.id;
}
