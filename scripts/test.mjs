// `npm test`: installs what is missing, then dependencies, format, lint, types, imports, unit, server and browser tests. All of it runs even where
// one part fails, so that one run tells everything; the exit code says whether all passed.
import { spawnSync } from 'node:child_process';
import { build } from './build.mjs';
import { root, setUp } from './setup.mjs';

setUp({ forTests: true });
build();
const steps = [
  ['format', ['prettier', '--check', '--log-level', 'warn', '.']],
  ['lint', ['eslint', '.']],
  ['types', ['tsc', '-p', 'tsconfig.tests.json']],
  [
    'imports',
    ['depcruise', '--config', '.dependency-cruiser.mjs', 'core/src', 'contract/src', 'server/src', 'web/src/app'],
  ],
  ['unit, server and browser tests', ['vitest', 'run']],
];
const failed = [];
console.log('\n== dependencies');
if (spawnSync('node', ['scripts/dependencies.mjs', '--check'], { cwd: root, stdio: 'inherit' }).status !== 0)
  failed.push('dependencies');
for (const [name, args] of steps) {
  const begun = Date.now();
  console.log(`\n== ${name}`);
  const { status } = spawnSync('npx', ['--no-install', ...args], { cwd: root, stdio: 'inherit' });
  console.log(`== ${name}: ${status === 0 ? 'passed' : 'FAILED'} in ${((Date.now() - begun) / 1000).toFixed(1)} s`);
  if (status !== 0) failed.push(name);
}
if (failed.length > 0) {
  console.error(`\nFailed: ${failed.join(', ')}.`);
  process.exit(1);
}
