import { unpackArrays } from '@pampero/core/binary';
import { writeTrajectory } from '@pampero/core/formats/trajectory';
import { toDegrees } from '@pampero/core/strips';
import { farm, FLIGHT_ERRORS, flyRaw, pnezd, surveyedPoints, writeScan } from '@pampero/demo';
import { readSensorFile, settingsOfSensor, type Run } from '@pampero/contract';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { scanAsLas } from './scan-as-las.fixture.js';
import { testServer, type TestServer } from './server.fixture.js';

const text = (pieces: Iterable<string>): Uint8Array => new TextEncoder().encode([...pieces].join(''));
const scene = farm(3);
const raw = flyRaw({ ...scene, flight: { ...scene.flight, lineSpacing: 1.4, pointSpacing: 1.1 } }, 43, {
  ...FLIGHT_ERRORS,
  heightDrift: 0,
});
const [leverForward, leverRight, leverDown] = raw.sensor.leverArm;
const lever = { leverForward, leverRight, leverDown };

let on: TestServer;
let jobId: string;
let trajectory: number;
const start = async (id: string, given: Record<string, unknown>): Promise<Run> =>
  on.api.ended(jobId, await on.api.call('startOperation', `/jobs/${jobId}/operations/${id}`, { body: given }));
const take = async (
  id: string,
  bytes: Uint8Array,
  fileName: string,
  given: Record<string, unknown> = {},
): Promise<Run> => on.api.ended(jobId, await on.api.startFromFile(jobId, id as never, bytes, fileName, given));
const cloudNamed = async (name: string) => (await on.api.read(jobId)).clouds.find((cloud) => cloud.name === name)!;
const done = async (run: Promise<Run>): Promise<Run> => {
  const ended = await run;
  expect(ended.state, ended.outcome).toBe('done');
  return ended;
};

beforeAll(async () => {
  on = await testServer();
  ({ id: jobId } = await on.api.newJob('Align'));
  const { control, check } = surveyedPoints(12);
  await take('import-control', text([pnezd(control)]), 'control.csv', { role: 'control' });
  await take('import-control', text([pnezd(check)]), 'check.csv', { role: 'check' });
  trajectory = (await done(take('import-trajectory', text(writeTrajectory(raw.trajectory)), 'flight.csv'))).productId!;
  await done(take('georeference-scan', text(writeScan(raw)), 'scan.csv', { trajectory, ...lever, name: 'as flown' }));
}, 240_000);
afterAll(() => on.stop());

describe('raw scans', () => {
  test('of LAS with extra bytes give the cloud that the text gives', async () => {
    const las = await scanAsLas(raw);
    await done(take('georeference-scan', las, 'scan.las', { trajectory, ...lever, name: 'from LAS' }));
    const [one, other] = [await cloudNamed('as flown'), await cloudNamed('from LAS')];
    expect(other.pointCount).toBe(one.pointCount);
    expect(other.source.strips).toEqual(one.source.strips);
    // The text has ranges to a millimetre and angles to a ten-thousandth of a degree: at 120 m that is 0.2 mm.
    for (const end of ['min', 'max'] as const)
      one.bounds[end].forEach((value, axis) => expect(other.bounds[end][axis]).toBeCloseTo(value, 2));
  });

  test('of a LAS file without ranges: told what there is', async () => {
    const run = await take('georeference-scan', await scanAsLas(raw, ['distance covered', 'across']), 'odd.las', {
      trajectory,
    });
    expect([run.state, run.outcome]).toEqual(['failed', expect.stringMatching(/holds the range.*“distance covered”/)]);
  });

  test('limits of time are on the clock of the scan; seconds of a week find their week in the trajectory', async () => {
    const [second] = [raw.spans[1]!];
    const within = raw.time.reduce((sum, t) => sum + (t >= second.from && t <= second.to ? 1 : 0), 0);
    await done(
      take('georeference-scan', text(writeScan(raw)), 'scan.csv', {
        trajectory,
        ...lever,
        from: second.from,
        to: second.to,
        name: 'second strip',
      }),
    );
    expect((await cloudNamed('second strip')).pointCount).toBe(within);
    // LAS 1.4 R15: adjusted standard time is standard time less 1e9; a week has 604 800 s.
    const week = Math.floor((raw.time[0]! + 1e9) / 604_800);
    const weekly = { ...raw, time: raw.time.map((t) => t + 1e9 - week * 604_800) };
    await done(
      take('georeference-scan', text(writeScan(weekly)), 'week.csv', { trajectory, ...lever, name: 'by week' }),
    );
    const [one, other] = [await cloudNamed('as flown'), await cloudNamed('by week')];
    expect(other.pointCount).toBe(one.pointCount);
    one.bounds.max.forEach((value, axis) => expect(other.bounds.max[axis]).toBeCloseTo(value, 2));
  });
});

