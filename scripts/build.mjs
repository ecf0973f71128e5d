// Builds the packages and the page; keeps a build that was made from the same sources.
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { root, run, setUp, sourcesState } from './setup.mjs';

export function build() {
  const mark = join(root, 'web', 'dist', '.built-from');
  let state = 'no git here';
  try {
    state = sourcesState();
    if (
      existsSync(mark) &&
      existsSync(join(root, 'server', 'dist', 'main.js')) &&
      existsSync(join(root, 'client-view', 'dist', 'page.html')) &&
      readFileSync(mark, 'utf8') === state
    )
      return;
  } catch {
    // Not a git checkout: build every time.
  }
  console.log('Building ...');
  run('npx', ['--no-install', 'tsc', '-b']);
  run('npx', ['--no-install', 'ng', 'build', '--progress=false'], {
    cwd: join(root, 'web'),
    stdio: ['ignore', 'ignore', 'inherit'],
    env: { ...process.env, NG_CLI_ANALYTICS: 'false' },
  });
  run(process.execPath, [join(root, 'client-view', 'build.mjs')]);
  writeFileSync(mark, state);
}

if (import.meta.url === pathToFileURL(process.argv[1] ?? '').href) {
  setUp();
  build();
}
