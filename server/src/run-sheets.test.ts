import { RUN_SHEET_FORMAT, type RunSheetInput, type SheetRun } from '@pampero/contract';
import { writePhotographCloud } from '@pampero/demo';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { fieldWithShed, lasBytes, testServer, type TestServer } from './server.fixture.js';
import { spawnedServer, type SpawnedServer } from './spawned-server.fixture.js';
import { writeFile, mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

let server: TestServer;
let folder: string;

/** The field is z = 30 + 0.02 e + 0.01 n + up to 1 cm. */
const checks = [
  [10, 10],
  [50, 12],
  [12, 48],
  [50, 50],
  [15, 30],
]
  .map(
    ([e, n], k) => `C${k + 1},${6_150_000 + n!},${5_512_000 + e!},${(30.005 + e! * 0.02 + n! * 0.01).toFixed(3)},GND`,
  )
  .join('\n');

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'pampero-sheets-'));
  await writeFile(join(folder, 'field.las'), await lasBytes(fieldWithShed()));
  await writeFile(join(folder, 'field-2.las'), await lasBytes(fieldWithShed()));
  await writeFile(join(folder, 'checks.csv'), checks);
  server = await testServer({ folder });
});
afterAll(async () => {
  await server.stop();
  await rm(folder, { recursive: true, force: true });
});

const files = (...names: string[]) => ({ files: names.map((folderPath) => ({ folderPath })) });

function sheetWith(limit: string, more: Partial<RunSheetInput> = {}): RunSheetInput {
  return {
    format: RUN_SHEET_FORMAT,
    version: 1,
    name: 'Field to contours',
    places: [
      { key: 'lidar', label: 'Lidar', kind: 'files' },
      { key: 'checks', label: 'Check points', kind: 'files' },
    ],
    steps: [
      { kind: 'work', key: 'import', operation: 'import-cloud', file: 'lidar' },
      {
        kind: 'work',
        key: 'check-points',
        operation: 'import-control',
        file: 'checks',
        parameters: { role: 'check', order: 'PNEZD' },
      },
      {
        kind: 'work',
        key: 'ground',
        operation: 'find-ground',
        each: 'import',
        isProposed: true,
        parameters: { clouds: [{ from: 'import' }] },
      },
      {
        kind: 'work',
        key: 'surface',
        operation: 'build-surface',
        parameters: { clouds: [{ from: 'import' }], thinCell: { spacings: 2 } },
      },
      { kind: 'work', key: 'accuracy', operation: 'state-accuracy', parameters: { surfaceId: { from: 'surface' } } },
      { kind: 'gate', key: 'good', gate: { rule: 'figure', of: 'accuracy', figure: 'RMSEz', must: 'at-most', limit } },
      {
        kind: 'work',
        key: 'contours',
        operation: 'draw-contours',
        parameters: { surfaceId: { from: 'surface' }, interval: '10 cm' },
      },
    ],
    outputs: [{ of: 'contours', format: 'dxf' }],
    ...more,
  };
}

async function settled(jobId: string, run: SheetRun): Promise<SheetRun> {
  for (;;) {
    const now = await server.api.call('readSheetRun', `/jobs/${jobId}/sheet-runs/${run.id}`);
    if (now.state !== 'running') return now;
    await new Promise((resolve) => setTimeout(resolve, 10));
  }
}
const begin = (jobId: string, sheet: unknown, places: unknown): Promise<SheetRun> =>
  server.api.call('startSheetRun', `/jobs/${jobId}/sheet-runs`, { body: { sheet, places } });
const states = (run: SheetRun): string[] => run.steps.map(({ key, state }) => `${key} ${state}`);