test('how well each elevation is known is a column to colour and cut by', async () => {
  const { id, hasAccuracy, pointCount } = await cloudNamed('as flown');
  expect(hasAccuracy).toBe(true);
  const count = async (to: number): Promise<number> =>
    (
      await on.api.call('countSelection', `/jobs/${jobId}/selection/count`, {
        body: {
          selection: [
            {
              how: 'add',
              shape: { kind: 'range', attribute: 'accuracy', from: 0, to },
              visible: { hiddenClasses: [], withWithheld: true, clouds: [id] },
            },
          ],
        },
      })
    ).points;
  expect(await count(10)).toBe(pointCount);
  const [node] = (await on.api.call('listNodes', `/jobs/${jobId}/clouds/${id}/nodes`)).nodes;
  const { body } = await on.api.raw(`/jobs/${jobId}/nodes/${node!.id}/columns/accuracy`);
  const values = new Float32Array(Uint8Array.from(body).buffer);
  expect(values).toHaveLength(node!.count);
  expect(Math.min(...values)).toBeGreaterThan(0.001);
  const half = await count([...values].sort((a, b) => a - b)[values.length >> 1]!);
  expect(half).toBeGreaterThan(0);
  expect(half).toBeLessThan(pointCount);
});

test('strips set by hand: named, left out, split; joined by their names; what cannot be is refused', async () => {
  const { id } = await cloudNamed('as flown');
  const times = raw.spans.map(({ from, to }) => ({ from, to }));
  const run = await done(
    start('set-strips', {
      cloud: id,
      trajectory,
      strips: [
        { name: 'west', from: times[0]!.from, to: times[0]!.to },
        { name: 'north', from: times[1]!.from, to: (times[1]!.from + times[1]!.to) / 2 },
        { name: 'north', from: (times[1]!.from + times[1]!.to) / 2 + 0.001, to: times[1]!.to },
        { name: 'odd', from: times[2]!.from, to: times[2]!.to, isLeftOut: true },
      ],
    }),
  );
  const { facts } = await on.api.newest(jobId, 'strips');
  const whole = raw.strip.reduce((sum, strip) => sum + (strip === 1 ? 1 : 0), 0);
  expect(facts.by).toBe('time');
  expect(Math.abs(facts.strips[1]!.points + facts.strips[2]!.points - whole) / whole).toBeLessThan(0.01);
  expect(facts.strips[0]!.heading).toBeCloseTo(90, -0.5);
  await done(start('compare-strips', { cloud: id, strips: run.productId }));
  const { facts: compared } = await on.api.newest(jobId, 'strip-differences');
  expect(compared.agreement.pairs.map(({ one, two }) => `${one} ${two}`)).toEqual(['west north']);
  await on.api.call('undo', `/jobs/${jobId}/undo`);
  const refused = async (strips: unknown): Promise<string> => {
    const answer = await on.api.raw(`/jobs/${jobId}/operations/set-strips`, {
      method: 'POST',
      body: JSON.stringify({ cloud: id, strips }),
      headers: { 'content-type': 'application/json' },
    });
    expect(answer.status).toBe(400);
    return String(answer.json()['detail']);
  };
  expect(await refused([{ name: 'a', from: 0, to: 10 }, { name: 'b', from: 5, to: 20 }])).toMatch(/overlap in time/); // prettier-ignore
  expect(await refused([{ name: 'a', from: 10, to: 0 }])).toMatch(/later than its first/);
  expect(await refused([{ name: 'a' }])).toMatch(/first and a last time/);
  const stranger = await start('set-strips', { cloud: id, strips: [{ name: 'a', sourceId: 77 }] });
  expect([stranger.state, stranger.outcome]).toEqual(['failed', expect.stringContaining('77')]);
  const none = await start('set-strips', { cloud: id, strips: [{ name: 'a', sourceId: 1, isLeftOut: true }] });
  expect([none.state, none.outcome]).toEqual(['failed', expect.stringContaining('left out')]);
});

