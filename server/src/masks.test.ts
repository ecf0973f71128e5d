import { execFileSync } from 'node:child_process';
import { mkdtemp, readFile, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeGeoTiff } from '@pampero/core/formats/geotiff';
import { seededRandom } from '@pampero/core/task';
import { deflateSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { fieldWithShed, QUANTISATION, testJob, type TestJob, type TestServer } from './server.fixture.js';

/** Masks by colour, from the places picked to the points and lines that are made of them. */
const [E, N] = QUANTISATION.offset;
const PIXEL = 0.2;
const POND = { e: 15, n: 40, radius: 8 };
/** Another pond of the same colour, and a shed's shadow that is nearly it. */
const OTHER = { e: 50, n: 12, radius: 4 };
let job: TestJob;
let host: TestServer;
let jobId: string;
let cloudId: number;
let pictureId: number;

const isIn = ({ e, n, radius }: typeof POND, east: number, north: number): boolean =>
  Math.hypot(east - e, north - n) < radius;

/** A picture of 60 by 60: grass, a pond with an island and glints, a second one. Row 0 the southernmost. */
function picture(): Uint8Array {
  const side = 60 / PIXEL;
  const random = seededRandom(4);
  const rgb = new Uint8Array(3 * side * side);
  for (let row = 0, k = 0; row < side; row++)
    for (let column = 0; column < side; column++, k += 3) {
      const [e, n] = [(column + 0.5) * PIXEL, (row + 0.5) * PIXEL];
      const isWater = (isIn(POND, e, n) && !isIn({ ...POND, radius: 2 }, e, n)) || isIn(OTHER, e, n);
      const glint = isWater && random() < 0.02;
      const base = glint ? [200, 205, 210] : isWater ? [50, 68, 74] : [126, 138, 78];
      for (let band = 0; band < 3; band++) rgb[k + band] = base[band]! + Math.floor(10 * random() - 5);
    }
  const frame = { east: E, north: N, cell: PIXEL, columns: side, rows: side };
  return writeGeoTiff(rgb, frame, { epsg: 5347, deflate: (bytes: Uint8Array) => deflateSync(bytes) });
}

beforeAll(async () => {
  job = await testJob(fieldWithShed());
  ({ host, jobId, cloudId } = job);
  const run = await host.api.fromFile(jobId, 'import-picture', picture() as unknown as string, 'ponds.tif');
  expect(run.state, run.outcome).toBe('done');
  pictureId = run.productId!;
});
afterAll(() => job.stop());

const places = [[E + POND.e + 5, N + POND.n]];
const make = (given: Record<string, unknown> = {}) =>
  host.api.operate(jobId, 'mask-by-colour', { picture: pictureId, places, ...given });
const refusal = async (operation: string, body: Record<string, unknown>): Promise<string> => {
  const answer = await host.api.raw(`/jobs/${jobId}/operations/${operation}`, {
    method: 'POST',
    body: JSON.stringify(body),
    headers: { 'content-type': 'application/json' },
  });
  expect(answer.status).toBeGreaterThanOrEqual(400);
  expect(answer.status).toBeLessThan(500);
  const { detail, errors } = answer.json() as { detail: string; errors?: { detail: string }[] };
  return errors?.[0]?.detail ?? detail;
};
const RING = Math.PI * (POND.radius ** 2 - 2 ** 2);

describe('a mask by colour', () => {
  test('is the pond that was picked, its island left out and its glints filled', async () => {
    const run = await make({ name: 'Pond' });
    expect(run.state, run.outcome).toBe('done');
    const { facts, inputs } = await host.api.newest(jobId, 'mask');
    expect(facts.pieces).toBe(1);
    expect(facts.area / RING).toBeGreaterThan(0.97);
    expect(facts.area / RING).toBeLessThan(1.03);
    expect(inputs.map(({ kind, id }) => [kind, id])).toEqual([['product', pictureId]]);
    const rings = JSON.parse((await host.api.shown(jobId, run.productId)).toString()) as { isIsland: boolean }[];
    expect(rings.map(({ isIsland }) => isIsland)).toEqual([false, true]);
    // One polygon with a hole, as GDAL reads it, and as large as the mask is said to be.
    const path = join(await mkdtemp(join(tmpdir(), 'pampero-mask-')), 'pond.geojson');
    await writeFile(path, await host.api.file(jobId, run.productId, 'geojson'));
    const sql = 'SELECT OGR_GEOM_AREA, number FROM pond';
    const told = execFileSync('/usr/bin/ogrinfo', ['-q', '-sql', sql, path], { encoding: 'utf8' });
    const area = Number(/OGR_GEOM_AREA \(Real\) = ([\d.]+)/.exec(told)![1]);
    expect(area / facts.area).toBeCloseTo(1, 2);
    expect(/POLYGON \(\(.*\),\(.*\)\)/.test(told)).toBe(true);
    expect(told.match(/\),\(/g)).toHaveLength(1);
    // The same as a raster, cell for cell.
    const raster = path.replace('geojson', 'tif');
    await writeFile(raster, await host.api.file(jobId, run.productId, 'tif'));
    const { bands, geoTransform } = JSON.parse(execFileSync('/usr/bin/gdalinfo', ['-json', raster], { encoding: 'utf8' })) as { bands: { type: string }[]; geoTransform: number[] }; // prettier-ignore
    expect(bands.map(({ type }) => type)).toEqual(['Byte']);
    expect(geoTransform).toEqual([facts.east, facts.eastPerColumn, facts.eastPerRow, facts.north, facts.northPerColumn, facts.northPerRow]); // prettier-ignore
    execFileSync('/usr/bin/gdal_translate', ['-q', '-of', 'ENVI', raster, `${raster}.img`]);
    const ones = (await readFile(`${raster}.img`)).reduce((sum, value) => sum + value, 0);
    expect(ones * facts.eastPerColumn ** 2).toBeCloseTo(facts.area, 6);
  });

  test('takes what looks alike elsewhere too where that is wanted, and no more of it than is large enough', async () => {
    await make({ everywhere: true });
    expect((await host.api.newest(jobId, 'mask')).facts.pieces).toBe(2);
    await make({ everywhere: true, smallestPiece: 9 });
    expect((await host.api.newest(jobId, 'mask')).facts.pieces).toBe(1);
  });

  test('grows, is painted, and finds the same colours again without places', async () => {
    const first = await make();
    const { facts } = await host.api.newest(jobId, 'mask');
    await make({ grow: 1 });
    const grown = (await host.api.newest(jobId, 'mask')).facts.area;
    expect(grown / (Math.PI * 9 ** 2 - Math.PI)).toBeCloseTo(1, 1);
    await make({ painted: [{ path: [[E + 40, N + 40]], radius: 3, adds: true }] });
    const painted = (await host.api.newest(jobId, 'mask')).facts;
    expect(painted.pieces).toBe(2);
    expect(painted.area - facts.area).toBeCloseTo(Math.PI * 9, 0);
    const again = await host.api.operate(jobId, 'mask-by-colour', { picture: pictureId, like: first.productId, everywhere: true }); // prettier-ignore
    expect(again.state, again.outcome).toBe('done');
    const { facts: found } = await host.api.newest(jobId, 'mask');
    expect([found.pieces, found.tolerance, found.colours]).toEqual([2, facts.tolerance, facts.colours]);
  });

  test('is seen before it is made, as it will be', async () => {
    const window = { west: E, south: N, east: E + 60, north: N + 60 };
    const seen = await host.api.call('previewMask', `/jobs/${jobId}/products/${pictureId}/mask-preview`, {
      body: { window, parameters: { places } },
    });
    await make();
    const { facts } = await host.api.newest(jobId, 'mask');
    expect(seen.area).toBe(facts.area);
    expect(seen.rings).toHaveLength(2);
    const apart = { west: E + 1000, south: N, east: E + 1060, north: N + 60 };
    const answer = await host.api.raw(`/jobs/${jobId}/products/${pictureId}/mask-preview`, {
      method: 'POST',
      body: JSON.stringify({ window: apart, parameters: { like: facts.pieces, places: [] } }),
      headers: { 'content-type': 'application/json' },
    });
    expect(answer.status).toBeGreaterThanOrEqual(400);
    expect(answer.status).toBeLessThan(500);
  });

  test('what cannot be one is refused in words', async () => {
    expect(await refusal('mask-by-colour', { picture: pictureId })).toBe(
      'Click at least one place in Plan that looks as the mask should.',
    );
    const outside = await make({ places: [[E + 500, N]] });
    expect(outside).toMatchObject({ state: 'failed', error: { code: 'place-outside' } });
    expect(outside.outcome).toContain('shows nothing at');
    const nothing = await make({ painted: [{ path: [[E + 15, N + 40]], radius: 100, adds: false }] });
    expect(nothing).toMatchObject({ state: 'failed', error: { code: 'mask-empty' } });
  });
});

describe('what is made of a mask', () => {
  let maskId: number;
  beforeAll(async () => {
    maskId = (await make({ name: 'Pond' })).productId!;
  });
  /** Points of the field on the pond: its column is all ground but for the shed, which stands elsewhere. */
  function onPond(): number {
    const { x, y, count } = fieldWithShed();
    let points = 0;
    for (let i = 0; i < count; i++) {
      const [e, n] = [x[i]! / 1000, y[i]! / 1000];
      if (isIn(POND, e, n) && !isIn({ ...POND, radius: 2 }, e, n)) points++;
    }
    return points;
  }

  test('its points become water; undo takes that back; withheld ones stay in the job', async () => {
    const run = await host.api.operate(jobId, 'use-mask', { mask: maskId, clouds: [cloudId] });
    expect(run.state, run.outcome).toBe('done');
    expect(run.outcome).toMatch(/points on Pond to 9 Water/);
    const { classCounts } = (await host.api.read(jobId)).clouds[0]!;
    expect(Math.abs(classCounts['9']! - onPond())).toBeLessThan(0.03 * onPond());
    await host.api.undo(jobId);
    expect((await host.api.read(jobId)).clouds[0]!.classCounts).toEqual({ '1': 10_800 });
    const held = await host.api.operate(jobId, 'use-mask', { mask: maskId, clouds: [cloudId], change: 'withhold' });
    expect(held.outcome).toMatch(/withheld$/);
    const again = await host.api.operate(jobId, 'use-mask', { mask: maskId, clouds: [cloudId], change: 'withhold' });
    expect(again).toMatchObject({ state: 'failed', error: { code: 'nothing-under-mask' } });
    await host.api.undo(jobId);
  });

  test('what stands high over a surface is left', async () => {
    await host.api.operate(jobId, 'find-ground', { clouds: [cloudId] });
    const surface = await host.api.operate(jobId, 'build-surface', { clouds: [cloudId] });
    const whole = await host.api.operate(jobId, 'mask-by-colour', {
      picture: pictureId,
      places: [],
      painted: [{ path: [[E + 30, N + 30]], radius: 20, adds: true }],
    });
    expect(whole.state, whole.outcome).toBe('done');
    const all = { mask: whole.productId, clouds: [cloudId], classes: [0, 1, 2] };
    const run = await host.api.operate(jobId, 'use-mask', { ...all, surface: surface.productId, height: '2 m' });
    expect(run.state, run.outcome).toBe('done');
    // The shed's roof, 8 m up, stays; with no surface given it would go.
    const { classCounts } = (await host.api.read(jobId)).clouds[0]!;
    expect(classCounts['1']).toBeGreaterThan(250);
    await host.api.undo(jobId);
  });

  test('its points are laid flat at the level of the ground about each piece, or a typed one; undo brings them back', async () => {
    await make({ everywhere: true });
    const mask = (await host.api.newest(jobId, 'mask')).id;
    const heights = async (): Promise<number[]> => {
      const { body } = await host.api.raw(`/jobs/${jobId}/clouds/${cloudId}/points?format=xyz`);
      return Buffer.from(body)
        .toString()
        .trim()
        .split('\n')
        .map((line) =>
          line
            .trim()
            .split(/[\s,]+/)
            .map(Number),
        )
        .filter(
          ([e, n]) =>
            isIn({ ...OTHER, radius: 3.4 }, e! - E, n! - N) ||
            (isIn({ ...POND, radius: 7.4 }, e! - E, n! - N) && !isIn({ ...POND, radius: 2.6 }, e! - E, n! - N)),
        ) // prettier-ignore
        .map(([, , z]) => z!);
    };
    const before = await heights();
    expect(new Set(before).size).toBeGreaterThan(20);
    const none = await host.api.operate(jobId, 'lay-flat', { mask, cloud: cloudId, classes: [6], level: 30 });
    expect(none.outcome).toContain('is of the classes chosen and near the level');
    const run = await host.api.operate(jobId, 'lay-flat', { mask, cloud: cloudId });
    expect(run.state, run.outcome).toBe('done');
    const levels = /flat at (.*) m$/.exec(run.outcome!)![1]!.split(', ').map(Number);
    expect(levels).toHaveLength(2);
    const flat = await heights();
    expect(flat).toHaveLength(before.length);
    expect(new Set(flat).size).toBe(2);
    for (const z of new Set(flat)) expect(Math.min(...levels.map((level) => Math.abs(level - z)))).toBeLessThan(6e-3);
    await host.api.undo(jobId);
    expect(await heights()).toEqual(before);
    const typed = await host.api.operate(jobId, 'lay-flat', { mask, cloud: cloudId, level: 30.25, reach: 50 });
    expect(typed.state, typed.outcome).toBe('done');
    expect([...new Set(await heights())]).toEqual([30.25]);
    await host.api.undo(jobId);
  });

  test('its edge gets the level of the ground about it, and a surface lies flat there', async () => {
    const run = await host.api.operate(jobId, 'outline-mask', { mask: maskId, clouds: [cloudId] });
    expect(run.state, run.outcome).toBe('done');
    const [lines] = await host.api.made(jobId, 'lines');
    expect(lines).toMatchObject({ name: 'WATER-EDGE', facts: { role: 'water' } });
    // The field rises by 2 % east and 1 % north: about its middle, the ground is 30 + 0.3 + 0.4.
    const { figures } = (await host.api.read(jobId)).history.entries[0]!;
    const told = figures.find(({ label }) => label === 'Level')!.value as string;
    expect(parseFloat(told)).toBeGreaterThan(30.6);
    expect(parseFloat(told)).toBeLessThan(30.8);
    const typed = await host.api.operate(jobId, 'outline-mask', { mask: maskId, level: 31.5 });
    expect(typed.state, typed.outcome).toBe('done');
    const without = await host.api.operate(jobId, 'outline-mask', { mask: maskId });
    expect(without).toMatchObject({ state: 'failed', error: { code: 'no-level' } });
    const plain = await host.api.operate(jobId, 'outline-mask', { mask: maskId, code: 'GRASS-EDGE' });
    expect(plain.state, plain.outcome).toBe('done');
  });
});
