// `npm run kills -- COUNT [SEED]`: kills the built server at random moments of everything that changes a job, and looks at what is left.
import { spawnSync } from 'node:child_process';
import { build } from './build.mjs';
import { root } from './setup.mjs';

const [count = '100', seed = '1'] = process.argv.slice(2);
build();
const { status } = spawnSync(
  'npx',
  ['--no-install', 'vitest', 'run', '--project', 'server', 'server/src/hostile/kills.test.ts'],
  { cwd: root, stdio: 'inherit', env: { ...process.env, PAMPERO_KILLS: count, PAMPERO_KILLS_SEED: seed } },
);
process.exit(status ?? 1);