describe('an adjustment before it is applied, and what leaves of it', () => {
  let cloud: number;
  let adjustment: number;
  beforeAll(async () => {
    cloud = (await cloudNamed('as flown')).id;
    await done(start('compare-strips', { cloud }));
    adjustment = (await done(start('adjust-strips', { cloud }))).productId!;
  }, 120_000);

  test('the map of each pair is a part of the map of all', async () => {
    const { id, facts } = await on.api.newest(jobId, 'strip-differences');
    const map = async (query: string): Promise<Float32Array> =>
      unpackArrays(Uint8Array.from((await on.api.raw(`/jobs/${jobId}/products/${id}/shown${query}`)).body)).arrays[
        'elevation'
      ] as Float32Array;
    const all = await map('');
    const furthest = new Float32Array(all.length).fill(NaN);
    for (let pair = 0; pair < facts.agreement.pairs.length; pair++) {
      const own = await map(`?part=${pair}`);
      const filled = own.reduce((sum, v) => sum + (Number.isNaN(v) ? 0 : 1), 0);
      expect(filled).toBeGreaterThan(0);
      expect(filled).toBeLessThanOrEqual(facts.agreement.pairs[pair]!.count);
      own.forEach((v, k) => {
        if (!Number.isNaN(v) && !(Math.abs(furthest[k]!) >= Math.abs(v))) furthest[k] = v;
      });
    }
    expect(furthest).toEqual(all);
  });

  test('a script that gives no lever arm has the one the cloud was made with', async () => {
    const { parameters, facts } = await on.api.newest(jobId, 'adjustment');
    expect(parameters).toMatchObject(lever);
    expect(facts.groups).toEqual(['boresight', 'stripHeight']);
  });

  test('a section shows both: strips a decimetre apart before, together after', async () => {
    const { bounds } = await cloudNamed('as flown');
    const middle = [0, 1].map((axis) => (bounds.min[axis]! + bounds.max[axis]!) / 2) as [number, number];
    const ask = (body: object) =>
      on.api.raw(`/jobs/${jobId}/products/${adjustment}/section`, {
        method: 'POST',
        body: JSON.stringify(body),
        headers: { 'content-type': 'application/json' },
      });
    const answer = await ask({ a: [middle[0], middle[1] - 60], b: [middle[0], middle[1] + 60], depth: 6 });
    const section = unpackArrays(Uint8Array.from(answer.body)).arrays as unknown as Record<
      'along' | 'elevation' | 'alongAfter' | 'elevationAfter' | 'strip',
      Float64Array
    >;
    /** Mean gap between neighbours along the section that are of different strips, on the lower half of the heights. */
    const gap = (along: Float64Array, elevation: Float64Array): number => {
      const cells = new Map<number, Map<number, number>>();
      along.forEach((at, k) => {
        if (Number.isNaN(at)) return;
        const cell = cells.get(Math.floor(at / 3)) ?? new Map<number, number>();
        const strip = section.strip[k]!;
        cell.set(strip, Math.min(cell.get(strip) ?? Infinity, elevation[k]!));
        cells.set(Math.floor(at / 3), cell);
      });
      const gaps = [...cells.values()]
        .filter(({ size }) => size > 1)
        .map((c) => Math.max(...c.values()) - Math.min(...c.values()));
      return gaps.sort((a, b) => a - b)[gaps.length >> 1]!;
    };
    expect(section.along.length).toBeGreaterThan(200);
    expect(gap(section.alongAfter, section.elevationAfter)).toBeLessThan(0.6 * gap(section.along, section.elevation));
    expect((await ask({ a: [0, 0], b: [0, 0], depth: 6 })).status).toBe(400);
    expect((await ask({ a: [0, 0], b: [1, 0], depth: -1 })).status).toBe(400);
  });

  test('sensor and trajectory leave; georeferenced anew by them the strips agree as the adjustment says', async () => {
    const file = async (format: string): Promise<Buffer> => on.api.file(jobId, adjustment, format);
    const read = readSensorFile((await file('sensor')).toString());
    if (!('sensor' in read)) throw new Error(read.fault);
    const wrong = FLIGHT_ERRORS.boresight!.map(toDegrees);
    expect(read.sensor.boresight.roll).toBeCloseTo(wrong[0]!, 2);
    expect(read.sensor.leverArm.down).toBeCloseTo(leverDown, 9);
    const way = await done(take('import-trajectory', await file('trajectory'), 'corrected.csv'));
    await done(
      take('georeference-scan', text(writeScan(raw)), 'scan.csv', {
        trajectory: way.productId,
        ...settingsOfSensor(read.sensor, 'metre'),
        name: 'made anew',
      }),
    );
    await done(start('compare-strips', { cloud: (await cloudNamed('made anew')).id }));
    const { facts } = await on.api.newest(jobId, 'adjustment');
    const { rmsd } = (await on.api.newest(jobId, 'strip-differences')).facts.agreement.all;
    expect(facts.before.all.rmsd).toBeGreaterThan(0.08);
    expect(rmsd).toBeLessThan(1.15 * facts.after.all.rmsd);
  });
});

