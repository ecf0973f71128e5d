import { execFileSync } from 'node:child_process';
import { writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { fieldWithShed, lasBytes, testServer, type TestServer } from './server.fixture.js';

/** A job without a coordinate system is given one; what leaves it then says where it lies. */
let host: TestServer;
let field: Uint8Array;
beforeAll(async () => {
  host = await testServer();
  field = await lasBytes(fieldWithShed());
});
afterAll(() => host.stop());

async function jobWithField(extra: Record<string, unknown>): Promise<{ jobId: string; cloudId: number }> {
  const jobId = (await host.api.newJob('Systems', extra)).id;
  return { jobId, cloudId: (await host.api.import(jobId, field)).productId! };
}
const refusal = async (jobId: string, epsg: number): Promise<string> => {
  const answer = await host.api.raw(`/jobs/${jobId}/operations/set-system`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ epsg }),
  });
  return answer.json()['detail'] as string;
};

describe('the coordinate system of a job', () => {
  test('is set to what the cloud states: a grid then lies there for GDAL, points stay where they are; undo takes it back', async () => {
    const { jobId, cloudId } = await jobWithField({});
    const before = (await host.api.read(jobId)).clouds;
    expect(before[0]!.source.crs?.epsg).toBe(5347);
    await host.api.operate(jobId, 'build-surface', { clouds: [cloudId], classes: [1] });
    const surface = await host.api.newest(jobId, 'surface');
    const grid = await host.api.operate(jobId, 'make-grid', { method: 'tin', surfaceId: surface.id, cell: 2 });
    const run = await host.api.operate(jobId, 'set-system', { epsg: 5347 });
    expect(run.outcome).toMatch(/^The job is in EPSG:5347, POSGAR 2007/);
    const { job, clouds } = await host.api.read(jobId);
    expect(job.crs).toMatchObject({ epsg: 5347, horizontalUnit: 'metre' });
    expect(clouds).toEqual(before);
    const path = join(tmpdir(), `pampero-systems-${process.pid}.tif`);
    await writeFile(path, await host.api.file(jobId, grid.productId, 'tif'));
    const info = JSON.parse(execFileSync('gdalinfo', ['-json', path], { encoding: 'utf8' })) as {
      coordinateSystem: { wkt: string };
    };
    expect(info.coordinateSystem.wkt).toContain('ID["EPSG",5347]');
    await host.api.undo(jobId);
    expect((await host.api.read(jobId)).job.crs.epsg).toBeUndefined();
  });

  test('is refused where the job has one, in another unit, for other land, and for a code that is none', async () => {
    const { jobId } = await jobWithField({});
    expect(await refusal(jobId, 2264)).toMatch(/is in US survey feet, this job in metres\./);
    expect(await refusal(jobId, 4326)).toMatch(/is in degrees/);
    expect(await refusal(jobId, 99_999)).toMatch(/99999/);
    // In Europe's zone 32 this land would lie far off; what only the clouds tell ends the run.
    const run = await host.api.operate(jobId, 'set-system', { epsg: 25832 });
    expect(run.state).toBe('failed');
    expect(run.outcome).toMatch(/do not lie in the area of EPSG:25832/);
    expect((await host.api.read(jobId)).job.crs.epsg).toBeUndefined();
    expect(await refusal((await jobWithField({ epsg: 5347 })).jobId, 5346)).toMatch(/^This job is in EPSG:5347/);
  });
});
