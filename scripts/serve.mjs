// The built server as a process of its own.
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { root } from './setup.mjs';

/**
 * What the server is started with. The allocator of Linux keeps memory apart for each of many threads and gives little of it back; with
 * two such stores for all the process stays as large as what lives in it asks for (docs/architecture.md, "Hard to hurt").
 */
export const serverEnvironment = { MALLOC_ARENA_MAX: '2', ...process.env };

/** Serves until it is told to stop; this process ends as the server does. */
export function serve(...args) {
  const server = spawn(process.execPath, [join(root, 'server', 'dist', 'main.js'), ...args], {
    cwd: root,
    stdio: 'inherit',
    env: serverEnvironment,
  });
  for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
  server.on('exit', (code) => process.exit(code ?? 0));
}
