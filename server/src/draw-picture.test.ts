import { execFileSync } from 'node:child_process';
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { newPointBatch, type PointBatch } from '@pampero/core/cloud';
import { seededRandom } from '@pampero/core/task';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { lasBytes, QUANTISATION, testJob, type TestJob, type TestServer } from './server.fixture.js';

/** Pictures made of points, read back by GDAL. */
let job: TestJob;
let host: TestServer;
let jobId: string;
let cloudId: number;
const [E, N] = QUANTISATION.offset;

beforeAll(async () => {
  job = await testJob(chequers());
  ({ host, jobId, cloudId } = job);
});
afterAll(() => job.stop());

/** 40 by 30, light and dark in squares of 5, sixteen points to each; a roof of other intensity and colour over ground that is bright. */
function chequers(): PointBatch {
  const random = seededRandom(3);
  const columns = { gpsTime: true, rgb: true, nearInfrared: false, wavePacket: false, extraBytesLength: 0 };
  const ground = 40 * 30 * 16;
  const roof = 6 * 6 * 16;
  const points = newPointBatch(ground + roof, columns);
  for (let i = 0; i < ground + roof; i++) {
    const isRoof = i >= ground;
    const e = isRoof ? 12 + 6 * random() : 40 * random();
    const n = isRoof ? 12 + 6 * random() : 30 * random();
    const isLight = (Math.floor(e / 5) + Math.floor(n / 5)) % 2 === 0;
    points.x[i] = Math.round(e * 1000);
    points.y[i] = Math.round(n * 1000);
    points.z[i] = Math.round((isRoof ? 8 : e / 10) * 1000);
    points.intensity[i] = isRoof ? 2000 : isLight ? 3000 : 1000;
    [points.red![i], points.green![i], points.blue![i]] = isRoof ? [200 * 257, 40 * 257, 30 * 257] : [90 * 257, 120 * 257, 60 * 257]; // prettier-ignore
    points.classification[i] = isRoof ? 6 : 2;
    points.returns[i] = 0x11;
    points.gpsTime![i] = i;
    points.pointSourceId[i] = 1;
  }
  return points;
}

async function draw(parameters: Record<string, unknown>): Promise<{ id: number; path: string }> {
  const run = await host.api.operate(jobId, 'draw-picture', { clouds: [cloudId], ...parameters });
  expect(run.state, run.outcome).toBe('done');
  const path = join(job.folder, `${run.productId}.tif`);
  await writeFile(path, await host.api.file(jobId, run.productId, 'tif'));
  return { id: run.productId!, path };
}
/** Values of all bands at a place, as GDAL reads them. */
function at(path: string, e: number, n: number): number[] {
  const out = execFileSync('gdallocationinfo', ['-valonly', '-geoloc', path, String(E + e), String(N + n)], { encoding: 'utf8' }); // prettier-ignore
  return out.trim().split(/\s+/).map(Number);
}

