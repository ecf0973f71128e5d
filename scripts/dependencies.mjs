// `npm run licences` (not "dependencies": npm runs a script of that name by itself after every install): writes docs/dependencies.md from the lock file and what is installed, offline. With --check it says whether the
// page is true and whether the lock file can be trusted: every package with its checksum, none under a licence we have not looked at.
import { format, resolveConfig } from 'prettier';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './setup.mjs';

const WORKSPACES = ['core', 'contract', 'server', 'web', 'demo', 'e2e', 'bench'];
/** Licences that let us ship what we build; read before one is added. */
const LICENCES = new Set([
  '0BSD',
  'Apache-2.0',
  'BlueOak-1.0.0',
  'BSD-2-Clause',
  // The fonts of DejaVu: to be used, changed and shipped with a program, not sold by themselves.
  'Bitstream-Vera',
  'BSD-3-Clause',
  'CC0-1.0',
  'CC-BY-3.0',
  'CC-BY-4.0',
  'ISC',
  'MIT',
  'MIT-0',
  'MPL-2.0',
  // A shared library that is linked as it comes, and can be exchanged: the image library behind sharp.
  'LGPL-3.0-or-later',
  'OFL-1.1',
  'Python-2.0',
  'Unlicense',
  'WTFPL',
  'Zlib',
]);

/** Packages whose own description leaves the licence out, as their files tell it. */
const STATED_ELSEWHERE = {
  'node_modules/combine-errors': 'MIT',
  'node_modules/dejavu-fonts-ttf': 'Bitstream-Vera',
  'node_modules/png-js': 'MIT',
};

const read = (path) => JSON.parse(readFileSync(join(root, path), 'utf8'));
const lock = read('package-lock.json');
const faults = [];

const licenceOf = (path) => {
  if (STATED_ELSEWHERE[path]) return STATED_ELSEWHERE[path];
  try {
    const { license, licenses } = read(join(path, 'package.json'));
    return typeof license === 'string'
      ? license
      : (license?.type ?? licenses?.map(({ type }) => type).join(' OR ') ?? 'none stated');
  } catch {
    return undefined; // for another system than this one
  }
};
const isKnown = (licence) =>
  licence
    .replace(/[()]/g, '')
    .split(/ (?:OR|AND) /)
    .some((each) => LICENCES.has(each));

const users = new Map();
for (const [where, path] of [['all', 'package.json'], ...WORKSPACES.map((name) => [name, `${name}/package.json`])]) {
  const { dependencies = {}, devDependencies = {} } = read(path);
  for (const [kind, names] of [
    ['', dependencies],
    [' (building and testing)', devDependencies],
  ])
    for (const name of Object.keys(names))
      if (!name.startsWith('@pampero/')) users.set(name, [...(users.get(name) ?? []), where + kind]);
}

const indirect = new Map();
let packages = 0;
for (const [path, { link, integrity, version, license }] of Object.entries(lock.packages)) {
  if (!path.includes('node_modules/') || link) continue;
  packages++;
  if (!integrity) faults.push(`${path} ${version} has no checksum in the lock file.`);
  const licence = licenceOf(path) ?? license ?? 'none stated';
  if (!isKnown(licence)) faults.push(`${path} ${version} is under the licence ${licence}, which nobody has looked at.`);
  if (!users.has(path.replace(/^node_modules\//, ''))) indirect.set(licence, (indirect.get(licence) ?? 0) + 1);
}

const rows = [...users]
  .sort(([a], [b]) => a.localeCompare(b))
  .map(([name, where]) => {
    const path = `node_modules/${name}`;
    const at = lock.packages[path]
      ? path
      : WORKSPACES.map((each) => `${each}/${path}`).find((each) => lock.packages[each]);
    return `| ${name} | ${lock.packages[at]?.version ?? '?'} | ${licenceOf(at ?? path) ?? lock.packages[at]?.license ?? '?'} | ${where.join(', ')} |`;
  });
const page = `# What Pampero is built on

Made by \`npm run licences\` from the lock file; \`npm test\` checks that it is true, that every package has its checksum and that its
licence is one of those we have looked at. ${users.size} packages are used by name; with what they bring along there are ${packages}.

| package | version | licence | used by |
| --- | --- | --- | --- |
${rows.join('\n')}

Licences of the packages that come along with them:

| licence | packages |
| --- | --- |
${[...indirect]
  .sort(([a], [b]) => a.localeCompare(b))
  .map(([licence, count]) => `| ${licence} | ${count} |`)
  .join('\n')}
`;
const target = join(root, 'docs', 'dependencies.md');
const normal = (text) =>
  text
    .replace(/[ \t]+/g, ' ')
    .replace(/-{3,}/g, '---')
    .trim();
if (process.argv.includes('--check')) {
  let there = '';
  try {
    there = readFileSync(target, 'utf8');
  } catch {
    faults.push('docs/dependencies.md is missing.');
  }
  if (there !== '' && normal(there) !== normal(page))
    faults.push('docs/dependencies.md is not up to date: run npm run licences.');
} else writeFileSync(target, await format(page, { ...(await resolveConfig(target)), parser: 'markdown' }));
for (const fault of faults) console.error(fault);
process.exit(faults.length > 0 ? 1 : 0);
