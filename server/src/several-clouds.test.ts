import { gatherPoints, PointFlag, type PointBatch } from '@pampero/core/cloud';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import { fieldWithShed, lasBytes, QUANTISATION, testServer, type TestServer } from './server.fixture.js';

/** A site that was flown in two days: the western half and the eastern half of one field. */
let host: TestServer;
let jobId: string;
const halves: number[] = [];
const files: Uint8Array[] = [];

const half = (points: PointBatch, isTaken: (east: number) => boolean): PointBatch =>
  gatherPoints(
    points,
    Uint32Array.from({ length: points.count }, (_, i) => i).filter((i) => isTaken(points.x[i]! / 1000)),
  );

beforeAll(async () => {
  host = await testServer();
  const field = fieldWithShed();
  files.push(await lasBytes(half(field, (east) => east < 30)), await lasBytes(half(field, (east) => east >= 30)));
});
afterAll(() => host.stop());
beforeEach(async () => {
  jobId = (await host.api.newJob('Two days')).id;
  halves.length = 0;
  for (const [k, bytes] of files.entries())
    halves.push((await host.api.import(jobId, bytes, `day-${k + 1}.las`)).productId!);
});

async function done(operation: string, parameters: Record<string, unknown>): Promise<number> {
  const run = await host.api.operate(jobId, operation, parameters);
  expect(run.state, run.outcome).toBe('done');
  return run.productId!;
}
const pointsOf = async (): Promise<number[]> => (await host.api.read(jobId)).clouds.map((cloud) => cloud.pointCount);

