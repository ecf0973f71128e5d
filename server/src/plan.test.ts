import { execFileSync } from 'node:child_process';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { PAPERS, paperLayout } from '@pampero/core/plans';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { fieldWithShed, lasBytes, QUANTISATION, testServer, type TestServer } from './server.fixture.js';

/** A plan to scale, read back by poppler as paper and by GDAL as a map. */
let host: TestServer;
let folder: string;
let jobId: string;
let cloudId: number;
let contours: number;
const [E, N] = QUANTISATION.offset;
const MM = 72 / 25.4;

beforeAll(async () => {
  host = await testServer();
  folder = await mkdtemp(join(tmpdir(), 'pampero-plan-'));
  jobId = (await host.api.newJob('Flood bank')).id;
  cloudId = (await host.api.import(jobId, await lasBytes(fieldWithShed()))).productId!;
  const surface = await done('build-surface', { clouds: [cloudId], classes: [1] });
  contours = (await done('draw-contours', { on: 'surface', surfaceId: surface, interval: 0.25 }))!;
  await host.api.fromFile(jobId, 'import-control', `1,${N + 10},${E + 10},30.3,GND\n2,${N + 50},${E + 40},31.3,GND\n`, 'checks.csv', { role: 'check' }); // prettier-ignore
  await done('draw-lines', {
    put: [{ code: 'FENCE', easting: [E + 5, E + 55], northing: [N + 5, N + 55], elevation: [30, 31] }],
    remove: [],
  });
});
afterAll(async () => {
  await host.stop();
  await rm(folder, { recursive: true, force: true });
});

async function done(operation: string, parameters: Record<string, unknown>): Promise<number | undefined> {
  const run = await host.api.operate(jobId, operation, parameters);
  expect(run.state, run.outcome).toBe('done');
  return run.productId;
}
async function planOf(parameters: Record<string, unknown>): Promise<{ path: string; id: number }> {
  const [fence] = await host.api.made(jobId, 'lines');
  const id = (await done('draw-plan', { contours: [contours], lines: [fence!.id], ...parameters }))!;
  const path = join(folder, `${id}.pdf`);
  await writeFile(path, await host.api.file(jobId, id, 'pdf'));
  return { path, id };
}
const tool = (name: string, ...args: string[]): string => execFileSync(name, args, { encoding: 'utf8' });
const factsOf = async (id: number) => (await host.api.made(jobId, 'plan')).find((plan) => plan.id === id)!.facts;

describe('a plan', () => {
  test('is of the paper and scale that were asked for, and says what it is', async () => {
    const { path, id } = await planOf({
      title: 'Survey of the field',
      paper: 'A3',
      client: 'Water board',
      drawnBy: 'M. P.',
      number: '7-12',
    });
    // A field of 60 m is 240 mm high at 1 : 250, and the map of an A3 sheet 223 mm.
    expect(await factsOf(id)).toEqual({ scale: 500, paper: 'A3 landscape', sheets: 1 });
    const size = /Page size:\s+([\d.]+) x ([\d.]+) pts/.exec(tool('pdfinfo', path))!;
    expect(Number(size[1])).toBeCloseTo(PAPERS.A3[1] * MM, 0);
    expect(Number(size[2])).toBeCloseTo(PAPERS.A3[0] * MM, 0);
    const text = tool('pdftotext', '-layout', path, '-');
    for (const words of [
      'Survey of the field',
      '1 : 500',
      'Water board',
      'M. P.',
      '7-12',
      'EPSG:5347',
      'Fence',
      'Contours every 0.25 m',
      'Check point',
      'FENCE (',
      '5 512 050 E',
      '6 150 050 N',
    ])
      // prettier-ignore
      expect(text.replace(/\s+/g, ' ')).toContain(words);
  });

  test('lies at its place for GDAL: its map is to scale, to a tenth of a millimetre on paper', async () => {
    const { path } = await planOf({ paper: 'A3', scale: '500' });
    const info = JSON.parse(tool('gdalinfo', '-json', '--config', 'GDAL_PDF_DPI', '254', path)) as {
      geoTransform: number[];
      coordinateSystem: { wkt: string };
      size: number[];
    };
    expect(info.coordinateSystem.wkt).toContain('POSGAR 2007');
    const [west, eastPerPixel, , north, , northPerPixel] = info.geoTransform as [number, number, number, number, number, number]; // prettier-ignore
    // At 254 dots an inch a pixel is a tenth of a millimetre: 50 mm on land.
    expect(eastPerPixel).toBeCloseTo(0.05, 4);
    expect(northPerPixel).toBeCloseTo(-0.05, 4);
    const { map } = paperLayout('A3', 'landscape');
    const [centreEast, centreNorth] = [
      west + (map.x + map.width / 2) * 10 * eastPerPixel,
      north + (map.y + map.height / 2) * 10 * northPerPixel,
    ];
    // Contours reach to the edges of the field, give or take a point's distance.
    expect(Math.abs(centreEast - (E + 30))).toBeLessThan(1.5);
    expect(Math.abs(centreNorth - (N + 30))).toBeLessThan(1.5);
  });

  test('about a place that was given, that place is the middle of the map', async () => {
    const { path } = await planOf({ paper: 'A4', scale: '200', centreEast: E + 20, centreNorth: N + 40 });
    const info = JSON.parse(tool('gdalinfo', '-json', '--config', 'GDAL_PDF_DPI', '254', path)) as {
      geoTransform: [number, number, number, number, number, number];
    };
    const { map } = paperLayout('A4', 'landscape');
    const [west, east, , north, , south] = info.geoTransform;
    expect(west + (map.x + map.width / 2) * 10 * east).toBeCloseTo(E + 20, 1);
    expect(north + (map.y + map.height / 2) * 10 * south).toBeCloseTo(N + 40, 1);
  });

  test('land that does not fit takes several sheets, each with its name', async () => {
    const { path, id } = await planOf({ paper: 'A4', scale: '100' });
    const { sheets } = await factsOf(id);
    // Sheets show 26.7 by 14.4 m and overlap by 1 m: three across, five down.
    expect(sheets).toBe(15);
    expect(Number(/Pages:\s+(\d+)/.exec(tool('pdfinfo', path))![1])).toBe(sheets);
    expect(tool('pdftotext', path, '-')).toMatch(/A1, 1 of 15[\s\S]*E3, 15 of 15/);
  });

  test('goes stale with what it shows, says so on paper, and is rebuilt with it', async () => {
    const { id } = await planOf({ paper: 'A4' });
    await done('draw-lines', {
      put: [{ code: 'FENCE', easting: [E + 1, E + 2], northing: [N + 1, N + 2], elevation: [30, 31] }],
      remove: [],
    });
    const stale = (await host.api.made(jobId, 'plan')).find((plan) => plan.id === id)!;
    expect(stale.staleBecause).toBe('FENCE has changed.');
    expect((await host.api.rebuild(jobId)).left).toEqual([]);
    expect((await host.api.made(jobId, 'plan')).filter(({ isStale }) => isStale)).toEqual([]);
  });

  test.each([
    [{ contours: [], lines: [], control: false }, /There is nothing to draw/],
    [{ scale: '50', paper: 'A4', centreEast: E }, /only one coordinate/],
  ])('%j is refused in words', async (parameters, words) => {
    const run = await host.api.operate(jobId, 'draw-plan', { contours: [contours], ...parameters });
    expect(run.state).toBe('failed');
    expect(run.outcome).toMatch(words);
  });
});
