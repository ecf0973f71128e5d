import { writeTrajectory } from '@pampero/core/formats/trajectory';
import { toDegrees } from '@pampero/core/strips';
import { farm, FLIGHT_ERRORS, flyRaw, pnezd, surveyedPoints, writeScan, type RawFlight } from '@pampero/demo';
import type { Run } from '@pampero/contract';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { testServer, type TestServer } from './server.fixture.js';
import { spawnedServer } from './spawned-server.fixture.js';

const text = (pieces: Iterable<string>): Uint8Array => new TextEncoder().encode([...pieces].join(''));
const scene = farm(3);
const raw: RawFlight = flyRaw(
  { ...scene, flight: { ...scene.flight, lineSpacing: 1, pointSpacing: 0.8 } },
  41,
  FLIGHT_ERRORS,
);
const [leverForward, leverRight, leverDown] = raw.sensor.leverArm;
const lever = { leverForward, leverRight, leverDown };

let on: TestServer;
let jobId: string;
let trajectory: number;
const cloud = 1;

const start = async (id: string, given: Record<string, unknown>): Promise<Run> =>
  on.api.ended(jobId, await on.api.call('startOperation', `/jobs/${jobId}/operations/${id}`, { body: given }));
const take = async (
  id: string,
  bytes: Uint8Array,
  fileName: string,
  given: Record<string, unknown> = {},
): Promise<Run> => on.api.ended(jobId, await on.api.startFromFile(jobId, id as never, bytes, fileName, given));
const shown = async () => (await on.api.read(jobId)).clouds.find(({ id }) => id === cloud)!.positions;

beforeAll(async () => {
  on = await testServer();
  ({ id: jobId } = await on.api.newJob('Align'));
  const { control, check } = surveyedPoints(12);
  await take('import-control', text([pnezd(control)]), 'control.csv', { role: 'control' });
  await take('import-control', text([pnezd(check)]), 'check.csv', { role: 'check' });
  const imported = await take('import-trajectory', text(writeTrajectory(raw.trajectory)), 'flight.csv');
  expect(imported.state, imported.outcome).toBe('done');
  trajectory = imported.productId!;
  const made = await take('georeference-scan', text(writeScan(raw)), 'scan.csv', { trajectory, ...lever });
  expect(made.state, made.outcome).toBe('done');
}, 240_000);
afterAll(() => on.stop());

test('the trajectory is looked over, and leaves as it came', async () => {
  const product = await on.api.newest(jobId, 'trajectory');
  expect(product.facts).toMatchObject({ clock: 'adjusted', gaps: [], jumps: [], remarks: [], hasAccuracies: true });
  expect(product.facts.rate).toBeCloseTo(100, 1);
  const lines = (await on.api.file(jobId, product.id, 'csv')).toString().trim().split('\n');
  expect(lines.length - 1).toBe(raw.trajectory.time.length);
  const [time, east] = lines[1]!.split(',').map(Number);
  expect([time, east]).toEqual([
    expect.closeTo(raw.trajectory.time[0]!, 5),
    expect.closeTo(raw.trajectory.east[0]!, 3),
  ]);
});

test('the raw scan became a cloud with every beam, its returns, strips and how sure it is of each point', async () => {
  const [made] = (await on.api.read(jobId)).clouds;
  expect(made!.pointCount).toBe(raw.count);
  expect(made!.source.strips).toEqual([1, 2, 3, 4, 5]);
  expect(made!.columns).toMatchObject({ gpsTime: true, extraBytesLength: 8 });
});

