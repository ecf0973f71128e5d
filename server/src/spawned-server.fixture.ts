import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync } from 'node:fs';
import { mkdtemp, readdir, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { expect } from 'vitest';
import { ApiClient } from './server.fixture.js';

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
    env: { ...process.env, PAMPERO_DATA: folder, PAMPERO_PORT: '0', PAMPERO_LOG: 'error', ...settings },
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
