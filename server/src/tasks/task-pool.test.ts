import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { expect, test } from 'vitest';
import { Cancelled, seededRandom } from '@pampero/core/task';
import { TaskPool } from './task-pool.js';
import type { TaskInput, WithoutPort } from './task-types.js';
import { THREAD_ARGUMENTS, workerFile } from './worker-file.js';

/** Starts and ends pools at moments all through the start of their threads, as cancelling and stopping do. */
const SCRIPT = `
  import { TaskPool } from ${JSON.stringify(new URL('../../dist/tasks/task-pool.js', import.meta.url).href)};
  const once = async (milliseconds) => {
    const pool = new TaskPool(2);
    await new Promise((resolve) => setTimeout(resolve, milliseconds));
    await pool.close();
  };
  for (let k = 0; k < 8; k++) await Promise.all([0, 150, 300, 450].map((from) => once(from + 19 * k)));
`;

test('threads ended while they start take nothing with them', async () => {
  const child = spawn(process.execPath, ['--input-type=module', '--eval', SCRIPT], { stdio: ['ignore', 'ignore', 'pipe'] }); // prettier-ignore
  let said = '';
  child.stderr.on('data', (text: Buffer) => (said += text.toString()));
  expect(await once(child, 'exit'), said).toEqual([0, null]);
});

/** The fault hits one start in a few hundred; what brings it about is seen every time. */
test('a thread does not load our modules through require', async () => {
  const file = JSON.stringify(new URL(workerFile(import.meta.url)).pathname);
  const script = `const { parentPort } = require('node:worker_threads');
    try { require(${file}); parentPort.postMessage('loaded'); } catch ({ code }) { parentPort.postMessage(code); }`;
  const thread = new Worker(script, { eval: true, execArgv: [...THREAD_ARGUMENTS] });
  expect(await once(thread, 'message')).toEqual(['ERR_REQUIRE_ESM']);
  await thread.terminate();
});

/** Land of so many points for a TIN, which takes 330 bytes each. */
function land(count: number): WithoutPort<TaskInput<'buildTin'>> {
  const random = seededRandom(count);
  const column = (most: number): Float64Array => Float64Array.from({ length: count }, () => most * random());
  return {
    clouds: [],
    thinned: { points: { easting: column(500), northing: column(500), elevation: column(1) }, of: count },
    classes: [2],
    thinCell: 1,
    keepBreaks: true,
    options: {
      maximumEdge: 50,
      minimumAngle: 0,
      lines: { largestStep: 1, offset: 0.01, crossing: 'mean', crossingTolerance: 0.05 },
    },
    lines: [],
    water: 'as-it-is',
    metresPerUnit: 1,
    edits: [],
  };
}

test('surfaces that would not fit into memory together are made one after the other, others beside them', async () => {
  // 350 of them are what a server takes at rest.
  const pool = new TaskPool(3, 450);
  try {
    const never = new AbortController().signal;
    const done: string[] = [];
    const made = async (name: string, count: number): Promise<void> => {
      const { facts } = await pool.runWatched('buildTin', land(count), never, () => undefined);
      expect(facts.points).toBe(count);
      done.push(name);
    };
    const first = made('large', 200_000);
    expect(pool.mustWait('buildTin', land(1_000))).toBe(false);
    expect(pool.mustWait('buildTin', land(150_000))).toBe(true);
    const second = made('large too', 150_000);
    // It came later, and those that come later wait: else a large one would never have its turn.
    expect(pool.mustWait('buildTin', land(1_000))).toBe(true);
    const stop = new AbortController();
    const third = pool.runWatched('buildTin', land(160_000), stop.signal, () => undefined);
    stop.abort();
    await expect(third).rejects.toThrow('Cancelled');
    await Promise.all([first, second]);
    expect(done).toEqual(['large', 'large too']);
    expect(pool.mustWait('buildTin', land(150_000))).toBe(false);
  } finally {
    await pool.close();
  }
});

test('a file that is being read as the server stops is not said to be damaged', async () => {
  const folder = await mkdtemp(join(tmpdir(), 'pampero-pool-'));
  const path = join(folder, 'large.csv');
  await writeFile(path, 'easting,northing,elevation\n' + '500000.25,6000000.75,12.5\n'.repeat(400_000));
  const pool = new TaskPool(1);
  const reading = pool.read('pointsOfList', { path, fileName: 'large.csv' } as never, { path, fileName: 'large.csv' });
  const working = pool.run('buildTin', { ...land(40_000), port: undefined } as never, new AbortController().signal);
  const ended = Promise.allSettled([reading, working]);
  await new Promise((resolve) => setTimeout(resolve, 60));
  await pool.close();
  for (const outcome of await ended) {
    expect(outcome.status).toBe('rejected');
    expect((outcome as PromiseRejectedResult).reason).toBeInstanceOf(Cancelled);
  }
  await rm(folder, { recursive: true });
});