test('a cloud is fitted to targets in all three directions; check points judge; undo brings it back', async () => {
  const { id, bounds } = await cloudNamed('second strip');
  const { points } = await on.api.call('lookAtControl', `/jobs/${jobId}/clouds/${id}/control`);
  const moved = ({ easting, northing, elevation }: (typeof points)[number]) =>
    [easting - 1.5, northing + 0.5, elevation + 0.25] as const;
  const targets = [
    ...points.filter(({ role }) => role === 'control').slice(0, 4),
    ...points.filter(({ role }) => role === 'check').slice(0, 2),
  ].map((point) => ({ number: point.number, at: moved(point) }));
  const run = await done(start('fit-to-targets', { cloud: id, targets, by: 'turn' }));
  expect(run.outcome).toMatch(
    /fitted to 4 targets by a shift and any turn: RMSE 1\.601 m to 0\.000 m, at the 2 kept out 1\.601 m to 0\.000 m/,
  );
  const after = await cloudNamed('second strip');
  [1.5, -0.5, -0.25].forEach((shift, axis) =>
    expect(after.bounds.min[axis]! - bounds.min[axis]!).toBeCloseTo(shift, 2),
  );
  await on.api.call('undo', `/jobs/${jobId}/undo`);
  expect((await cloudNamed('second strip')).bounds).toEqual(bounds);
  const outcomeOf = async (given: object): Promise<string | undefined> => {
    const refused = await start('fit-to-targets', { cloud: id, ...given });
    expect(refused.state).toBe('failed');
    return refused.outcome;
  };
  expect(await outcomeOf({ targets: [{ number: 'nobody', at: [0, 0, 0] }] })).toMatch(/no surveyed point “nobody”/);
  expect(await outcomeOf({ targets: targets.slice(0, 2), by: 'turn' })).toMatch(/needs 3 at least/);
  expect(await outcomeOf({ targets: [{ ...targets[0]!, at: [0, 0, 0] }] })).toMatch(
    /further than its coordinates can say/,
  );
  expect((await cloudNamed('second strip')).positions.shown).toBe(0);
});