describe('from what is wrong to what can be signed for', () => {
  test('strips by point source ID, by gaps and by straight runs are the same five', async () => {
    for (const by of ['source', 'gaps', 'straight']) {
      const run = await start('find-strips', { cloud, by, trajectory });
      expect(run.state, run.outcome).toBe('done');
      const { facts } = await on.api.newest(jobId, 'strips');
      expect(facts.strips).toHaveLength(5);
      facts.strips.forEach((strip, k) => {
        expect(Math.abs(strip.from! - raw.spans[k]!.from)).toBeLessThan(6);
        expect(Math.abs(strip.to! - raw.spans[k]!.to)).toBeLessThan(6);
        expect(strip.speed).toBeCloseTo(8, 0);
      });
      expect(facts.strips[0]!.heading).toBeCloseTo(90, -0.5);
    }
    const run = await start('find-strips', { cloud, merge: '1+2', rename: '5 = across', leaveOut: '3' });
    expect(run.state, run.outcome).toBe('done');
    const { facts } = await on.api.newest(jobId, 'strips');
    expect(facts.strips.map(({ name }) => name)).toEqual(['1', '1', '3', '4', 'across']);
    expect(facts.strips.map(({ isLeftOut }) => isLeftOut)).toEqual([false, false, true, false, false]);
  });

  test('the differences are seen, and held against the standard', async () => {
    const run = await start('compare-strips', { cloud });
    expect(run.state, run.outcome).toBe('done');
    const { facts } = await on.api.newest(jobId, 'strip-differences');
    expect(facts.agreement.all.rmsd).toBeGreaterThan(0.08);
    // ASPRS 2014, relative accuracy of the 10 cm class: 6, 8 and 16 cm.
    expect(facts.limits).toEqual({
      within: expect.closeTo(0.06, 9),
      between: expect.closeTo(0.08, 9),
      largest: expect.closeTo(0.16, 9),
    });
    expect(facts.within).toBeLessThan(0.03);
    expect(facts.agreement.histogram.bins.reduce((a, b) => a + b, 0)).toBe(facts.agreement.all.count);
    const csv = (await on.api.file(jobId, run.productId, 'csv')).toString();
    expect(csv).toContain('5 less 1');
    expect((await on.api.file(jobId, run.productId, 'tif')).subarray(0, 2).toString()).toBe('II');
  });

  let adjustment: number;
  test('boresight and heights are found again; check points judge it', async () => {
    const run = await start('adjust-strips', { cloud, ...lever });
    expect(run.state, run.outcome).toBe('done');
    adjustment = run.productId!;
    const { facts } = await on.api.newest(jobId, 'adjustment');
    expect(facts.trajectoryId).toBe(trajectory);
    const of = (label: string) => facts.unknowns.find((unknown) => unknown.label === label)!;
    const wrong = FLIGHT_ERRORS.boresight!.map(toDegrees);
    expect(Math.abs(of('Boresight, roll').value - wrong[0]!)).toBeLessThan(0.003);
    expect(Math.abs(of('Boresight, pitch').value - wrong[1]!)).toBeLessThan(0.006);
    expect(Math.abs(of('Boresight, heading').value - wrong[2]!)).toBeLessThan(0.012);
    expect(facts.after.all.rmsd).toBeLessThan(1.8 * facts.expected);
    const kept = facts.control.filter(({ isKeptOut }) => isKeptOut).map(({ after }) => after);
    expect(kept.length).toBeGreaterThan(15);
    expect(Math.sqrt(kept.reduce((sum, v) => sum + v * v, 0) / kept.length)).toBeLessThan(0.03);
    expect((await on.api.file(jobId, adjustment, 'pdf')).subarray(0, 5).toString()).toBe('%PDF-');
    expect((await on.api.file(jobId, adjustment, 'csv')).toString()).toContain('Boresight, roll');
    const json = JSON.parse((await on.api.file(jobId, adjustment, 'json')).toString()) as { boresight: number[] };
    expect(toDegrees(json.boresight[0]!)).toBeCloseTo(wrong[0]!, 2);
    // Nothing has moved.
    expect((await shown()).shown).toBe(0);
  });

  test('applied, the strips agree; what was made before is stale; undo and redo go back and forth', async () => {
    const classed = await start('set-class', {
      selection: [
        {
          how: 'add',
          shape: { kind: 'range', attribute: 'strip', from: 5, to: 5 },
          visible: { hiddenClasses: [], withWithheld: true },
        },
      ],
      classCode: 2,
    });
    expect(classed.state, classed.outcome).toBe('done');
    const ground = (await on.api.read(jobId)).clouds[0]!.classCounts['2'];
    const applied = await start('apply-adjustment', { adjustment });
    expect(applied.state, applied.outcome).toBe('done');
    const after = await on.api.read(jobId);
    // Classes stay on the points.
    expect(after.clouds[0]!.classCounts['2']).toBe(ground);
    expect(after.products.find(({ kind }) => kind === 'strip-differences')!.isStale).toBe(true);
    expect(after.products.find(({ kind }) => kind === 'adjustment')!.isStale).toBe(false);
    const compared = await start('compare-strips', { cloud });
    expect(compared.state, compared.outcome).toBe('done');
    expect((await on.api.newest(jobId, 'strip-differences')).facts.agreement.all.rmsd).toBeLessThan(0.015);
    const again = await start('apply-adjustment', { adjustment });
    expect([again.state, again.outcome]).toEqual(['failed', expect.stringContaining('other positions')]);
    await on.api.call('undo', `/jobs/${jobId}/undo`); // the comparison
    await on.api.call('undo', `/jobs/${jobId}/undo`); // the corrections
    expect((await shown()).shown).toBe(0);
    await on.api.call('redo', `/jobs/${jobId}/redo`);
    expect((await shown()).shown).toBe(1);
  });

  test('either positions are shown and told apart by their bytes; bounds follow', async () => {
    const nodes = async () => (await on.api.call('listNodes', `/jobs/${jobId}/clouds/${cloud}/nodes`)).nodes;
    const corrected = (await nodes())[0]!;
    expect(corrected.positions).toBe(1);
    const bytes = async (set: number): Promise<Buffer> =>
      Buffer.from((await on.api.raw(`/jobs/${jobId}/nodes/${corrected.id}/geometry?positions=${set}`)).body);
    expect((await bytes(0)).equals(await bytes(1))).toBe(false);
    expect((await start('choose-positions', { cloud, positions: 0 })).state).toBe('done');
    const first = (await nodes())[0]!;
    expect([first.id, first.positions]).toEqual([corrected.id, 0]);
    const z = new Int32Array(new Uint8Array(await bytes(0)).buffer).subarray(2 * first.count);
    expect([Math.min(...z), Math.max(...z)]).toEqual([first.min[2], first.max[2]]);
    await start('choose-positions', { cloud, positions: 1 });
    const none = await start('choose-positions', { cloud, positions: 77 });
    expect([none.state, none.outcome]).toEqual(['failed', expect.stringContaining('no positions 77')]);
  });

  test('fit to control, overlap and smoothing: each says what it did, and is undone', async () => {
    const fitted = await start('fit-to-control', { cloud, method: 'tilt' });
    expect(fitted.outcome).toMatch(/fitted to \d control points by a tilted plane: RMSEz/);
    const flagged = await start('flag-overlap', { cloud });
    expect(flagged.outcome).toMatch(/points of .* are overlap/);
    expect(flagged.state).toBe('done');
    const smoothed = await start('smooth-surfaces', { cloud });
    expect(smoothed.state, smoothed.outcome).toBe('done');
    for (let k = 0; k < 3; k++) await on.api.call('undo', `/jobs/${jobId}/undo`);
    expect((await shown()).shown).toBe(1);
  });
});

