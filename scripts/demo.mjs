// `npm run demo`: installs what is missing, builds, makes the demo data and serves Pampero with the demo job in it.
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { build } from './build.mjs';
import { root, setUp } from './setup.mjs';

setUp();
build();
const server = spawn(process.execPath, [join(root, 'server', 'dist', 'main.js'), '--demo'], {
  cwd: root,
  stdio: 'inherit',
});
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
server.on('exit', (code) => process.exit(code ?? 0));
