import { mkdtemp, rm, stat, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import type { ProductOf, Run, Workbench } from '@pampero/contract';
import { newPointBatch } from '@pampero/core/cloud';
import { bufferSink } from '@pampero/core/formats';
import { writeLas } from '@pampero/core/formats/las';
import { seededRandom } from '@pampero/core/task';
import type { Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { openBench, type Bench } from './browser.js';

const [E, N, SIDE] = [5_512_000, 6_150_000, 100];
/** A field that falls to the south with a mound in its middle. */
const heightAt = (e: number, n: number): number => 30 + 0.02 * n + 3 * Math.exp(-((e - 50) ** 2 + (n - 50) ** 2) / 200);

/** What the page lends to who tests it. */
interface Survey {
  readonly scene: { seenAt(place: readonly number[]): readonly [number, number] | undefined };
  readonly land: {
    volume(outline: readonly (readonly number[])[], level: number): { above: number; below: number };
    at(x: number, y: number): number;
  };
  readonly view: { readonly base: number; readonly frame: { readonly east: number; readonly north: number } };
}

let bench: Bench;
let folder: string;
let jobId: string;
let surfaceId: number;
let contoursId: number;
const api = async (path: string, body?: unknown, method = body === undefined ? 'GET' : 'POST'): Promise<Response> =>
  fetch(`${bench.server.url}/api${path}`, {
    method,
    ...(body !== undefined && { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }),
  });

async function operate(operation: string, parameters: Record<string, unknown>): Promise<number> {
  let run = (await (await api(`/jobs/${jobId}/operations/${operation}`, parameters)).json()) as Run;
  while (run.state === 'queued' || run.state === 'running') {
    await new Promise((wake) => setTimeout(wake, 40));
    run = (await (await api(`/jobs/${jobId}/runs/${run.id}`)).json()) as Run;
  }
  expect(run.state, run.outcome).toBe('done');
  return run.productId!;
}

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'pampero-client-'));
  const count = 40_000;
  const random = seededRandom(41);
  const points = newPointBatch(count, {
    gpsTime: false,
    rgb: false,
    nearInfrared: false,
    wavePacket: false,
    extraBytesLength: 0,
  });
  for (let i = 0; i < count; i++) {
    const [e, n] = [random() * SIDE, random() * SIDE];
    points.x[i] = Math.round(e * 1000);
    points.y[i] = Math.round(n * 1000);
    points.z[i] = Math.round(heightAt(e, n) * 1000);
    points.classification[i] = 2;
    points.returns[i] = 0x11;
  }
  const sink = bufferSink();
  await writeLas(sink, [points], {
    version: '1.4',
    pointFormat: 6,
    quantisation: { scale: [0.001, 0.001, 0.001], offset: [E, N, 0] },
    crs: { epsg: 5347 },
  });
  await writeFile(join(folder, 'field.las'), sink.bytes());
  bench = await openBench();
  jobId = ((await (await api('/jobs', { name: 'Mound', epsg: 5347 })).json()) as { id: string }).id;
  const source = { path: join(folder, 'field.las'), fileName: 'field.las' };
  await (
    await bench.server.operations.startWithFile(jobId, 'import-cloud', source, {})
  ).finished;
  const cloud = ((await (await api(`/jobs/${jobId}`)).json()) as Workbench).clouds[0]!.id;
  surfaceId = await operate('build-surface', { clouds: [cloud] });
  contoursId = await operate('draw-contours', { surfaceId, interval: 0.5 });
  await api(`/jobs/${jobId}/pins`, {
    kind: 'note',
    name: 'Top of the mound',
    place: [E + 50, N + 50, heightAt(50, 50)],
  });
  const html = await api(`/jobs/${jobId}/client-view`, {
    surfaceId,
    contoursId,
    clouds: [cloud],
    megabytes: 2,
    words: 'A field with a mound.',
  });
  await writeFile(join(folder, 'view.html'), Buffer.from(await html.arrayBuffer()));
}, 120_000);
afterAll(async () => {
  await bench?.stop();
  await rm(folder, { recursive: true, force: true });
});

async function opened(size = { width: 1280, height: 800 }): Promise<{ page: Page; asked: string[]; errors: string[] }> {
  const context = await bench.browser.newContext({ viewport: size, offline: true });
  const page = await context.newPage();
  const asked: string[] = [];
  const errors: string[] = [];
  page.on('request', (request) => {
    if (!/^(file|data|blob):/.test(request.url())) asked.push(request.url());
  });
  page.on('pageerror', (error) => errors.push(error.message));
  await page.goto(pathToFileURL(join(folder, 'view.html')).href);
  await page.waitForFunction(() => document.body.dataset['laid']);
  return { page, asked, errors };
}