describe('what cannot be is told in words, and nothing moves', () => {
  const refused = async (run: Promise<Run>): Promise<string> => {
    const { state, outcome } = await run;
    expect(state).toBe('failed');
    return outcome ?? '';
  };
  const headed = 'time,east,north,height,roll,pitch,heading\n';
  const row = (time: number, heading = 90, roll = 0): string => `${time},5512000,6150000,100,${roll},0,${heading}\n`;
  const notTaken = async (body: string, given: Record<string, unknown> = {}): Promise<string> => {
    const query = `?fileName=odd.csv&parameters=${encodeURIComponent(JSON.stringify(given))}`;
    const answer = await on.api.raw(`/jobs/${jobId}/operations/import-trajectory/file${query}`, {
      method: 'POST',
      body,
      headers: { 'content-type': 'application/octet-stream' },
    });
    expect(answer.status).toBe(422);
    return String(answer.json()['detail']);
  };

  test('a trajectory of another day', async () => {
    const run = await take('import-trajectory', text([headed, row(100), row(100.01), row(100.02)]), 'other.csv', {
      week: 2300,
    });
    expect(run.state, run.outcome).toBe('done');
    expect(await refused(start('adjust-strips', { cloud, trajectory: run.productId }))).toMatch(/do not meet/);
  });

  test('seconds of a week without the week', async () => {
    const run = await take('import-trajectory', text([headed, row(100), row(100.01), row(100.02)]), 'week.csv');
    expect((await on.api.newest(jobId, 'trajectory')).facts.remarks.join(' ')).toMatch(/seconds of a week/);
    expect(await refused(start('adjust-strips', { cloud, trajectory: run.productId }))).toMatch(
      /the week is not known/,
    );
  });

  test('degrees taken for radians, one time twice, columns that are missing or unknown', async () => {
    expect(await notTaken(headed + row(1, 90, 5) + row(2, 90, 5) + row(3), { angles: 'radians' })).toMatch(
      /may be degrees/,
    );
    expect(await notTaken(headed + row(1) + '1,5512900,6150000,100,0,0,90\n' + row(3))).toMatch(/have the same time/);
    expect(await notTaken('time,east,north,height\n1,2,3,4\n2,3,4,5\n3,4,5,6\n')).toMatch(/No column holds the roll/);
    expect(await notTaken('1,2,3,4\n2,3,4,5\n3,4,5,6\n')).toMatch(/no headings/);
    expect(await notTaken('1,2,3\n2,3,4\n', { columns: 'time, west, up' })).toMatch(/“west” is no column/);
    expect(await notTaken('neither\nnumbers\nnor anything\n')).toMatch(/No line looks like a record/);
  });

  test('a cloud of one strip, and strips of another cloud', async () => {
    const one = await start('find-strips', { cloud, merge: '1+2+3+4+5' });
    expect(await refused(start('compare-strips', { cloud, strips: one.productId }))).toMatch(/one strip only/);
    const odd = await start('find-strips', { cloud, merge: '1+9' });
    expect([odd.state, odd.outcome]).toEqual(['failed', expect.stringContaining('There is no strip “9”')]);
  });

  test('nothing of it moved the cloud', async () => {
    expect((await shown()).shown).toBe(1);
  });
});

