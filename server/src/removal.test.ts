import { unpackLines } from '@pampero/core/lines';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import { fieldWithShed, lasBytes, QUANTISATION, testServer, type TestServer } from './server.fixture.js';

/** Clouds and products leave the job, come back by undo, and their room is given back for good. */
let host: TestServer;
let field: Uint8Array;
let jobId: string;
let cloudId: number;
const [E, N] = QUANTISATION.offset;

beforeAll(async () => {
  host = await testServer();
  field = await lasBytes(fieldWithShed());
});
afterAll(() => host.stop());
beforeEach(async () => {
  jobId = (await host.api.newJob('Removal')).id;
  cloudId = (await host.api.import(jobId, field)).productId!;
});

async function done(operation: string, parameters: Record<string, unknown>): Promise<number | undefined> {
  const run = await host.api.operate(jobId, operation, parameters);
  expect(run.state, run.outcome).toBe('done');
  return run.productId;
}
const holdings = () => host.api.call('readHoldings', `/jobs/${jobId}/holdings`);
const sizeOnDisk = async (): Promise<number> => (await host.api.read(jobId)).job.fileBytes;
const drawLine = (code: string, places: readonly (readonly [number, number, number])[]) =>
  done('draw-lines', {
    put: [
      {
        code,
        easting: places.map(([e]) => E + e),
        northing: places.map(([, n]) => N + n),
        elevation: places.map(([, , z]) => z),
      },
    ],
    remove: [],
  });
const linesOf = async (code: string) => {
  const [product] = (await host.api.made(jobId, 'lines')).filter(({ name }) => name === code);
  return product && unpackLines(new Uint8Array(await host.api.shown(jobId, product.id)));
};

describe('what is removed', () => {
  test('is no longer in the job, is named in the field book, and undo brings back the same', async () => {
    const surface = await done('build-surface', { clouds: [cloudId], classes: [1] });
    const before = await host.api.read(jobId);
    await done('remove-from-job', { clouds: [cloudId], products: [surface] });
    const without = await host.api.read(jobId);
    expect(without.clouds).toEqual([]);
    expect(without.products).toEqual([]);
    expect(without.job.pointCount).toBe(0);
    expect(without.history.entries[0]!.outcome).toBe(`Removed: ${before.clouds[0]!.name}, ${before.products[0]!.name}`);
    await host.api.undo(jobId);
    const back = await host.api.read(jobId);
    expect(back.clouds).toEqual(before.clouds);
    expect(back.products).toEqual(before.products);
    await host.api.call('redo', `/jobs/${jobId}/redo`);
    expect((await host.api.read(jobId)).clouds).toEqual([]);
  });

  test('leaves what was made of it, which says so and is not rebuilt', async () => {
    await done('build-surface', { clouds: [cloudId], classes: [1], name: 'Field' });
    expect((await holdings()).things.map(({ name, usedBy }) => [name, usedBy])).toEqual([
      ['strip', ['Field']],
      ['Field', []],
    ]);
    await done('remove-from-job', { clouds: [cloudId] });
    const [surface] = (await host.api.read(jobId)).products;
    expect(surface!.staleBecause).toBe('A cloud it was made from is no longer in the job.');
    const { runs, left } = await host.api.rebuild(jobId);
    expect(runs).toEqual([]);
    expect(left[0]!.because).toContain('no longer in the job');
    // It leaves as a file all the same.
    expect((await host.api.file(jobId, surface!.id, 'landxml')).toString()).toContain('<Surface');
  });

  test('cannot be worked on: the answer says where it went', async () => {
    await done('remove-from-job', { clouds: [cloudId] });
    const { status, json } = await host.api.raw(`/jobs/${jobId}/operations/build-surface`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ clouds: [cloudId] }),
    });
    expect(status).toBe(404);
    expect(json()).toMatchObject({
      code: 'not-found',
      detail: `Cloud ${cloudId}, strip, is no longer in the job. It was undone or removed. The field book says when, and brings it back.`,
    });
  });

  test('survey points go list by list, what was judged by them is stale, and undo brings them back', async () => {
    const pegs = (name: string) => `${name},6150010,5512010,30.3,GND\n${name}B,6150050,5512050,31.5,GND\n`;
    await host.api.fromFile(jobId, 'import-control', pegs('C'), 'control.csv', { role: 'control' });
    await host.api.fromFile(jobId, 'import-control', pegs('K'), 'pegs.csv', { role: 'check' });
    const lists = async () => (await holdings()).things.filter(({ kind }) => kind === 'control');
    expect((await lists()).map(({ name }) => name)).toEqual(['Control points, control.csv', 'Check points, pegs.csv']);
    const [, checks] = await lists();
    const run = await host.api.operate(jobId, 'remove-from-job', { control: [checks!.id] });
    expect(run.outcome).toBe('Removed: Check points, pegs.csv');
    expect((await host.api.read(jobId)).controlCount).toBe(2);
    expect((await host.api.operate(jobId, 'remove-from-job', { control: [checks!.id] })).state).toBe('failed');
    await host.api.undo(jobId);
    expect((await host.api.read(jobId)).controlCount).toBe(4);
  });

  test('is refused where it is nothing, or is not there: nothing is removed', async () => {
    for (const [parameters, status, detail] of [
      [{}, 422, 'Nothing was chosen.'],
      [{ clouds: [cloudId], products: [99] }, 404, '99'],
    ] as const) {
      const answer = await host.api.raw(`/jobs/${jobId}/operations/remove-from-job`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify(parameters),
      });
      expect(answer.status).toBe(status);
      expect(answer.json()['detail']).toContain(detail);
    }
    expect((await host.api.read(jobId)).clouds).toHaveLength(1);
  });

  test('lines of a code: drawing the same code begins anew, and undo goes back through both', async () => {
    await drawLine('KERB', [[1, 1, 30], [9, 1, 30]]); // prettier-ignore
    const [kerb] = await host.api.made(jobId, 'lines');
    await done('remove-from-job', { products: [kerb!.id] });
    await drawLine('KERB', [[1, 5, 31], [9, 5, 31], [9, 9, 31]]); // prettier-ignore
    expect((await linesOf('KERB'))!.map(({ easting }) => easting.length)).toEqual([3]);
    await host.api.undo(jobId);
    await host.api.undo(jobId);
    expect((await linesOf('KERB'))!.map(({ easting }) => easting.length)).toEqual([2]);
  });
});

