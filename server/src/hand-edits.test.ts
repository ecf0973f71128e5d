import type { Run, SpotPoint } from '@pampero/contract';
import { newPointBatch, type PointBatch } from '@pampero/core/cloud';
import { bufferSource } from '@pampero/core/formats';
import { openLas } from '@pampero/core/formats/las';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { fieldWithShed, lasBytes, QUANTISATION, testServer, type TestServer } from './server.fixture.js';

let host: TestServer;
let field: Uint8Array;
beforeAll(async () => {
  host = await testServer();
  field = await lasBytes(fieldWithShed());
});
afterAll(() => host.stop());

const shown = { hiddenClasses: [] as number[], withWithheld: false };
const [E, N] = QUANTISATION.offset;

/** Straight down on the field, ten pixels a metre. */
const plan = {
  name: 'plan',
  matrix: [2 / 60, 0, 0, 0, 0, 2 / 60, 0, 0, 0, 0, -1 / 100, 0, -1, -1, 0, 1],
  origin: [E, N, 30],
  width: 600,
  height: 600,
};
/** The shed's roof, by metres from the field's corner; y goes down on the screen. */
const rectangle = (west: number, south: number, east: number, north: number) =>
  [
    [west, south],
    [east, south],
    [east, north],
    [west, north],
  ].map(([e, n]) => [e! * 10, 600 - n! * 10]);
const outline = (corners: number[][], more: Record<string, unknown> = {}) => ({
  how: 'add',
  shape: { kind: 'outline', view: plan, corners },
  visible: shown,
  ...more,
});
const shed = outline(rectangle(24, 24, 36, 36));

async function jobWithField(name: string): Promise<string> {
  const { id } = await host.api.newJob(name);
  expect((await host.api.import(id, field)).state).toBe('done');
  return id;
}
const count = (jobId: string, selection: unknown[]) =>
  host.api.call('countSelection', `/jobs/${jobId}/selection/count`, { body: { selection } });
