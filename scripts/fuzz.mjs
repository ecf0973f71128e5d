// `npm run fuzz -- FORMAT COUNT [FIRST SEED]`: damages files of a format at random and sends them through the built server's import.
// Files that did harm are kept beside the system's temporary files.
import { spawnSync } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build } from './build.mjs';
import { root } from './setup.mjs';

const [format, count = '10000', seed = '1'] = process.argv.slice(2);
const kept = join(tmpdir(), 'pampero-fuzz');
mkdirSync(kept, { recursive: true });
build();
const { status } = spawnSync(
  'npx',
  ['--no-install', 'vitest', 'run', '--project', 'server', 'server/src/hostile/fuzz.test.ts'],
  {
    cwd: root,
    stdio: 'inherit',
    env: {
      ...process.env,
      ...(format && format !== 'all' && { PAMPERO_FUZZ_FORMAT: format }),
      PAMPERO_FUZZ_COUNT: count,
      PAMPERO_FUZZ_SEED: seed,
      PAMPERO_FUZZ_KEEP: kept,
    },
  },
);
process.exit(status ?? 1);