describe('a run sheet', () => {
  test('goes from files to contours, each step in the field book, each undoable', async () => {
    const { id } = await server.api.newJob('Run');
    const run = await settled(
      id,
      await begin(id, sheetWith('5 cm'), { lidar: files('field.las'), checks: files('checks.csv') }),
    );
    expect(run.because).toBeUndefined();
    expect(states(run)).toEqual([
      'import done',
      'check-points done',
      'ground done',
      'surface done',
      'accuracy done',
      'good done',
      'contours done',
    ]);
    const { products, history } = await server.api.read(id);
    expect(products.map(({ kind }) => kind).sort()).toEqual(['accuracy', 'contours', 'surface']);
    expect(history.entries.map(({ operation }) => operation)).toEqual([
      'draw-contours',
      'state-accuracy',
      'build-surface',
      'find-ground',
      'import-control',
      'import-cloud',
    ]);
    // Two spacings of three points a square metre are 1.15 m, rounded as one would type them; 10 cm stay 10 cm.
    expect(history.entries[2]!.parameters['thinCell']).toBe(1.2);
    expect(history.entries[0]!.parameters['interval']).toBe(0.1);
    expect(run.outputs).toEqual([
      { kind: 'product', id: products.find((p) => p.kind === 'contours')!.id, format: 'dxf' },
    ]);
    for (let k = 0; k < 6; k++) await server.api.undo(id);
    expect((await server.api.read(id)).clouds).toEqual([]);
  });

  test('stops at a gate that does not hold, says why, and goes on when it is accepted with a reason', async () => {
    const { id } = await server.api.newJob('Gate');
    const places = { lidar: files('field.las'), checks: files('checks.csv') };
    const run = await settled(id, await begin(id, sheetWith('0.1 mm'), places));
    expect(run.state).toBe('waiting');
    expect(run.because).toMatch(/RMSEz is 0\.0\d+ m.*at most 0\.1 mm/);
    expect(states(run).at(-1)).toBe('contours to-do');
    const { status, json } = await server.api.raw(`/jobs/${id}/sheet-runs/${run.id}/accept`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ step: 'good', reason: '' }),
    });
    expect(status).toBe(400);
    expect(String(json()['detail'])).toContain('Write why');
    await server.api.call('acceptSheetStep', `/jobs/${id}/sheet-runs/${run.id}/accept`, {
      body: { step: 'good', reason: 'The limit is a test.' },
    });
    const after = await settled(id, run);
    expect(after.state).toBe('done');
    expect(after.steps.find(({ key }) => key === 'good')).toMatchObject({
      state: 'accepted',
      reason: 'The limit is a test.',
    });
  });

  test('does a step once for each file and for each cloud', async () => {
    const { id } = await server.api.newJob('Two files');
    const places = { lidar: files('field.las', 'field-2.las'), checks: files('checks.csv') };
    const run = await settled(id, await begin(id, sheetWith('5 cm'), places));
    expect(run.state, run.because).toBe('done');
    expect(states(run).slice(0, 5)).toEqual([
      'import done',
      'import#2 done',
      'check-points done',
      'ground done',
      'ground#2 done',
    ]);
    const { clouds, history } = await server.api.read(id);
    expect(clouds).toHaveLength(2);
    const grounds = history.entries
      .filter(({ operation }) => operation === 'find-ground')
      .map((e) => e.parameters['clouds']);
    expect(grounds).toEqual([[clouds[1]!.id], [clouds[0]!.id]].reverse().sort().reverse());
    expect(history.entries.find(({ operation }) => operation === 'build-surface')!.parameters['clouds']).toEqual(
      clouds.map((cloud) => cloud.id).sort(),
    );
  });

  test('a step that fails stops the run with its reason; mended, it goes on there', async () => {
    const { id } = await server.api.newJob('Fails');
    const sheet = sheetWith('5 cm');
    const [first, , ...others] = sheet.steps!;
    const withoutChecks = { ...sheet, places: [sheet.places![0]!], steps: [first!, ...others] };
    const run = await settled(id, await begin(id, withoutChecks, { lidar: files('field.las') }));
    expect(run.state).toBe('stopped');
    expect(run.because).toMatch(/State accuracy: .*no check points/);
    await server.api.fromFile(id, 'import-control', checks, 'checks.csv', { role: 'check' });
    await server.api.call('goOnWithSheetRun', `/jobs/${id}/sheet-runs/${run.id}/go-on`);
    const after = await settled(id, run);
    expect(after.state, after.because).toBe('done');
    const { history } = await server.api.read(id);
    expect(
      history.entries.filter(({ operation, state }) => operation === 'import-cloud' && state === 'done'),
    ).toHaveLength(1);
  });

  test('is made of steps of the field book, with rules in the place of numbers and lengths with their unit', async () => {
    const { id } = await server.api.newJob('By hand');
    await server.api.import(id, await lasBytes(fieldWithShed()));
    const { clouds } = await server.api.read(id);
    await server.api.operate(id, 'find-ground', { clouds: [clouds[0]!.id], cell: 0.8 });
    await server.api.operate(id, 'build-surface', { clouds: [clouds[0]!.id] });
    const made = await server.api.newest(id, 'surface');
    await server.api.operate(id, 'draw-contours', { surfaceId: made.id, interval: 0.1 });
    const { history } = await server.api.read(id);
    const all = history.entries.map((entry) => entry.id);
    const { sheet, leftOut } = await server.api.call('sheetFromHistory', `/jobs/${id}/run-sheet`, {
      body: { name: 'As done', entries: all },
    });
    expect(leftOut).toEqual([]);
    expect(sheet!.steps.map((step) => step.key)).toEqual([
      'import-cloud',
      'find-ground',
      'build-surface',
      'draw-contours',
    ]);
    expect(sheet!.steps[1]).toMatchObject({ parameters: { clouds: [{ from: 'import-cloud' }], cell: '0.8 m' } });
    expect(sheet!.steps[3]).toMatchObject({ parameters: { surfaceId: { from: 'build-surface' }, interval: '0.1 m' } });
    const other = await server.api.newJob('Again');
    const run = await settled(other.id, await begin(other.id, sheet, { 'cloud-files': files('field.las') }));
    expect(run.state, run.because).toBe('done');
    const again = await server.api.newest(other.id, 'contours');
    const before = await server.api.newest(id, 'contours');
    expect(again.facts).toEqual(before.facts);
    // Contours alone: the surface they hang on is not among the steps.
    const alone = await server.api.call('sheetFromHistory', `/jobs/${id}/run-sheet`, {
      body: { name: 'Alone', entries: [all[0]!] },
    });
    expect(alone.sheet).toBeUndefined();
    expect(alone.leftOut[0]!.because).toContain('no step before it makes');
  });

  test('is kept, changed and removed; those that came with Pampero stay', async () => {
    const kept = await server.api.call('keepRunSheet', '/run-sheets', { body: { sheet: sheetWith('5 cm') } });
    expect(kept.isShipped).toBe(false);
    const changed = await server.api.call('changeRunSheet', `/run-sheets/${kept.id}`, {
      body: { sheet: { ...kept.sheet, name: 'Field, changed' } },
    });
    expect(changed.sheet.name).toBe('Field, changed');
    await writeFile(join(server.data, 'run-sheets', 'broken.json'), '{');
    const { sheets, unreadable } = await server.api.call('listRunSheets', '/run-sheets');
    expect(sheets.filter((each) => each.isShipped).map((each) => each.id)).toEqual([
      'lidar-to-contours',
      'photographs-to-contours',
      'square-to-contours',
    ]);
    expect(unreadable).toEqual([{ fileName: 'broken.json', what: 'It is not JSON.' }]);
    await server.api.call('removeRunSheet', `/run-sheets/${kept.id}`);
    expect((await server.api.raw(`/run-sheets/${kept.id}`)).status).toBe(404);
    expect((await server.api.raw('/run-sheets/lidar-to-contours', { method: 'DELETE' })).status).toBe(404);
    expect((await server.api.raw('/run-sheets/..%2Fx')).status).toBe(400);
  });

  test.each<[string, (sheet: RunSheetInput) => unknown, RegExp]>([
    ['of a newer version', (sheet) => ({ ...sheet, version: 7 }), /version: It was written by a newer Pampero/],
    ['of another kind', () => ({ anything: 1 }), /format/],
    ['that is no object', () => 'lidar', /object/],
    [
      'with an unknown operation',
      (s) => ({ ...s, steps: [{ kind: 'work', key: 'a', operation: 'fly' }] }),
      /steps\[0\]\.operation: There is no operation “fly”/,
    ],
    [
      'with a parameter that is gone',
      (s) => ({
        ...s,
        steps: [s.steps![0], { ...s.steps![2], parameters: { clouds: [{ from: 'import' }], colour: 1 } }],
        outputs: [],
      }),
      /steps\[1\]\.parameters\.colour/,
    ],
    [
      'with a value out of range',
      (s) => ({
        ...s,
        steps: [s.steps![0], { ...s.steps![2], parameters: { clouds: [{ from: 'import' }], tolerance: '80 m' } }],
        outputs: [],
      }),
      /tolerance.*cannot be over/,
    ],
    ['that points forward', (s) => ({ ...s, steps: [...s.steps!].reverse(), outputs: [] }), /no earlier step/],
    [
      'without the surface',
      (s) => ({ ...s, steps: [{ kind: 'work', key: 'a', operation: 'draw-contours', parameters: {} }], outputs: [] }),
      /surfaceId: Choose a surface/,
    ],
    ['with two steps of a key', (s) => ({ ...s, steps: [s.steps![0], s.steps![0]], outputs: [] }), /taken by another/],
    ['with an output nobody makes', (s) => ({ ...s, outputs: [{ of: 'nobody', format: 'dxf' }] }), /outputs\[0\]\.of/],
  ])('%s is refused with the field named, and nothing begins', async (_name, change, expected) => {
    const { id } = await server.api.newJob('Refused');
    const { status, json } = await server.api.raw(`/jobs/${id}/sheet-runs`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ sheet: change(sheetWith('5 cm')), places: {} }),
    });
    expect(status).toBe(400);
    expect(String(json()['detail'])).toMatch(expected);
    expect((await server.api.read(id)).history.entries).toEqual([]);
  });

  test('a place that is not filled, a file that is not there, and a second run are refused', async () => {
    const { id } = await server.api.newJob('Places');
    const tell = async (places: unknown): Promise<string> =>
      String(
        (
          await server.api.raw(`/jobs/${id}/sheet-runs`, {
            method: 'POST',
            headers: { 'content-type': 'application/json' },
            body: JSON.stringify({ sheet: sheetWith('0.1 mm'), places }),
          })
        ).json()['detail'],
      );
    expect(await tell({ lidar: files('field.las') })).toContain('Nothing was given for “Check points”');
    expect(await tell({ lidar: files('gone.las'), checks: files('checks.csv') })).toContain('gone.las');
    expect(await tell({ lidar: { clouds: [1] }, checks: files('checks.csv') })).toContain(
      '“Lidar” takes one file or more',
    );
    const places = { lidar: files('field.las'), checks: files('checks.csv') };
    const run = await settled(id, await begin(id, sheetWith('0.1 mm'), places));
    expect(await tell(places)).toContain('is not at its end in this job');
    const ended = await server.api.call('cancelSheetRun', `/jobs/${id}/sheet-runs/${run.id}`);
    expect(ended.state).toBe('cancelled');
    expect((await server.api.read(id)).products).toHaveLength(2);
  });
});