describe('two clouds of one site', () => {
  test('are classed in one step, which is one entry of the field book and one undo', async () => {
    await done('find-ground', { clouds: halves, cell: 2 });
    const { clouds, history } = await host.api.read(jobId);
    for (const { classCounts } of clouds) expect(classCounts['2']).toBeGreaterThan(4000);
    expect(history.entries.filter(({ operation }) => operation === 'find-ground')).toHaveLength(1);
    await host.api.undo(jobId);
    for (const { classCounts } of (await host.api.read(jobId)).clouds) expect(classCounts['2']).toBeUndefined();
  });

  test('make one surface without a seam, and one grid of it', async () => {
    await done('find-ground', { clouds: halves, cell: 2 });
    const surfaceId = await done('build-surface', { clouds: halves });
    const [surface] = await host.api.made(jobId, 'surface');
    // 60 by 60 m; ground reaches to within a point spacing of the edge.
    expect(surface!.facts.areaInPlan).toBeGreaterThan(0.97 * 3600);
    expect(surface!.facts.areaInPlan).toBeLessThanOrEqual(3600);
    expect(surface!.inputs.map(({ id }) => id).sort()).toEqual([...halves].sort());
    await done('make-grid', { method: 'tin', surfaceId, cell: 1 });
    await done('make-grid', { method: 'mean', clouds: halves, cell: 1 });
    const grids = await host.api.made(jobId, 'grid');
    for (const { facts } of grids) expect([facts.columns, facts.rows].every((n) => n >= 59 && n <= 61)).toBe(true);
  });

  test('a surface of both goes stale when one of them changes, and only then', async () => {
    await done('find-ground', { clouds: halves, cell: 2 });
    await done('build-surface', { clouds: [halves[0]!], name: 'West' });
    await done('build-surface', { clouds: halves, name: 'Both' });
    await done('find-ground', { clouds: [halves[1]!], cell: 2, tolerance: 0.005 });
    const surfaces = await host.api.made(jobId, 'surface');
    const stale = Object.fromEntries(surfaces.map(({ name, isStale }) => [name, isStale]));
    expect(stale).toEqual({ West: false, Both: true });
    expect(surfaces.find(({ name }) => name === 'Both')!.staleBecause).toContain('day-2');
    await host.api.rebuild(jobId);
    expect((await host.api.made(jobId, 'surface')).some(({ isStale }) => isStale)).toBe(false);
  });

  test('are joined to one, with classes and flags; the two stay, and undo takes the new one away', async () => {
    await done('find-ground', { clouds: halves, cell: 2 });
    const before = (await host.api.read(jobId)).clouds;
    const joined = await done('join-clouds', { clouds: halves, name: 'Whole site' });
    const whole = (await host.api.read(jobId)).clouds.find(({ id }) => id === joined)!;
    expect(whole.name).toBe('Whole site');
    expect(whole.pointCount).toBe(10_800);
    const sum = (code: string): number => before.reduce((n, { classCounts }) => n + (classCounts[code] ?? 0), 0);
    for (const code of ['1', '2']) expect(whole.classCounts[code]).toBe(sum(code));
    expect([whole.bounds.min[0], whole.bounds.max[0]].map((v) => Math.round(v - QUANTISATION.offset[0]))).toEqual([
      0, 60,
    ]);
    await host.api.undo(jobId);
    expect(await pointsOf()).toHaveLength(2);
  });

  test('one cloud twice, or one alone, is not joined, and it is said', async () => {
    for (const clouds of [[halves[0]!], [halves[0]!, halves[0]!]]) {
      const answer = await host.api.raw(`/jobs/${jobId}/operations/join-clouds`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ clouds, name: 'Whole' }),
      });
      if (answer.status < 300) {
        const run = await host.api.ended(jobId, answer.json() as never);
        expect([run.state, run.outcome]).toEqual(['failed', expect.stringMatching(/twice|two/)]);
      } else expect(JSON.stringify(answer.json())).toMatch(/two|twice/);
    }
    expect(await pointsOf()).toHaveLength(2);
  });

  test('classes go from one to the other where their points lie near each other', async () => {
    const again = (await host.api.import(jobId, files[0]!, 'day-1 again.las')).productId!;
    await done('find-ground', { clouds: [halves[0]!], cell: 2 });
    await done('transfer-classes', { fromId: halves[0]!, clouds: [again] });
    const { clouds } = await host.api.read(jobId);
    const of = (id: number) => clouds.find((cloud) => cloud.id === id)!.classCounts;
    expect(of(again)).toEqual(of(halves[0]!));
  });

  test('are counted in one table, withheld points apart', async () => {
    await done('find-ground', { clouds: halves, cell: 2 });
    const corner = [0, 6].map((v) => v);
    const [E, N] = QUANTISATION.offset;
    const corners = [[E, N], [E + corner[1]!, N], [E + 6, N + 6], [E, N + 6]]; // prettier-ignore
    await done('withhold', {
      selection: [
        {
          how: 'add',
          shape: { kind: 'boundary', corners, buffer: 0 },
          visible: { hiddenClasses: [], withWithheld: true },
        },
      ],
    });
    const id = await done('count-classes', { clouds: halves });
    const { facts } = (await host.api.made(jobId, 'class-table')).find((table) => table.id === id)!;
    expect(facts.rows.reduce((sum, { points, withheld }) => sum + points + withheld, 0)).toBe(10_800);
    const ground = facts.rows.find(({ code }) => code === 2)!;
    // Some three points a square metre on 36 m²; the land rises from 30 to 31.8 m.
    expect(ground.withheld).toBeGreaterThan(70);
    expect([ground.lowest! > 29.9, ground.highest! < 31.9]).toEqual([true, true]);
    expect(PointFlag.withheld).toBe(4);
    const csv = (await host.api.file(jobId, id, 'csv')).toString().trim().split('\n');
    expect(csv[0]).toBe('class,name,points,withheld,share,lowest m,highest m');
    expect(csv).toHaveLength(facts.rows.length + 1);
    const shares = csv.slice(1).map((line) => Number(line.split(',')[4]));
    expect(shares.reduce((a, b) => a + b)).toBeCloseTo(1, 4);
  });
});

describe('thinning', () => {
  test('by intensity keeps what lies in the range, ends and all', async () => {
    // Intensities run from 1000 to 1499, over and over.
    await done('thin-cloud', {
      clouds: [halves[0]!],
      classes: [1],
      method: 'intensity',
      intensityFrom: 1100,
      intensityTo: 1149,
      outcome: 'key-point',
    });
    const { history, clouds } = await host.api.read(jobId);
    const entry = history.entries.find(({ operation, state }) => operation === 'thin-cloud' && state === 'done')!;
    const kept = Number(entry.figures.find(({ label }) => label === 'Kept')!.value);
    // 50 of 500 values: a tenth of the points, give or take what chance does to the halves.
    expect(kept / clouds[0]!.pointCount).toBeCloseTo(0.1, 1);
  });
});
