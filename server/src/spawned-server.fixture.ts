import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync } from 'node:fs';
import { mkdtemp, readdir, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { expect } from 'vitest';
import { ApiClient } from './server.fixture.js';

/** Runs before the server, and answers a signal with what it holds once garbage is collected. */
const AT_REST = `
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { isMainThread } from 'node:worker_threads';
if (isMainThread) {
  setFlagsFromString('--expose-gc');
  const collect = runInNewContext('gc');
  process.on('SIGUSR2', async () => {
    for (let k = 0; k < 3; k++) { collect(); await new Promise((next) => setTimeout(next, 100)); }
    const { rss, heapUsed, external } = process.memoryUsage();
    console.error('at rest ' + JSON.stringify({ process: rss / 2 ** 20, alive: (heapUsed + external) / 2 ** 20 }));
  });
}`;
const main = fileURLToPath(new URL('../dist/main.js', import.meta.url));

/** The built server as a process of its own, so that it can be killed, starved and measured. */
export interface SpawnedServer {
  readonly process: ChildProcess;
  readonly url: string;
  readonly api: ApiClient;
  readonly data: string;
  /** Everything it printed. */
  output(): string;
  isAlive(): boolean;
  /** Memory it holds now. */
  megabytes(): Promise<number>;
  /** Memory it holds once what nobody needs any more has been collected: the process, and what lives in it. */
  megabytesAtRest(): Promise<{ process: number; alive: number }>;
  /** Open descriptors. */
  descriptors(): Promise<number>;
  kill(): Promise<void>;
  /** Ends it and removes its data. */
  stop(): Promise<void>;
}

export async function spawnedServer(
  settings: Readonly<Record<string, string>> = {},
  { data, command = [] }: { data?: string; command?: readonly string[] } = {},
): Promise<SpawnedServer> {
  expect(existsSync(main), 'build the server first').toBe(true);
  const folder = data ?? (await mkdtemp(join(tmpdir(), 'pampero-spawned-')));
  const [program, ...args] = [...command, process.execPath, main];
  const child = spawn(program!, args, {
    env: {
      ...process.env,
      NODE_OPTIONS: `--import "data:text/javascript,${encodeURIComponent(AT_REST)}"`,
      PAMPERO_DATA: folder,
      PAMPERO_PORT: '0',
      PAMPERO_LOG: 'error',
      ...settings,
    },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  let printed = '';
  child.stderr.on('data', (chunk: Buffer) => (printed += chunk.toString()));
  const url = await new Promise<string>((resolve, reject) => {
    child.stdout.on('data', (chunk: Buffer) => {
      printed += chunk.toString();
      const ready = /ready at (\S+)/.exec(printed);
      if (ready) resolve(ready[1]!);
    });
    child.once('exit', () => reject(new Error(`The server ended: ${printed}`)));
  });
  const isAlive = (): boolean => child.exitCode === null && child.signalCode === null;
  const kill = async (): Promise<void> => {
    if (!isAlive()) return;
    const ended = new Promise((resolve) => child.once('exit', resolve));
    child.kill('SIGKILL');
    await ended;
  };
  return {
    process: child,
    url,
    api: new ApiClient(url),
    data: folder,
    output: () => printed,
    isAlive,
    async megabytes() {
      const status = await readFile(`/proc/${child.pid}/status`, 'utf8').catch(() => '');
      return Number(/VmRSS:\s+(\d+)/.exec(status)?.[1] ?? 0) / 1024;
    },
    async megabytesAtRest() {
      const before = printed.length;
      child.kill('SIGUSR2');
      let told: RegExpExecArray | null;
      while (!(told = /at rest (\{.*\})/.exec(printed.slice(before)))) {
        if (!isAlive()) throw new Error(`The server ended: ${printed}`);
        await new Promise((resolve) => setTimeout(resolve, 50));
      }
      return JSON.parse(told[1]!) as { process: number; alive: number };
    },
    async descriptors() {
      return (await readdir(`/proc/${child.pid}/fd`)).length;
    },
    kill,
    async stop() {
      await kill();
      if (data === undefined) await rm(folder, { recursive: true, force: true });
    },
  };
}
