import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { fieldWithShed, lasBytes, testServer, type TestServer } from './server.fixture.js';

/** What a script gets wrong is said by its name, at once, before a run begins; and the answer says what there is instead. */
let host: TestServer;
let jobId: string;
let cloudId: number;
beforeAll(async () => {
  host = await testServer();
  jobId = (await host.api.newJob('Slips')).id;
  cloudId = (await host.api.import(jobId, await lasBytes(fieldWithShed()))).productId!;
});
afterAll(() => host.stop());

const post = async (path: string, body: unknown): Promise<{ status: number; detail: string; code: string }> => {
  const answer = await host.api.raw(path, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  return { ...(answer.json() as { detail: string; code: string }), status: answer.status };
};
const start = (operation: string, body: unknown): ReturnType<typeof post> =>
  post(`/jobs/${jobId}/operations/${operation}`, body);
const runsSoFar = async (): Promise<number> => (await host.api.read(jobId)).runs.length;

describe('numbers that are nothing here', () => {
  test('a cloud that never was is refused with the clouds there are, and no run begins', async () => {
    const before = await runsSoFar();
    const answer = await start('find-ground', { clouds: [99] });
    expect(answer).toMatchObject({ status: 404, code: 'not-found' });
    expect(answer.detail).toMatch(new RegExp(`There is no cloud 99\\. This job has ${cloudId} `));
    expect(await runsSoFar()).toBe(before);
  });

  test('a product of another kind is called by its name', async () => {
    const built = await host.api.operate(jobId, 'build-surface', {
      clouds: [cloudId],
      classes: [0, 1, 2],
      name: 'Field',
    });
    expect(built.state, JSON.stringify(built)).toBe('done');
    const answer = await start('draw-contours', { surfaceId: 4711 });
    expect(answer).toMatchObject({ status: 404 });
    expect(answer.detail).toMatch(/There is no surface 4711\. This job has \d+ Field\./);
    const table = await host.api.operate(jobId, 'count-classes', { clouds: [cloudId] });
    const wrongKind = await start('draw-contours', { surfaceId: table.productId });
    expect(wrongKind.status).toBe(404);
    expect(wrongKind.detail).toMatch(/not one of surfaces\. This job has \d+ Field\./);
  });

  test('what was taken back says so, and how it comes again', async () => {
    const surface = await host.api.operate(jobId, 'build-surface', {
      clouds: [cloudId],
      classes: [0, 1, 2],
      name: 'Twice',
    });
    await host.api.undo(jobId);
    const answer = await start('draw-contours', { surfaceId: surface.productId });
    expect(answer.detail).toMatch(
      /is no longer in the job\. It was undone or removed\. The field book says when, and brings it back\./,
    );
  });

  test('an address that leads nowhere points at the list of addresses', async () => {
    const answer = await post('/jibs', {});
    expect(answer).toMatchObject({ status: 404 });
    expect(answer.detail).toMatch(/openapi\.json/);
    expect(answer.detail).not.toMatch(/removed/);
  });

  test('a job that is not there points at the list of jobs', async () => {
    const answer = await host.api.raw('/jobs/no-such-job');
    expect(answer.status).toBe(404);
    expect(String(answer.json()['detail'])).toMatch(/no job no-such-job.*list of jobs/);
  });
});

describe('settings by the wrong name', () => {
  test('a slip is refused with the name that was meant', async () => {
    const answer = await start('find-ground', { clouds: [cloudId], Tolerence: 0.1 });
    expect(answer).toMatchObject({ status: 400, code: 'bad-request' });
    expect(answer.detail).toMatch(/no setting called Tolerence\. Did you mean tolerance\?/);
  });

  test('a name like none gets the list', async () => {
    const answer = await start('find-ground', { clouds: [cloudId], zzz: 1 });
    expect(answer.detail).toMatch(/Its settings are clouds, /);
  });
});

describe('points and clouds in the wrong place', () => {
  test('control with easting and northing exchanged is noticed against the cloud, and nothing is taken', async () => {
    const list = 'C1,5512010.5,6150020.1,31.2\nC2,5512040.5,6150030.1,31.2\n';
    const wrong = await host.api
      .fromFile(jobId, 'import-control', list, 'control.csv', { order: 'PNEZD' })
      .catch((error: unknown) => String(error));
    expect(wrong).toMatch(/2 do with easting and northing exchanged.*Choose the order PENZD/s);
    expect((await host.api.read(jobId)).controlCount).toBe(0);
    const right = await host.api.fromFile(jobId, 'import-control', list, 'control.csv', { order: 'PENZD' });
    expect(right.state).toBe('done');
  });

  test('the first cloud of a job is held against the area of the job’s system', async () => {
    const { id } = await host.api.newJob('Elsewhere', { epsg: 25832 });
    const run = await host.api.import(id, await lasBytes(fieldWithShed()), 'field.las', { coordinates: 'kept' });
    expect(run.state, JSON.stringify(run)).toBe('done');
    const { clouds } = await host.api.read(id);
    expect(clouds[0]!.warnings.map(({ message }) => message).join(' ')).toMatch(
      /Held against EPSG:25832: The points lie outside the area/,
    );
  });
});

describe('systems that a job cannot be in', () => {
  test.each([
    [4326, /WGS 84, is in degrees/],
    [4978, /WGS 84, is geocentric/],
    [5703, /is a system of heights alone/],
    [999_999, /no coordinate system EPSG: 999999/],
  ])('EPSG:%d', async (epsg, why) => {
    const answer = await post('/jobs', { name: 'Wrong', epsg });
    expect(answer.status).toBe(404);
    expect(answer.detail).toMatch(why);
  });

  test('a unit that contradicts the code is refused, one that agrees is taken', async () => {
    const answer = await post('/jobs', { name: 'Wrong', epsg: 5347, unit: 'us-survey-foot' });
    expect(answer).toMatchObject({ status: 400 });
    expect(answer.detail).toMatch(/POSGAR 2007 \/ Argentina 5, is in metres, not in US survey feet/);
    expect((await post('/jobs', { name: 'Right', epsg: 2277, unit: 'us-survey-foot' })).status).toBe(201);
  });
});

describe('the list of operations', () => {
  test('states the unit of every length, and which settings are proposed from the cloud', async () => {
    const list = await host.api.call('listOperations', '/operations', { query: '?unit=us-survey-foot' });
    const ground = list.find(({ id }) => id === 'find-ground')!;
    expect(ground.isProposed).toBe(true);
    expect(list.find(({ id }) => id === 'draw-contours')!.isProposed).toBe(false);
    for (const { id, parameters } of list)
      for (const [name, property] of Object.entries(
        (parameters as { properties: Record<string, { quantity?: string; unit?: string }> }).properties,
      ))
        if (property.quantity === 'length' || property.quantity === 'elevation')
          expect(property.unit, `${id} ${name}`).toBe('ftUS');
  });
});