test(
  'killed while points are moved: the old positions stand, and nothing half is kept',
  { timeout: 120_000 },
  async () => {
    const server = await spawnedServer();
    try {
      const { api, data } = server;
      const { id } = await api.newJob('Kill');
      const done = async (started: Promise<Run>): Promise<Run> => api.ended(id, await started);
      const way = await done(
        api.startFromFile(id, 'import-trajectory', text(writeTrajectory(raw.trajectory)), 'way.csv'),
      );
      await done(
        api.startFromFile(id, 'georeference-scan', text(writeScan(raw)), 'scan.csv', {
          trajectory: way.productId,
          ...lever,
        }),
      );
      const adjusted = await done(
        api.call('startOperation', `/jobs/${id}/operations/adjust-strips`, { body: { cloud: 1 } }),
      );
      expect(adjusted.state, adjusted.outcome).toBe('done');
      let killed = server;
      for (const wait of [20, 250]) {
        const { api: now } = killed;
        await now.call('startOperation', `/jobs/${id}/operations/apply-adjustment`, {
          body: { adjustment: adjusted.productId },
        });
        await new Promise((resolve) => setTimeout(resolve, wait));
        await killed.kill();
        killed = await spawnedServer({}, { data });
        const { clouds, history } = await killed.api.read(id);
        const [entry] = history.entries;
        // Quicker than the kill, all of it is there; else nothing.
        const isDone = entry!.state === 'done' && entry!.operation === 'apply-adjustment';
        expect(clouds[0]!.positions.sets).toHaveLength(isDone ? 1 : 0);
        expect(clouds[0]!.positions.shown).toBe(isDone ? clouds[0]!.positions.sets[0]!.id : 0);
        if (isDone) await killed.api.call('undo', `/jobs/${id}/undo`);
      }
      await killed.stop();
    } finally {
      await server.stop();
    }
  },
);