describe('the run sheets that come with Pampero', () => {
  test('photographs: from a dense cloud to contours and spot points, with a look between', async () => {
    await writePhotographCloud(join(folder, 'dense.ply'), 5, { east: 130, north: 110 });
    const { id } = await server.api.newJob('Photographs');
    const { sheet } = await server.api.call('readRunSheet', '/run-sheets/photographs-to-contours');
    const run = await settled(id, await begin(id, sheet, { dense: files('dense.ply') }));
    expect(run.because).toContain('Is the ground right');
    expect(run.state).toBe('waiting');
    await server.api.call('acceptSheetStep', `/jobs/${id}/sheet-runs/${run.id}/accept`, {
      body: { step: 'look', reason: 'Three sections looked at.' },
    });
    const after = await settled(id, run);
    expect(after.state, after.because).toBe('done');
    const { clouds, products } = await server.api.read(id);
    expect(products.map(({ kind }) => kind)).toEqual(expect.arrayContaining(['surface', 'contours', 'spots']));
    // Worked on thinned, carried back to all points; the noise that was found before stays noise.
    const [dense, thinned] = clouds;
    expect(thinned!.pointCount).toBeLessThan(dense!.pointCount / 3);
    expect(dense!.classCounts['2']).toBeGreaterThan(dense!.pointCount / 2);
    const unreliable = Number(/^([\d\s\u2009]+) points/.exec(after.steps.find(({ key }) => key === 'unreliable')!.outcome)?.[1]?.replace(/\D/g, '') ?? 0); // prettier-ignore
    expect(dense!.classCounts['7'] ?? 0).toBeGreaterThanOrEqual(unreliable);
  });
});

