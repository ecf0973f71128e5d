// `npm test`: installs what is missing, then dependencies, format, lint, types, imports, unit, server and browser tests. All of it runs even where
// one part fails, so that one run tells everything; the exit code says whether all passed.
import { spawn } from 'node:child_process';
import { constants, setPriority } from 'node:os';
import { build } from './build.mjs';
import { root, setUp } from './setup.mjs';

setUp({ forTests: true });
build();
/** Each takes one core, and beside the tests only what these leave: half a core of a small machine, much of the time. */
const checks = [
  ['lint', ['npx', '--no-install', 'eslint', '.']],
  ['types', ['npx', '--no-install', 'tsc', '-p', 'tsconfig.tests.json']],
  ['format', ['npx', '--no-install', 'prettier', '--check', '--log-level', 'warn', '.']],
  ['imports', ['npm', 'run', '--silent', 'check:imports']],
  ['dependencies', ['node', 'scripts/dependencies.mjs', '--check']],
];
const failed = [];
const told = (name, passed, begun) => {
  console.log(`== ${name}: ${passed ? 'passed' : 'FAILED'} in ${((Date.now() - begun) / 1000).toFixed(1)} s`);
  if (!passed) failed.push(name);
};

/** Runs the checks one after another, after all else that wants the machine. */
async function check() {
  for (const [name, [command, ...args]] of checks) {
    const begun = Date.now();
    const child = spawn(command, args, { cwd: root, stdio: ['ignore', 'pipe', 'pipe'] });
    if (child.pid !== undefined) setPriority(child.pid, constants.priority.PRIORITY_LOW);
    const said = [];
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (bytes) => said.push(bytes));
    const code = await new Promise((done) => child.on('error', () => done(1)).on('close', done));
    console.log(`\n== ${name}\n${Buffer.concat(said).toString()}`);
    told(name, code === 0, begun);
  }
}

async function test() {
  const begun = Date.now();
  console.log('\n== unit, server and browser tests');
  const child = spawn('npx', ['--no-install', 'vitest', 'run'], { cwd: root, stdio: 'inherit' });
  const code = await new Promise((done) => child.on('error', () => done(1)).on('close', done));
  told('unit, server and browser tests', code === 0, begun);
}

await Promise.all([test(), check()]);
if (failed.length > 0) {
  console.error(`\nFailed: ${failed.join(', ')}.`);
  process.exit(1);
}