const counts = async (jobId: string) => (await host.api.read(jobId)).clouds[0]!.classCounts;
const refused = async (jobId: string, path: string, body: unknown) => {
  const answer = await host.api.raw(`/jobs/${jobId}/${path}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  return { status: answer.status, ...answer.json() } as { status: number; code: string; detail: string };
};

/** Of the field's own points, how many lie in a rectangle and height band. */
function expected(points: PointBatch, west: number, south: number, east: number, north: number, above = -Infinity) {
  let inside = 0;
  for (let i = 0; i < points.count; i++) {
    const [e, n, z] = [points.x[i]! / 1000, points.y[i]! / 1000, points.z[i]! / 1000];
    if (e > west && e < east && n > south && n < north && z > above) inside++;
  }
  return inside;
}

describe('selecting and setting classes', () => {
  test('the count says how many before anything happens; setting, undo and redo reach just those', async () => {
    const jobId = await jobWithField('Shed');
    const points = fieldWithShed();
    const inside = expected(points, 24, 24, 36, 36);
    expect(await count(jobId, [shed])).toEqual({
      points: inside,
      withheld: 0,
      classCounts: { 1: inside },
      clouds: 1,
    });
    const run = await host.api.operate(jobId, 'set-class', { selection: [shed], classCode: 6 });
    expect(run).toMatchObject({ state: 'done' });
    expect(run.outcome).toMatch(/points to 6 Building; before: .* Unclassified/);
    expect(await counts(jobId)).toEqual({ 1: 10_800 - inside, 6: inside });
    await host.api.call('undo', `/jobs/${jobId}/undo`);
    expect(await counts(jobId)).toEqual({ 1: 10_800 });
    await host.api.call('redo', `/jobs/${jobId}/redo`);
    expect(await counts(jobId)).toEqual({ 1: 10_800 - inside, 6: inside });
    // A hidden class is not touched.
    const withoutBuildings = { ...shed, visible: { ...shown, hiddenClasses: [6] } };
    expect((await count(jobId, [withoutBuildings])).points).toBe(0);
    const entry = (await host.api.read(jobId)).history.entries[0]!;
    expect(entry).toMatchObject({ title: 'Set class', parameters: { selection: 'outline in Plan', classCode: 6 } });
  });

  test('steps, elevation ranges and withheld points', async () => {
    const jobId = await jobWithField('Roof');
    const roof = expected(fieldWithShed(), 24, 24, 36, 36, 35);
    const high = { how: 'keep', shape: { kind: 'range', attribute: 'elevation', from: 35 }, visible: shown };
    expect((await count(jobId, [shed, high])).points).toBe(roof);
    const held = await host.api.operate(jobId, 'withhold', { selection: [shed, high] });
    expect(held.outcome).toContain(`${roof} points withheld`);
    expect((await count(jobId, [shed, high])).points).toBe(0);
    const withWithheld = { ...shown, withWithheld: true };
    const seen = [shed, high].map((step) => ({ ...step, visible: withWithheld }));
    expect(await count(jobId, seen)).toMatchObject({ points: roof, withheld: roof });
    // Kept through a class edit beside it, undone in turn.
    await host.api.operate(jobId, 'set-class', { selection: [outline(rectangle(0, 0, 60, 20))], classCode: 2 });
    await host.api.call('undo', `/jobs/${jobId}/undo`);
    expect(await count(jobId, seen)).toMatchObject({ withheld: roof });
    await host.api.call('undo', `/jobs/${jobId}/undo`);
    expect(await count(jobId, seen)).toMatchObject({ points: roof, withheld: 0 });
    await host.api.call('redo', `/jobs/${jobId}/redo`);
    const restored = await host.api.operate(jobId, 'restore', { selection: seen });
    expect(restored.outcome).toContain(`${roof} points restored`);
  });

  test('edits sent at the same time are both kept', async () => {
    const jobId = await jobWithField('Two pages');
    const [west, east] = [rectangle(0, 0, 30, 60), rectangle(20, 0, 60, 60)];
    const start = (corners: number[][], classCode: number) =>
      host.api.call('startOperation', `/jobs/${jobId}/operations/set-class`, {
        body: { selection: [outline(corners)], classCode },
      });
    const runs = await Promise.all([start(west, 2), start(east, 5)]);
    for (const run of runs) expect((await host.api.ended(jobId, run)).state).toBe('done');
    const after = await counts(jobId);
    expect(after[1] ?? 0).toBe(0);
    expect((after[2] ?? 0) + (after[5] ?? 0)).toBe(10_800);
    const { history } = await host.api.read(jobId);
    expect(history.entries.filter((entry) => entry.operation === 'set-class')).toHaveLength(2);
    // Undo right after an edit waits for it.
    const third = await start(rectangle(0, 0, 60, 60), 4);
    await host.api.call('undo', `/jobs/${jobId}/undo`);
    expect((await host.api.ended(jobId, third)).state).toBe('done');
    expect(await counts(jobId)).toEqual(after);
  });

  test('what is wrong is said, and changes nothing', async () => {
    const jobId = await jobWithField('Wrong');
    const set = (body: unknown) => refused(jobId, 'operations/set-class', body);
    const bow = outline([[0, 0], [100, 100], [100, 0], [0, 100]]); // prettier-ignore
    expect(await set({ selection: [shed], classCode: 300 })).toMatchObject({ status: 400 });
    expect((await set({ selection: [shed], classCode: 40 })).detail).toContain('reserved by the standard');
    expect((await set({ selection: [], classCode: 2 })).detail).toContain('Nothing is selected');
    expect((await refused(jobId, 'selection/count', { selection: [bow] })).detail).toMatch(/cross each other/);
    const turned = { how: 'add', shape: { kind: 'range', attribute: 'intensity', from: 9, to: 3 }, visible: shown };
    expect((await refused(jobId, 'selection/count', { selection: [turned] })).detail).toContain('from 9 to 3');
    const empty = outline(rectangle(70, 70, 80, 80));
    const run = await host.api.operate(jobId, 'set-class', { selection: [empty], classCode: 2 });
    expect(run).toMatchObject({ state: 'failed', error: { code: 'nothing-selected' } });
    const crossed = await host.api.operate(jobId, 'set-class', { selection: [bow], classCode: 2 });
    expect(crossed.state).toBe('failed');
    expect(await counts(jobId)).toEqual({ 1: 10_800 });
    expect((await host.api.read(jobId)).history.undoes !== null).toBe(true); // the import
  });

  test('a patch grows over the roof and stops at its edge', async () => {
    const jobId = await jobWithField('Patch');
    const points = fieldWithShed();
    const roof = expected(points, 25, 25, 35, 35, 35);
    const seed = [E + 30, N + 30, 38.9];
    const patch = await host.api.call('growPatch', `/jobs/${jobId}/selection/patch`, {
      body: { seed, reach: 1.5, heightStep: 0.3, limit: 50, visible: shown },
    });
    expect(patch).toMatchObject({ points: roof, isCut: false });
    const touched = { how: 'add', shape: { kind: 'points', nodes: patch.nodes }, visible: shown };
    expect((await count(jobId, [touched])).points).toBe(roof);
    const run = await host.api.operate(jobId, 'set-class', { selection: [touched], classCode: 6 });
    expect(run.outcome).toContain(`${roof} points to 6`);
    const cut = await host.api.call('growPatch', `/jobs/${jobId}/selection/patch`, {
      body: { seed, reach: 1.5, heightStep: 0.3, limit: 4, visible: shown },
    });
    expect(cut.isCut).toBe(true);
  });

  test('a selection becomes a cloud of its own, with all attributes; undo takes it away', async () => {
    const jobId = await jobWithField('Copy');
    const inside = expected(fieldWithShed(), 24, 24, 36, 36);
    const run = await host.api.operate(jobId, 'copy-to-cloud', { selection: [shed], name: 'The shed' });
    expect(run).toMatchObject({ state: 'done' });
    const { clouds } = await host.api.read(jobId);
    expect(clouds.map(({ name, pointCount }) => [name, pointCount])).toEqual([
      ['strip', 10_800],
      ['The shed', inside],
    ]);
    const file = await host.api.raw(`/jobs/${jobId}/clouds/${run.productId!}/points?format=las`);
    const { pointCount, header } = await openLas(bufferSource('shed.las', file.body));
    expect(pointCount).toBe(inside);
    expect(header.minX).toBeGreaterThanOrEqual(E + 24);
    await host.api.call('undo', `/jobs/${jobId}/undo`);
    expect((await host.api.read(jobId)).clouds).toHaveLength(1);
  });

  test('classes are named and coloured, and that too is undone', async () => {
    const jobId = await jobWithField('Names');
    const classes = [
      { code: 64, name: 'Fence', colour: '#aa3300', key: 'f' },
      { code: 9, name: 'Canal', colour: '#3355aa' },
    ];
    await host.api.operate(jobId, 'edit-classes', { classes });
    expect((await host.api.read(jobId)).classes).toEqual(classes);
    const run = await host.api.operate(jobId, 'set-class', { selection: [shed], classCode: 64 });
    expect(run.outcome).toContain('to 64 Fence');
    await host.api.call('undo', `/jobs/${jobId}/undo`);
    await host.api.call('undo', `/jobs/${jobId}/undo`);
    expect((await host.api.read(jobId)).classes).toEqual([]);
    await host.api.call('redo', `/jobs/${jobId}/redo`);
    expect((await host.api.read(jobId)).classes).toEqual(classes);
    const twice = await refused(jobId, 'operations/edit-classes', { classes: [classes[0], classes[0]] });
    expect(twice.detail).toContain('twice');
  });

  test('what is pinned stays, and goes when it is taken down', async () => {
    const jobId = await jobWithField('Pins');
    const note = { kind: 'note', name: 'Culvert, not seen from above', place: [E + 1, N + 2, 30] };
    const pin = await host.api.call('pin', `/jobs/${jobId}/pins`, { body: note });
    expect((await host.api.read(jobId)).pins).toEqual([
      { id: pin.id, kind: 'note', name: note.name, body: { place: note.place } },
    ]);
    await host.api.call('unpin', `/jobs/${jobId}/pins/${pin.id}`);
    expect((await host.api.read(jobId)).pins).toEqual([]);
  });
});

describe('what stands on the ground', () => {
  test('the shed becomes a building, whatever the number of threads; without ground it is said what to do', async () => {
    const one = await jobWithField('Objects');
    const { clouds } = await host.api.read(one);
    const cloudId = clouds[0]!.id;
    const early = await host.api.operate(one, 'find-objects', { clouds: [cloudId] });
    expect(early).toMatchObject({ state: 'failed', error: { code: 'no-ground' } });
    await host.api.operate(one, 'find-ground', { clouds: [cloudId] });
    const run = await host.api.operate(one, 'find-objects', { clouds: [cloudId] });
    expect(run.state).toBe('done');
    const roof = expected(fieldWithShed(), 25, 25, 35, 35, 35);
    const found = (await counts(one))[6] ?? 0;
    // Three points a square metre are few: the outermost ones of the roof may be left.
    expect(found).toBeGreaterThan(0.85 * roof);
    expect(found).toBeLessThan(1.05 * roof);
    const turned = await refused(one, 'operations/find-objects', { clouds: [cloudId], mediumFrom: 5, highFrom: 2 });
    expect(turned.detail).toContain('Low must start below medium');
    await host.api.call('undo', `/jobs/${one}/undo`);
    expect((await counts(one))[6]).toBeUndefined();
  });
});

describe('thinning', () => {
  test('by spacing: key points no nearer than it; withheld instead; undone', async () => {
    const jobId = await jobWithField('Thin');
    const cloudId = (await host.api.read(jobId)).clouds[0]!.id;
    const run = await host.api.operate(jobId, 'thin-cloud', { clouds: [cloudId], classes: [1], distance: '2 m' });
    expect(run.outcome).toMatch(/of 10.800 points kept, flagged as key points/);
    const file = await host.api.raw(`/jobs/${jobId}/clouds/${cloudId}/points?format=las`);
    const kept: number[][] = [];
    for await (const batch of (await openLas(bufferSource('thin.las', file.body))).batches())
      for (let i = 0; i < batch.count; i++)
        if (batch.flags[i]! & 2) kept.push([batch.x[i]! / 1000, batch.y[i]! / 1000, batch.z[i]! / 1000]);
    expect(kept.length).toBeGreaterThan(400);
    for (const [i, [x, y, z]] of kept.entries())
      for (const [u, v, w] of kept.slice(i + 1))
        expect(Math.hypot(x! - u!, y! - v!, z! - w!)).toBeGreaterThanOrEqual(2 - 1e-9);
    await host.api.call('undo', `/jobs/${jobId}/undo`);
    await host.api.operate(jobId, 'thin-cloud', {
      clouds: [cloudId],
      classes: [1],
      method: 'lowest',
      cell: 10,
      outcome: 'withhold',
    });
    const whole = outline(rectangle(0, 0, 60, 60));
    // A cell of ten metres each, six by six; the land's corner lies on none of their lines.
    const left = (await count(jobId, [whole])).points;
    expect(left).toBeGreaterThanOrEqual(36);
    expect(left).toBeLessThanOrEqual(49);
    await host.api.call('undo', `/jobs/${jobId}/undo`);
    const drawn = await host.api.operate(jobId, 'thin-cloud', {
      clouds: [cloudId],
      classes: [1],
      method: 'count',
      count: 1234,
      outcome: 'withhold',
    });
    expect(drawn.outcome).toMatch(/^1.234 of 10.800 points kept/);
    await host.api.call('undo', `/jobs/${jobId}/undo`);
    const key = await host.api.operate(jobId, 'thin-cloud', {
      clouds: [cloudId],
      classes: [1],
      method: 'key-points',
      tolerance: '5 cm',
      outcome: 'new-cloud',
      differenceMap: true,
    });
    expect(key.state).toBe('done');
    const { clouds, history } = await host.api.read(jobId);
    const { facts } = (await host.api.newest(jobId, 'grid'))!;
    expect(facts).toMatchObject({ isDifference: true });
    const furthest = Math.max(facts.highest, -facts.lowest);
    const { figures } = history.entries.find(({ operation, state }) => operation === 'thin-cloud' && state === 'done')!;
    const worst = figures.find(({ label }) => label === 'Worst')!;
    expect(Number.parseFloat(String(worst.value))).toBeLessThanOrEqual(0.05);
    expect(furthest).toBeCloseTo(Number.parseFloat(String(worst.value)), 3);
    expect(clouds).toHaveLength(2);
    expect(clouds[1]!.pointCount).toBe(figures.find(({ label }) => label === 'Kept')!.value);
    // What was found in the thinned cloud goes back to all the points; the kept points leave with numbers.
    const thinned = clouds[1]!.id;
    await host.api.operate(jobId, 'find-ground', { clouds: [thinned], cell: 4, tolerance: 0.2, largestBuilding: 20 });
    const carried = await host.api.operate(jobId, 'transfer-classes', {
      fromId: thinned,
      clouds: [cloudId],
      distance: 3,
    });
    expect(carried.outcome).toMatch(/got the class of the nearest point/);
    const numbered = await host.api.operate(jobId, 'number-points', {
      clouds: [thinned],
      which: 'all',
      classes: [1, 2],
      start: 101,
      prefix: 'P',
    });
    expect(numbered.outcome).toMatch(/points, P101 to P\d+/);
    expect((await host.api.file(jobId, numbered.productId, 'csv-penzd')).toString()).toMatch(
      /^point,easting,northing,elevation,code\nP101,55\d+\.\d{3},61\d+\.\d{3},\d\d\.\d{3},GND\n/,
    );
    expect((await host.api.file(jobId, numbered.productId, 'dxf')).toString()).toMatch(/\nTEXT\n8\nSPOTS-NUMBER\n/);
    // The list is looked through: a number and a code changed, a point left out; a number twice is refused.
    const edit = (spotsId: number, changes: object[]) => host.api.operate(jobId, 'edit-points', { spotsId, changes });
    const twice = await edit(numbered.productId!, [{ index: 0, number: 'P102' }]);
    expect(twice).toMatchObject({ state: 'failed', error: { code: 'number-twice' } });
    const edited = await edit(numbered.productId!, [
      { index: 0, number: 'BM1', code: 'BM' },
      { index: 1, isLeftOut: true },
    ]);
    expect(edited.outcome).toBe('1 changed, 1 left out');
    const list = JSON.parse((await host.api.shown(jobId, edited.productId)).toString()) as SpotPoint[];
    expect(list.slice(0, 2).map(({ number, code }) => `${number} ${code}`)).toEqual(['BM1 BM', 'P103 GND']);
    await host.api.call('undo', `/jobs/${jobId}/undo`);
    expect((await host.api.read(jobId)).products.at(-1)!.id).toBe(numbered.productId);
    const none = await host.api.operate(jobId, 'thin-cloud', { clouds: [cloudId], classes: [5] });
    expect(none).toMatchObject({ state: 'failed', error: { code: 'nothing-selected' } });
  });
});

describe('searches for points that are not real', () => {
  /** The field with points planted under and over it. */
  function withPlanted(): PointBatch {
    const land = fieldWithShed();
    const planted = 12;
    const points = newPointBatch(land.count + planted, {
      gpsTime: true,
      rgb: false,
      nearInfrared: false,
      wavePacket: false,
      extraBytesLength: 0,
    });
    for (const name of ['x', 'y', 'z', 'classification', 'returns', 'intensity', 'pointSourceId'] as const)
      (points[name] as Uint8Array).set(land[name] as Uint8Array);
    for (let k = 0; k < planted; k++) {
      const i = land.count + k;
      points.x[i] = 3000 + k * 4500;
      points.y[i] = 8000;
      points.z[i] = k < 6 ? 27_000 : 52_000;
      points.classification[i] = 1;
      points.returns[i] = 0x11;
    }
    return points;
  }
  let bytes: Uint8Array;
  beforeAll(async () => {
    bytes = await lasBytes(withPlanted());
  });
  const job = async (name: string): Promise<{ jobId: string; cloudId: number }> => {
    const { id: jobId } = await host.api.newJob(name);
    const run: Run = await host.api.import(jobId, bytes);
    return { jobId, cloudId: run.productId! };
  };

  test.each([
    ['find-low', { radius: 5, drop: 1 }, 6],
    ['find-isolated', { radius: '2 m', leastNeighbours: 2 }, 12],
    ['find-outliers', { neighbours: 6, deviations: 6 }, 12],
  ])('%s finds what was planted, puts it to noise, and undo brings it back', async (operation, parameters, planted) => {
    const { jobId, cloudId } = await job(operation);
    const run = await host.api.operate(jobId, operation, { clouds: [cloudId], ...parameters });
    expect(run).toMatchObject({ state: 'done' });
    expect(await counts(jobId)).toEqual({ 1: 10_812 - planted, 7: planted });
    await host.api.call('undo', `/jobs/${jobId}/undo`);
    expect(await counts(jobId)).toEqual({ 1: 10_812 });
  });

  test('low reliability: poor points go where better ones lie near, and stay where they fill a hole', async () => {
    const { id: jobId } = await host.api.newJob('Photogrammetry');
    // A row of good points half a metre apart with poor ones between them, then a row of poor ones alone.
    const rows: string[] = [];
    for (let k = 0; k < 40; k++) rows.push(`${E + k * 0.5} ${N} 30 ${k % 2 === 0 ? 8 : 1}`);
    for (let k = 0; k < 20; k++) rows.push(`${E + k * 0.5} ${N + 40} 30 1`);
    const run = await host.api.import(jobId, Buffer.from(`x y z confidence\n${rows.join('\n')}\n`), 'photo.txt');
    expect(run.state).toBe('done');
    const { clouds } = await host.api.read(jobId);
    expect(clouds[0]!.hasConfidence).toBe(true);
    const low = { how: 'add', shape: { kind: 'range', attribute: 'confidence', to: 2 }, visible: shown };
    expect((await count(jobId, [low])).points).toBe(40);
    await host.api.operate(jobId, 'find-unreliable', { clouds: [run.productId!], below: 2, radius: 0.6 });
    expect(await counts(jobId)).toEqual({ 1: 40, 7: 20 });
    const plain = await job('No confidence');
    const refusedRun = await host.api.operate(plain.jobId, 'find-unreliable', { clouds: [plain.cloudId] });
    expect(refusedRun).toMatchObject({ state: 'failed', error: { code: 'no-confidence' } });
  });

  test('a search that finds nothing says so, and there is nothing to undo but the import', async () => {
    const { jobId, cloudId } = await job('Nothing');
    const run = await host.api.operate(jobId, 'find-low', { clouds: [cloudId], drop: 20 });
    expect(run.outcome).toBe('Nothing found.');
    const wrong = await refused(jobId, 'operations/find-isolated', { clouds: [cloudId], radius: 'wide' });
    expect(wrong.detail).toContain('is not a length');
  });
});
