import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { PointBatch } from '@pampero/core/cloud';
import { seededRandom } from '@pampero/core/task';
import { fieldWithShed, lasBytes, testServer, type TestServer } from './server.fixture.js';

/** The field with a flock of false points far above it and nothing else wrong. */
const FALSE_POINTS = 25;
function fieldWithBirds(): PointBatch {
  const points = fieldWithShed();
  const random = seededRandom(4);
  for (let i = 0; i < FALSE_POINTS; i++) points.z[i * 400] = Math.round(1000 * (80 + 60 * random()));
  return points;
}

let host: TestServer;
let jobId: string;
let cloudId: number;
beforeAll(async () => {
  host = await testServer();
  jobId = (await host.api.newJob('Birds')).id;
  cloudId = (await host.api.import(jobId, await lasBytes(fieldWithBirds()))).productId!;
});
afterAll(() => host.stop());

/** The count that a run's outcome begins with: "25 points to 7 Low point (noise)". */
const foundBy = ({ outcome }: { readonly outcome?: string | undefined }): number =>
  Number(/^([\d\s]+) points? to /.exec(outcome ?? '')?.[1]?.replaceAll(/\s/g, ''));

describe('what is noise, as proposed', () => {
  test('a script that leaves the radius out gets the one the form shows, and finds the false points alone', async () => {
    const proposal = await host.api.call('proposeSettings', `/jobs/${jobId}/clouds/${cloudId}/proposals/find-isolated`);
    expect(proposal.parameters['radius']).toBeGreaterThan(1);
    expect(proposal.reasons[0]).toMatch(/Search radius .* m/);
    const run = await host.api.operate(jobId, 'find-isolated', { clouds: [cloudId] });
    expect(run.state, JSON.stringify(run)).toBe('done');
    expect(foundBy(run)).toBe(FALSE_POINTS);
    const { history } = await host.api.read(jobId);
    expect(history.entries[0]!.parameters).toMatchObject({ radius: proposal.parameters['radius'] });
    await host.api.undo(jobId);
  });

  test('the proposal does not change once noise has its class', async () => {
    const path = `/jobs/${jobId}/clouds/${cloudId}/proposals/find-isolated` as const;
    const before = await host.api.call('proposeSettings', path);
    expect(await host.api.call('proposeSettings', path)).toEqual(before);
  });

  test('a search that takes a tenth of the cloud stops, says how much, and changes nothing', async () => {
    const counts = async (): Promise<unknown> => (await host.api.read(jobId)).clouds[0]!.classCounts;
    const before = await counts();
    const run = await host.api.operate(jobId, 'find-isolated', { clouds: [cloudId], radius: 0.4, leastNeighbours: 3 });
    expect(run.state).toBe('failed');
    expect(run.error).toMatchObject({ code: 'too-much-noise' });
    expect(run.error!.detail).toMatch(/points of 10.800, \d+\.\d %, would become 7 .*Nothing was changed/s);
    expect(await counts()).toEqual(before);
  });

  test('and goes on where the surveyor says so', async () => {
    const run = await host.api.operate(jobId, 'find-isolated', {
      clouds: [cloudId],
      radius: 0.4,
      leastNeighbours: 3,
      stopAbove: 100,
    });
    expect(run.state).toBe('done');
    expect(foundBy(run)).toBeGreaterThan(1000);
    await host.api.undo(jobId);
  });
});
