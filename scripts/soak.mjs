// `npm run soak -- MINUTES`: two pages and a script at once, then the same work again and again on the built server, with what it takes of
// memory, descriptors and disk.
import { spawnSync } from 'node:child_process';
import { build } from './build.mjs';
import { serverEnvironment } from './serve.mjs';
import { root } from './setup.mjs';

const [minutes = '120'] = process.argv.slice(2);
build();
const { status } = spawnSync(
  'npx',
  ['--no-install', 'vitest', 'run', '--project', 'server', 'server/src/hostile/together.test.ts'],
  { cwd: root, stdio: 'inherit', env: { ...serverEnvironment, PAMPERO_SOAK_MINUTES: minutes } },
);
process.exit(status ?? 1);