describe('the one file, from the disk and without a network', () => {
  test('is as small as was asked for, shows land and words, and asks for nothing', async () => {
    expect((await stat(join(folder, 'view.html'))).size).toBeLessThanOrEqual(2_000_000);
    const { page, asked, errors } = await opened();
    expect(await page.title()).toBe('Mound');
    expect(await page.innerText('#about')).toContain('A field with a mound.');
    expect(await page.innerText('#labels')).toContain('Top of the mound');
    for (const id of ['show-contours', 'show-points']) expect(await page.locator(`#${id}`).count(), id).toBe(1);
    expect(asked).toEqual([]);
    expect(errors).toEqual([]);
    await page.context().close();
  });

  test('measures the distance of two places as their coordinates have it', async () => {
    const { page } = await opened();
    await page.click('[data-tool=distance]');
    const places = [[20, 30], [80, 75]] as const; // prettier-ignore
    for (const [e, n] of places) {
      const [x, y] = await page.evaluate(([east, north, z]) => {
        const { scene, view } = (window as unknown as { survey: Survey }).survey;
        return scene.seenAt([east! - view.frame.east, north! - view.frame.north, z! - view.base])!;
      }, [E + e, N + n, heightAt(e, n)]); // prettier-ignore
      await page.mouse.click(x, y);
    }
    const told = Number(/^([\d.]+) m/.exec((await page.innerText('#flat')).replace(/\s/g, ' '))![1]);
    // A pixel is a third of a metre here.
    expect(Math.abs(told - Math.hypot(60, 45))).toBeLessThan(0.5);
    const rise = Number(/([\d.]+) m/.exec(await page.innerText('#rise'))![1]);
    expect(Math.abs(rise - (heightAt(80, 75) - heightAt(20, 30)))).toBeLessThan(0.05);
    await page.context().close();
  });

  test('the volume over a level is the server’s, which is exact over the triangles', async () => {
    const level = 31;
    const id = await operate('measure-volume', { surfaceId, against: 'level', level });
    const { facts } = (await (await api(`/jobs/${jobId}/products/${id}`)).json()) as ProductOf<'volume'>;
    const { page } = await opened();
    const { above, below } = await page.evaluate((at) => {
      const { land, view } = (window as unknown as { survey: Survey }).survey;
      return land.volume([[-5, -5], [110, -5], [110, 110], [-5, 110]], at - view.base); // prettier-ignore
    }, level);
    // Fill is the surface above the level, cut below it; or the other way round, by whom one asks.
    const [more, less] = [Math.max(facts.cut, facts.fill), Math.min(facts.cut, facts.fill)];
    expect(Math.abs(Math.max(above, below) - more) / more).toBeLessThan(0.005);
    expect(Math.abs(Math.min(above, below) - less) / less).toBeLessThan(0.005);
    await page.context().close();
  });

  test('is turned by keys, stretched, drawn as a profile, and fits a phone', async () => {
    const { page, errors } = await opened({ width: 390, height: 844 });
    const where = () =>
      page.evaluate(() => (window as unknown as { survey: Survey }).survey.scene.seenAt([38, 60, 1])!.join());
    const before = await where();
    await page.locator('#land-view').press('ArrowLeft');
    expect(await where()).not.toBe(before);
    await page.locator('#land-view').press('Home');
    expect(await where()).toBe(before);
    await page.click('text=Show …');
    await page.locator('[aria-label="Stretch heights"]').fill('3');
    await page.click('text=Show …');
    await page.click('[data-tool=profile]');
    await page.mouse.click(120, 430);
    await page.mouse.click(270, 420);
    await page.locator('#reading canvas').waitFor();
    const wide = await page.evaluate(() => document.documentElement.scrollWidth);
    expect(wide).toBeLessThanOrEqual(390);
    expect(errors).toEqual([]);
    await page.context().close();
  });

  test('shared by a link it opens the same in a browser of its own, sandboxed', async () => {
    const made = (await (await api(`/jobs/${jobId}/shares`, { view: { surfaceId, contoursId } })).json()) as {
      address: string;
    };
    const context = await bench.browser.newContext();
    const page = await context.newPage();
    const errors: string[] = [];
    page.on('pageerror', (error) => errors.push(error.message));
    await page.goto(bench.server.url + made.address);
    await page.waitForFunction(() => document.body.dataset['laid']);
    expect(await page.evaluate(() => window.origin)).toBe('null');
    // What runs in the page reaches nothing of the server.
    const reached = await page.evaluate(
      (url) =>
        fetch(url).then(
          () => 'reached',
          () => 'refused',
        ),
      `${bench.server.url}/api/jobs`,
    );
    expect(reached).toBe('refused');
    expect(errors).toEqual([]);
    await context.close();
  });
});
