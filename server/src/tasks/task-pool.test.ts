import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { Worker } from 'node:worker_threads';
import { expect, test } from 'vitest';
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
