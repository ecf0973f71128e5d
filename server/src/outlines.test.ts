import { execFileSync } from 'node:child_process';
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { unpackLines } from '@pampero/core/lines';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { fieldWithShed, QUANTISATION, testJob, type TestJob, type TestServer } from './server.fixture.js';

/** The shed of the field, 10 by 10 m about (30, 30): the void under it, and its outline from its roof. */
let job: TestJob;
let host: TestServer;
let jobId: string;
let cloudId: number;
const [E, N] = QUANTISATION.offset;

beforeAll(async () => {
  job = await testJob(fieldWithShed());
  ({ host, jobId, cloudId } = job);
});
afterAll(() => job.stop());

const outline = (more: Record<string, unknown> = {}) =>
  host.api.operate(jobId, 'outline-buildings', { clouds: [cloudId], ...more });

describe('voids', () => {
  test('there is no telling them before ground is found', async () => {
    const run = await host.api.operate(jobId, 'outline-voids', { clouds: [cloudId] });
    expect(run).toMatchObject({ state: 'failed', error: { code: 'no-ground' } });
  });

  test('the land under the shed is one, and a surface leaves it out', async () => {
    await host.api.operate(jobId, 'find-ground', { clouds: [cloudId] });
    const run = await host.api.operate(jobId, 'outline-voids', { clouds: [cloudId] });
    expect(run.outcome).toMatch(/^1 void, \d+ m² without ground$/);
    const set = (await host.api.made(jobId, 'lines')).find(({ facts }) => facts.code === 'VOID')!;
    const built = await host.api.operate(jobId, 'build-surface', { clouds: [cloudId], lines: [set.id] });
    const surface = (await host.api.made(jobId, 'surface')).find(({ id }) => id === built.productId)!;
    expect(surface.facts.areaInPlan).toBeLessThan(3600 - 70);
    expect(surface.facts.areaInPlan).toBeGreaterThan(3600 - 200);
    const none = await host.api.operate(jobId, 'outline-voids', { clouds: [cloudId], width: 30 });
    expect(none.outcome).toMatch(/no void wider than 30/);
    for (let k = 0; k < 2; k++) await host.api.undo(jobId);
    expect(await host.api.made(jobId, 'lines')).toEqual([]);
  });
});

describe('outlines of buildings', () => {
  test('there are none before roofs were found, and it is said what to do', async () => {
    const run = await outline();
    expect(run).toMatchObject({ state: 'failed', error: { code: 'no-points' } });
    expect(run.outcome ?? run.error?.fix).toMatch(/Find objects in Classify first/);
  });

  test('the shed becomes one outline of four right angles, without elevations unless they are asked for', async () => {
    await host.api.operate(jobId, 'find-ground', { clouds: [cloudId] });
    await host.api.operate(jobId, 'find-objects', { clouds: [cloudId] });
    const run = await outline();
    expect(run.outcome).toBe('1 building, 1 squared');
    const set = (await host.api.made(jobId, 'lines')).find(({ facts }) => facts.code === 'BUILDING')!;
    expect(set.facts.role).toBe('hole');
    const [ring] = unpackLines(new Uint8Array(await host.api.shown(jobId, set.id)));
    expect(ring!.isClosed).toBe(true);
    expect(ring!.easting.length).toBe(4);
    expect([...ring!.elevation].every(Number.isNaN)).toBe(true);
    for (let k = 0; k < 4; k++) {
      expect(Math.abs(Math.abs(ring!.easting[k]! - E - 30) - 5)).toBeLessThan(0.5);
      expect(Math.abs(Math.abs(ring!.northing[k]! - N - 30) - 5)).toBeLessThan(0.5);
    }
    await host.api.undo(jobId);
    expect(await host.api.made(jobId, 'lines')).toEqual([]);
    await outline({ elevations: 'roof' });
    const again = (await host.api.made(jobId, 'lines'))[0]!;
    const [high] = unpackLines(new Uint8Array(await host.api.shown(jobId, again.id)));
    expect(high!.elevation[0]).toBeGreaterThan(35);
  });

  test('leaves as a polygon whose area OGR tells', async () => {
    const [set] = await host.api.made(jobId, 'lines');
    const path = join(job.folder, 'building.gpkg');
    await writeFile(path, await host.api.file(jobId, set!.id, 'gpkg'));
    const layer = execFileSync('ogrinfo', ['-q', path], { encoding: 'utf8' }).match(/^\d+: (\S+)/m)![1]!;
    const sql = `SELECT Area(BuildArea(geom)) AS a, ST_Area(ST_Polygonize(geom)) AS b FROM "${layer}"`;
    const out = execFileSync('ogrinfo', ['-q', path, '-dialect', 'SQLite', '-sql', sql], { encoding: 'utf8' });
    const area = Math.max(...[...out.matchAll(/ = ([\d.]+)/g)].map(([, value]) => Number(value)));
    expect(Math.abs(area - 100)).toBeLessThan(10);
  });

  test('nothing is as large as was asked for: said, and nothing stored', async () => {
    const before = (await host.api.made(jobId, 'lines')).length;
    const run = await outline({ smallest: 70 });
    expect(run.outcome).toMatch(/No building is as large/);
    expect(await host.api.made(jobId, 'lines')).toHaveLength(before);
  });
});