describe('a server that is killed while a sheet runs', () => {
  test('goes on at the first step that is not done when it is started again, by itself', async () => {
    const first = await spawnedServer({ PAMPERO_FOLDER: folder });
    let again: SpawnedServer | undefined;
    try {
      const { id } = await first.api.newJob('Killed');
      const run = await first.api.call('startSheetRun', `/jobs/${id}/sheet-runs`, {
        body: { sheet: sheetWith('5 cm'), places: { lidar: files('field.las'), checks: files('checks.csv') } },
      });
      for (;;) {
        const now = await first.api.call('readSheetRun', `/jobs/${id}/sheet-runs/${run.id}`);
        if (now.steps.filter(({ state }) => state === 'done').length >= 2) break;
        await new Promise((resolve) => setTimeout(resolve, 5));
      }
      await first.kill();
      again = await spawnedServer({ PAMPERO_FOLDER: folder }, { data: first.data });
      let now: SheetRun;
      do {
        await new Promise((resolve) => setTimeout(resolve, 30));
        now = await again.api.call('readSheetRun', `/jobs/${id}/sheet-runs/${run.id}`);
      } while (now.state === 'running');
      expect(now.state, now.because).toBe('done');
      const { history, products } = await again.api.read(id);
      const done = history.entries.filter(({ state }) => state === 'done').map(({ operation }) => operation);
      expect(done).toHaveLength(6); // each once
      expect(products).toHaveLength(3);
    } finally {
      await again?.kill();
      await first.stop();
    }
  });
});