describe('space that is given back', () => {
  test('the file is smaller by what was removed; what is shown stays as it was; undo ends there and goes on after', async () => {
    const second = (await host.api.import(jobId, field, 'second.las')).productId!;
    await done('find-ground', { clouds: [cloudId] });
    const replaced = await done('build-surface', { clouds: [second], classes: [1] });
    await done('remove-from-job', { clouds: [second], products: [replaced] });
    const shown = (await host.api.read(jobId)).clouds;
    const full = await sizeOnDisk();
    const { undo, things } = await holdings();
    expect(undo).toMatchObject({ clouds: 1, products: 1 });
    expect(things.map(({ name }) => name)).toEqual(['strip']);

    const run = await host.api.operate(jobId, 'give-back-space', {});
    expect(run.outcome).toContain('can no longer be undone');
    expect((await holdings()).undo).toEqual({ bytes: 0, clouds: 0, products: 0 });
    // Pages are of 64 KiB: each table keeps one that is not full.
    expect(await sizeOnDisk()).toBeLessThan(full - undo.bytes + 20 * 65_536);
    const after = await host.api.read(jobId);
    expect(after.clouds).toEqual(shown);
    expect(after.history).toMatchObject({ undoes: null, redoes: null });
    expect(after.history.entries.map(({ operation }) => operation)).toContain('find-ground');
    const refused = await host.api.raw(`/jobs/${jobId}/undo`, { method: 'POST' });
    expect(refused.json()['detail']).toBe('There is nothing to undo.');

    await drawLine('KERB', [[1, 1, 30], [9, 1, 30]]); // prettier-ignore
    await host.api.undo(jobId);
    expect(await host.api.made(jobId, 'lines')).toEqual([]);
    expect((await host.api.read(jobId)).clouds[0]!.classCounts).toEqual(shown[0]!.classCounts);
  });

  test('lines that a step taken back had ended are there still; lines of a code that is gone are not', async () => {
    await drawLine('KERB', [[1, 1, 30], [9, 1, 30]]); // prettier-ignore
    await drawLine('DITCH', [[1, 5, 30], [9, 5, 30]]); // prettier-ignore
    const [kerb] = (await linesOf('KERB'))!;
    await done('draw-lines', { put: [], remove: [kerb!.key] });
    await host.api.undo(jobId);
    const ditch = (await host.api.made(jobId, 'lines')).find(({ name }) => name === 'DITCH')!;
    await done('remove-from-job', { products: [ditch.id] });
    await done('give-back-space', {});
    expect((await linesOf('KERB'))!.map(({ key }) => key)).toEqual([kerb!.key]);
    expect((await host.api.made(jobId, 'lines')).map(({ name }) => name)).toEqual(['KERB']);
    await drawLine('DITCH', [[1, 7, 30], [9, 7, 30]]); // prettier-ignore
    expect((await linesOf('DITCH'))!.map(({ northing }) => northing[0])).toEqual([N + 7]);
  });

  test('what was replaced by rebuilding can still be pointed at by what was made from it', async () => {
    const surface = await done('build-surface', { clouds: [cloudId], classes: [1] });
    await done('draw-contours', { on: 'surface', surfaceId: surface, interval: 0.5 });
    await done('set-class', {
      selection: [
        {
          how: 'add',
          shape: { kind: 'boundary', corners: [[E, N], [E + 9, N], [E + 9, N + 9], [E, N + 9]], buffer: 0 }, // prettier-ignore
          visible: { hiddenClasses: [], withWithheld: false },
        },
      ],
      classCode: 3,
    });
    expect((await host.api.rebuild(jobId)).left).toEqual([]);
    await done('give-back-space', {});
    const [, contours] = (await host.api.read(jobId)).products;
    expect(contours!.isStale).toBe(false);
    await done('find-ground', { clouds: [cloudId] });
    expect((await host.api.rebuild(jobId)).left).toEqual([]);
    expect((await host.api.read(jobId)).products.filter(({ isStale }) => isStale)).toEqual([]);
  });
});
