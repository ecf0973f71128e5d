import { execFile, spawn } from 'node:child_process';
import { mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import { RUN_SHEET_FORMAT, type RunSheetInput } from '@pampero/contract';
import { seededRandom } from '@pampero/core/task';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { fieldWithShed, lasBytes, testServer } from './server.fixture.js';

/** How often a run is killed; `PAMPERO_KILLS=20` for the long form. */
const KILLS = Number(process.env['PAMPERO_KILLS'] ?? 2);
const bin = fileURLToPath(new URL('../bin/pampero.mjs', import.meta.url));
const call = promisify(execFile);
let folder: string;
const at = (name: string): string => join(folder, name);

interface Ended {
  readonly code: number;
  readonly out: string;
  readonly err: string;
}

function pampero(...args: string[]): Promise<Ended> {
  return new Promise((resolve) => {
    execFile(process.execPath, [bin, ...args], { env: { ...process.env, PAMPERO_LOG: 'error' } }, (error, out, err) =>
      resolve({ code: error ? Number(error.code) : 0, out, err }),
    );
  });
}

const sheet: RunSheetInput = {
  format: RUN_SHEET_FORMAT,
  version: 1,
  name: 'Field to contours',
  places: [
    { key: 'lidar', label: 'Lidar', kind: 'files' },
    { key: 'checks', label: 'Check points', kind: 'files' },
    { key: 'interval', label: 'Contour interval', kind: 'value', isOptional: true },
  ],
  steps: [
    { kind: 'work', key: 'import', operation: 'import-cloud', file: 'lidar' },
    {
      kind: 'work',
      key: 'checks-in',
      operation: 'import-control',
      file: 'checks',
      parameters: { role: 'check', order: 'PNEZD' },
    },
    {
      kind: 'work',
      key: 'ground',
      operation: 'find-ground',
      isProposed: true,
      parameters: { clouds: [{ from: 'import' }] },
    },
    { kind: 'work', key: 'surface', operation: 'build-surface', parameters: { clouds: [{ from: 'import' }] } },
    { kind: 'work', key: 'accuracy', operation: 'state-accuracy', parameters: { surfaceId: { from: 'surface' } } },
    {
      kind: 'gate',
      key: 'good',
      gate: { rule: 'figure', of: 'accuracy', figure: 'RMSEz', must: 'at-most', limit: '5 cm' },
    },
    {
      kind: 'work',
      key: 'contours',
      operation: 'draw-contours',
      parameters: { surfaceId: { from: 'surface' }, interval: { place: 'interval' } },
    },
    { kind: 'work', key: 'grid', operation: 'make-grid', parameters: { surfaceId: { from: 'surface' }, cell: '1 m' } },
  ],
  outputs: [
    { of: 'import', format: 'laz' },
    { of: 'surface', format: 'landxml' },
    { of: 'contours', format: 'dxf' },
    { of: 'grid', format: 'asc' },
    { of: 'grid', format: 'tif' },
  ],
};

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'pampero-command-'));
  await writeFile(at('field.las'), await lasBytes(fieldWithShed()));
  const checks = [[10, 10], [50, 12], [12, 48], [50, 50], [15, 30]] // prettier-ignore
    .map(([e, n], k) => `C${k},${6_150_000 + n!},${5_512_000 + e!},${(30.005 + e! * 0.02 + n! * 0.01).toFixed(3)},GND`);
  await writeFile(at('checks.csv'), checks.join('\n'));
  await writeFile(at('sheet.json'), JSON.stringify(sheet));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const runInto = (out: string): string[] => [
  'run',
  at('sheet.json'),
  ...['--in', at('field.las'), '--checks', at('checks.csv'), '--value', 'interval=0.2 m', '--out', at(out)],
];

/** Files by name, times and numbers of the field book aside. */
async function filesIn(out: string): Promise<Record<string, string>> {
  const names = (await readdir(at(out))).filter(
    (name) => /\.(laz|xml|dxf|asc|tif)$/.test(name) && name !== 'metadata.xml',
  );
  return Object.fromEntries(
    await Promise.all(
      names.sort().map(async (name) => [name, withoutTimes(await readFile(join(at(out), name)))] as const),
    ),
  );
}

function withoutTimes(bytes: Uint8Array): string {
  return Buffer.from(bytes)
    .toString('latin1')
    .replace(/ date="[\d-]+" time="[\d:]+"/g, '')
    .replace(/\d{4}:\d\d:\d\d \d\d:\d\d:\d\d/g, '')
    .replace(/as of entry \d+|\d{4}-\d\d-\d\d/g, '');
}