describe('a picture of points', () => {
  test('lies where they lie, to the pixel, in the job’s system', async () => {
    const { path } = await draw({ pixel: 0.5 });
    const info = JSON.parse(execFileSync('gdalinfo', ['-json', path], { encoding: 'utf8' })) as {
      size: number[];
      geoTransform: number[];
      bands: { overviews?: unknown[]; mask?: unknown }[];
    };
    expect(info.size).toEqual([80, 60]);
    expect(info.geoTransform).toEqual([E, 0.5, 0, N + 30, 0, -0.5]);
  });

  test('intensity: bright and dark squares, a roof over what is under it, the range the points’ own', async () => {
    const { path } = await draw({ shows: 'intensity', pixel: 0.5 });
    expect(at(path, 2.3, 2.3)[0]).toBeGreaterThan(245);
    expect(at(path, 7.3, 2.3)[0]).toBeLessThan(10);
    expect(Math.abs(at(path, 15.3, 15.3)[0]! - 128)).toBeLessThan(10);
  });

  test('the points’ own colours; of chosen classes only', async () => {
    const near = (values: number[], wanted: number[]): void =>
      wanted.forEach((value, band) => expect(Math.abs(values[band]! - value)).toBeLessThanOrEqual(8));
    const all = await draw({ shows: 'colour', pixel: 0.5 });
    near(at(all.path, 15.3, 15.3), [200, 40, 30]);
    near(at(all.path, 30.3, 20.3), [90, 120, 60]);
    const bare = await draw({ shows: 'colour', pixel: 0.5, leftOut: [6, 7, 18] });
    near(at(bare.path, 15.3, 15.3), [90, 120, 60]);
  });

  test('elevation: tints of the ramp, kept exactly, lighter where it slopes to the light', async () => {
    const { path } = await draw({ shows: 'elevation', pixel: 0.5 });
    const [low, high] = [at(path, 1.3, 25.3), at(path, 38.3, 25.3)];
    expect(low).not.toEqual(high);
    expect(Math.min(...low, ...high)).toBeGreaterThan(0);
  });

  test('gaps are closed as far as was asked, and what has no points is no picture', async () => {
    // Some 16 points a square metre: pixels of 10 cm are mostly empty.
    const open = await draw({ pixel: 0.1, gaps: 0 });
    const closed = await draw({ pixel: 0.1, gaps: 4 });
    const share = (path: string): number => {
      const mask = `${path}-mask.tif`;
      execFileSync('gdal_translate', ['-q', '-b', 'mask', path, mask]);
      const out = execFileSync('gdalinfo', ['-json', '-stats', mask], { encoding: 'utf8' });
      return (100 * (JSON.parse(out) as { bands: { mean: number }[] }).bands[0]!.mean) / 255;
    };
    expect(share(open.path)).toBeLessThan(20);
    expect(share(closed.path)).toBeGreaterThan(98);
  });

  test('proposes its pixel from the spacing of the points, and goes stale with the cloud', async () => {
    const { id } = await draw({ shows: 'intensity', name: 'Bright' });
    const made = (await host.api.made(jobId, 'picture')).find((picture) => picture.id === id)!;
    expect(made.facts.eastPerColumn).toBeGreaterThan(0.2);
    expect(made.facts.eastPerColumn).toBeLessThan(0.3);
    const selection = [{ how: 'add', shape: { kind: 'all' }, visible: { hiddenClasses: [2], withWithheld: false } }];
    expect((await host.api.operate(jobId, 'set-class', { selection, classCode: 5 })).state).toBe('done');
    expect((await host.api.made(jobId, 'picture')).find((picture) => picture.name === 'Bright')!.isStale).toBe(true);
    await host.api.rebuild(jobId);
    expect((await host.api.made(jobId, 'picture')).filter(({ isStale }) => isStale)).toEqual([]);
  });

  test('pixels too small for the land, no colours and no points left are refused with what to do', async () => {
    const run = await host.api.operate(jobId, 'draw-picture', { clouds: [cloudId], pixel: 0.005, leftOut: Array.from({ length: 256 }, (_, k) => k) }); // prettier-ignore
    expect(run).toMatchObject({ state: 'failed', error: { code: 'no-points' } });
    const bare = newPointBatch(100, { gpsTime: false, rgb: false, nearInfrared: false, wavePacket: false, extraBytesLength: 0 }); // prettier-ignore
    for (let i = 0; i < 100; i++) [bare.x[i], bare.y[i], bare.returns[i]] = [i * 5_000_000, i * 5_000_000, 0x11];
    const far = (await host.api.import(jobId, await lasBytes(bare))).productId!;
    const large = await host.api.operate(jobId, 'draw-picture', { clouds: [far], pixel: 0.01 });
    expect(large).toMatchObject({ state: 'failed', error: { code: 'picture-too-large' } });
    const colours = await host.api.operate(jobId, 'draw-picture', { clouds: [far], shows: 'colour' });
    expect(colours).toMatchObject({ state: 'failed', error: { code: 'no-colours' } });
  });
});
