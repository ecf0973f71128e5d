import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { startServer } from '@pampero/server';
import { chromium, type Browser } from 'playwright-core';
import { writeBenchFile } from './bench-cloud.js';
import { CHROMIUM_ARGUMENTS } from './chromium.js';

/** A server with a job that holds the bench's cloud, and a browser to look at it. */
export interface BenchJob {
  readonly server: Awaited<ReturnType<typeof startServer>>;
  readonly browser: Browser;
  readonly jobId: string;
  close(): Promise<void>;
}

/** @param name - of the folder the job lies in, below `folder`; gone when it is closed */
export async function openBenchJob(folder: string, name: string, points: number): Promise<BenchJob> {
  const data = join(folder, name);
  await mkdir(data);
  const server = await startServer({ data, port: 0, host: '127.0.0.1', workers: 2, memory: 1500, log: 'silent' });
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: CHROMIUM_ARGUMENTS });
  const close = async (): Promise<void> => {
    await browser.close();
    await server.close();
    await rm(data, { recursive: true, force: true });
  };
  try {
    const job = await server.library.create({ name: 'Bench', unit: 'metre' });
    const path = server.library.scratchPath('.received');
    await writeBenchFile(path, points);
    const run = await (
      await server.operations.startWithFile(job.id, 'import-cloud', { path, fileName: 'bench.las' }, {})
    ).finished;
    if (run.state !== 'done') throw new Error(run.outcome ?? run.state);
    return { server, browser, jobId: job.id, close };
  } catch (error) {
    await close();
    throw error;
  }
}