describe('the command', () => {
  test('runs a sheet to files, byte for byte those of the screen’s way, with sums that hold (sha256sum)', async () => {
    const ended = await pampero(...runInto('first'));
    expect(ended, ended.err).toMatchObject({ code: 0 });
    expect(ended.out).toContain('points to ground');
    const made = await filesIn('first');
    expect(Object.keys(made)).toEqual(
      ['Contours 0.2 m.dxf', 'Ground, grid 1 m.asc', 'Ground, grid 1 m.tif', 'Ground.xml', 'field.laz'].sort(),
    );
    await call('sha256sum', ['-c', 'SHA256SUMS.txt'], { cwd: at('first') });

    const host = await testServer({ folder });
    try {
      const { id } = await host.api.newJob('field');
      const run = await host.api.call('startSheetRun', `/jobs/${id}/sheet-runs`, {
        body: {
          sheet,
          places: {
            lidar: { files: [{ folderPath: 'field.las' }] },
            checks: { files: [{ folderPath: 'checks.csv' }] },
            interval: { value: '0.2 m' },
          },
        },
      });
      let state = run;
      while (state.state === 'running') {
        await new Promise((wake) => setTimeout(wake, 20));
        state = await host.api.call('readSheetRun', `/jobs/${id}/sheet-runs/${run.id}`);
      }
      expect(state.state, state.because).toBe('done');
      const { products, clouds } = await host.api.read(id);
      const laz = await host.api.raw(`/jobs/${id}/clouds/${clouds[0]!.id}/points?format=laz`);
      expect(withoutTimes(laz.body) === made['field.laz'], 'LAZ').toBe(true);
      for (const { id: productId, format } of state.outputs.filter(({ kind }) => kind === 'product')) {
        const product = products.find((each) => each.id === productId)!;
        const written = withoutTimes(await host.api.file(id, productId, format));
        expect(Object.values(made).includes(written), `${product.name} as ${format}`).toBe(true);
      }
    } finally {
      await host.stop();
    }
  });

  test(`killed at ${KILLS} moments it goes on and ends with the same files`, async () => {
    const random = seededRandom(77);
    const begun = performance.now();
    if (!(await readdir(folder)).includes('first')) await pampero(...runInto('first'));
    await pampero(...runInto('timed'));
    const whole = performance.now() - begun;
    let kills = 0;
    let last: Ended | undefined;
    for (let tries = 0; tries < 4 * KILLS && !last; tries++) {
      const child = spawn(process.execPath, [bin, ...runInto('killed')], { stdio: 'ignore' });
      const ended = new Promise<number | null>((resolve) => child.once('exit', resolve));
      const wait = kills < KILLS ? 150 + random() * Math.min(whole, 3500) : 60_000;
      const timer = setTimeout(() => child.kill('SIGKILL'), wait);
      const code = await ended;
      clearTimeout(timer);
      if (code === null) kills++;
      if (code === 0 && kills >= KILLS) last = { code, out: '', err: '' };
      if (code === 0 && kills < KILLS) await rm(at('killed'), { recursive: true, force: true });
    }
    last ??= await pampero(...runInto('killed'));
    expect(last, last.err).toMatchObject({ code: 0 });
    expect(kills).toBeGreaterThanOrEqual(KILLS);
    const [made, wanted] = [await filesIn('killed'), await filesIn('first')];
    expect(Object.keys(made)).toEqual(Object.keys(wanted));
    for (const [name, bytes] of Object.entries(wanted)) expect(made[name] === bytes, name).toBe(true);
    const checked = await pampero('check', at('killed'));
    expect(checked, checked.out).toMatchObject({ code: 0 });
  });

  test('ends with 3 at a gate that does not hold, and goes on when it is accepted', async () => {
    const strict = {
      ...sheet,
      steps: sheet.steps.map((step) =>
        step.key === 'good' && step.kind === 'gate' ? { ...step, gate: { ...step.gate, limit: '0.1 mm' } } : step,
      ),
    };
    await writeFile(at('strict.json'), JSON.stringify(strict));
    const args = [
      'run',
      at('strict.json'),
      '--in',
      at('field.las'),
      '--checks',
      at('checks.csv'),
      '--out',
      at('strict'),
      '--json',
    ];
    const waits = await pampero(...args);
    expect(waits.code).toBe(3);
    expect(JSON.parse(waits.out.trim().split('\n').at(-1)!)).toMatchObject({ waitsAt: 'good' });
    expect(await readdir(at('strict'))).toEqual(['job']);
    const accepted = await pampero(...args, '--accept', 'good=The limit is a test.');
    expect(accepted, accepted.out).toMatchObject({ code: 0 });
    expect(await readFile(join(at('strict'), 'README.txt'), 'utf8')).toContain('Reason given: The limit is a test.');
    for (const line of accepted.out.trim().split('\n')) expect(() => JSON.parse(line) as unknown, line).not.toThrow();
  });

  test.each<[string, () => string[], RegExp]>([
    [
      'a sheet that is not there',
      () => ['run', 'nothing', '--out', at('x')],
      /no run sheet nothing.*lidar-to-contours/,
    ],
    ['a damaged sheet', () => ['run', at('checks.csv'), '--out', at('x')], /is not JSON/],
    [
      'a sheet of a newer version',
      () => ['run', at('newer.json'), '--out', at('x')],
      /version: It was written by a newer/,
    ],
    [
      'a place left out',
      () => ['run', at('sheet.json'), '--in', at('field.las'), '--out', at('x')],
      /needs “Check points”: give it with --checks/,
    ],
    [
      'a file that is not there',
      () => ['run', at('sheet.json'), '--in', at('no.las'), '--out', at('x')],
      /There is no file/,
    ],
    [
      'a word for a code',
      () => [
        'run',
        at('sheet.json'),
        '--in',
        at('field.las'),
        '--checks',
        at('checks.csv'),
        '--crs',
        'utm',
        '--out',
        at('x'),
      ],
      /--crs takes an EPSG code/,
    ],
    [
      'a gate that is none',
      () => [
        'run',
        at('sheet.json'),
        '--in',
        at('field.las'),
        '--checks',
        at('checks.csv'),
        '--accept',
        'a=b',
        '--out',
        at('x'),
      ],
      /no gate “a”. Its gates: good/,
    ],
    ['an option that is none', () => ['run', at('sheet.json'), '--fast', '--out', at('x')], /unknown option/],
    ['no job file', () => ['export', at('field.las')], /is no job file/],
  ])('%s is refused with 2, in words', async (_name, args, expected) => {
    await writeFile(at('newer.json'), JSON.stringify({ ...sheet, version: 9 }));
    const { code, err } = await pampero(...args());
    expect(err).toMatch(expected);
    expect(err).not.toContain('at file:');
    expect(code).toBe(2);
  });

  test('exports what is named, lists what there is, and finds damage', async () => {
    const jobs = (await readdir(join(at('first'), 'job'))).filter((name) => name.endsWith('.pampero'));
    const job = join(at('first'), 'job', jobs[0]!);
    const list = await pampero('export', job, '--list');
    expect(list.out).toMatch(/surface \d+ {2}Ground {2}\(landxml, dxf, ply, glb, glb-picture\)/);
    const one = await pampero('export', job, '--what', 'Ground', '--form', 'ply', '--out', at('one'));
    expect(one, one.err).toMatchObject({ code: 0 });
    expect(await readdir(at('one'))).toContain('Ground.ply');
    expect(await pampero('export', job, '--what', 'Nothing')).toMatchObject({ code: 2 });
    const cad = await pampero('export', job, '--for', 'cad', '--out', at('cad'));
    expect(cad, cad.err).toMatchObject({ code: 0 });
    expect((await readdir(at('cad'))).sort()).toEqual(
      [
        'Accuracy of Ground.pdf',
        'Contours 0.2 m.dxf',
        'Ground.xml',
        'README.txt',
        'SHA256SUMS.txt',
        'metadata.xml',
      ].sort(),
    );
    await writeFile(join(at('cad'), 'Ground.xml'), 'changed');
    const changed = await pampero('check', at('cad'));
    expect(changed).toMatchObject({ code: 4 });
    expect(changed.out).toContain('Ground.xml was changed since it was handed over');
    const bytes = await readFile(job);
    await writeFile(at('cut.pampero'), bytes.subarray(0, Math.floor(bytes.length / 2)));
    const cut = await pampero('check', at('cut.pampero'));
    expect(cut.code).not.toBe(0);
    expect(cut.err).toMatch(/damaged/);
  });

  test('says what a file holds, as text and as JSON', async () => {
    const { out } = await pampero('info', at('field.las'));
    expect(out).toMatch(/Points +10.800/);
    expect(out).toContain('EPSG:5347');
    const json = JSON.parse((await pampero('info', at('field.las'), '--json')).out) as { pointCount: number }[];
    expect(json[0]!.pointCount).toBe(10_800);
  });

  test('completes commands and options in bash', async () => {
    const script = `eval "$(${process.execPath} ${bin} completion)"; COMP_WORDS=(pampero ru); COMP_CWORD=1; _pampero; echo "\${COMPREPLY[@]}"; COMP_WORDS=(pampero run x --ac); COMP_CWORD=3; _pampero; echo "\${COMPREPLY[@]}"`;
    const { stdout } = await call('bash', ['-c', script]);
    expect(stdout.trim().split('\n')).toEqual(['run', '--accept']);
  });
});
