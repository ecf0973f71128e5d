// Makes a fresh machine able to build, test and run Pampero: Debian's packages that are missing, then the npm packages of
// the lock file. Does nothing, quickly, where all is there. Uses only what Node brings along.
import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = dirname(dirname(fileURLToPath(import.meta.url)));

/** Runs a command in the project's root with its output shown; ends the process where it fails. */
export function run(command, args, options = {}) {
  const result = spawnSync(command, args, { cwd: root, stdio: 'inherit', ...options });
  if (result.error) {
    console.error(`${command} could not be started: ${result.error.message}`);
    process.exit(1);
  }
  if (result.status !== 0) process.exit(result.status ?? 1);
}

const holds = (check) => spawnSync('sh', ['-c', check], { stdio: 'ignore' }).status === 0;
const has = (command) => holds(`command -v ${command}`);

/** Installs those Debian packages, named with a shell command that holds once they are there, that are missing. */
function ensurePackagesOfDebian(wanted) {
  const missing = Object.entries(wanted)
    .filter(([, check]) => !holds(check))
    .map(([packageName]) => packageName);
  if (missing.length === 0) return;
  if (!has('apt-get')) {
    console.error(`Please install: ${missing.join(', ')}. (There is no apt-get here to do it.)`);
    process.exit(1);
  }
  console.log(`Installing ${missing.join(', ')} ...`);
  const sudo = process.getuid?.() === 0 ? [] : ['sudo'];
  const apt = (...args) => {
    const [command, ...rest] = [...sudo, 'apt-get', ...args];
    run(command, rest, {
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
      stdio: ['ignore', 'ignore', 'inherit'],
    });
  };
  apt('update', '-qq');
  apt('install', '-y', '-qq', '--no-install-recommends', ...missing);
}

/** `npm ci`, unless the last one was from this very lock file with this very Node. */
function ensurePackages() {
  const mark = join(root, 'node_modules', '.pampero-installed');
  const state = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .update(process.version)
    .digest('hex');
  if (existsSync(mark) && readFileSync(mark, 'utf8') === state) return;
  console.log('Installing packages (sqlite3 is compiled here, which takes two or three minutes the first time) ...');
  run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error']);
  mkdirSync(dirname(mark), { recursive: true });
  writeFileSync(mark, state);
}

/** @param {{ forTests?: boolean }} [options] tests also want a browser and the independent programs they check against */
export function setUp({ forTests = false } = {}) {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19)) {
    console.error(`Pampero needs Node 20.19 or newer; this is ${process.version}.`);
    process.exit(1);
  }
  ensurePackagesOfDebian({ 'g++': 'command -v g++', make: 'command -v make', python3: 'command -v python3' });
  ensurePackages();
  if (forTests) {
    ensurePackagesOfDebian({
      chromium: 'command -v chromium',
      'gdal-bin': 'command -v ogrinfo',
      'proj-bin': 'command -v cs2cs',
      'poppler-utils': 'command -v pdftotext',
      'redis-server': 'command -v redis-server',
      'python3-scipy': "/usr/bin/python3 -c 'import scipy.spatial'",
    });
  }
}

/** When the newest of the tracked sources was changed, so that a build that is newer can be kept. */
export function sourcesState() {
  const list = execFileSync(
    'git',
    [
      'ls-files',
      '-s',
      '--',
      'core',
      'contract',
      'server',
      'web',
      'client-view',
      'demo',
      'package-lock.json',
      'tsconfig.base.json',
    ],
    { cwd: root },
  );
  const dirty = execFileSync(
    'git',
    ['diff', 'HEAD', '--', 'core', 'contract', 'server', 'web', 'client-view', 'demo'],
    {
      cwd: root,
      maxBuffer: 1 << 28,
    },
  );
  const untracked = execFileSync(
    'git',
    ['ls-files', '-o', '--exclude-standard', '--', 'core', 'contract', 'server', 'web', 'client-view', 'demo'],
    { cwd: root },
  );
  const hash = createHash('sha256').update(list).update(dirty).update(untracked);
  // Of files that git does not know yet it says the names alone.
  for (const name of untracked.toString().split('\n').filter(Boolean)) hash.update(readFileSync(join(root, name)));
  return hash.digest('hex');
}
