import { copyFile, mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { deflateSync } from 'node:zlib';
import type { Product, ProductOf, Workbench } from '@pampero/contract';
import { writeGeoTiff } from '@pampero/core/formats/geotiff';
import { CORNER, ensureDemoFiles, farm, FRAME_CAMERA, framePoses, packFrames, renderOrthophoto } from '@pampero/demo';
import { unzipSync } from 'fflate';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { openBench, type Bench } from './browser.js';

/** How far the picture lies aside, metres. */
const SHIFT = [1.1, -0.7] as const;
let bench: Bench;
let folder: string;
let jobId: string;

const at = (id: string) => bench.page.getByTestId(id);
const state = async () => (await (await fetch(`${bench.server.url}/api/jobs/${jobId}`)).json()) as Workbench;
const picture = async () => (await state()).products.find(({ kind }) => kind === 'picture') as ProductOf<'picture'> | undefined; // prettier-ignore
async function until(is: () => Promise<boolean>): Promise<void> {
  for (let i = 0; i < 400 && !(await is()); i++) await bench.page.waitForTimeout(150);
  expect(await is()).toBe(true);
}
/** The mean colour of a square of the canvas, as shares of the width and height of Plan. */
async function colourAt(x: number, y: number): Promise<readonly [number, number, number]> {
  const box = (await at('view-plan').boundingBox())!;
  const clip = { x: box.x + x * box.width, y: box.y + y * box.height, width: 8, height: 8 };
  const shot = await bench.page.screenshot({ clip });
  const { channels } = await sharp(shot).stats();
  return [channels[0]!.mean, channels[1]!.mean, channels[2]!.mean];
}
/** Grass and soil have a colour; unclassified points and the ground of the drawing have none. */
const isColourful = (colour: readonly number[]): boolean => Math.max(...colour) - Math.min(...colour) > 30;

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'pampero-pictures-'));
  const { lidar } = await ensureDemoFiles(join(tmpdir(), 'pampero-demo-files'));
  await copyFile(lidar, join(folder, 'farm.las'));
  const { rgb, frame } = renderOrthophoto(farm(1853), { pixel: 0.4, shift: SHIFT, leans: true });
  const place = { ...frame, east: CORNER.easting, north: CORNER.northing };
  await writeFile(join(folder, 'ortho.tif'), writeGeoTiff(rgb, place, { epsg: 5347, deflate: (b) => deflateSync(b) }));
  bench = await openBench();
  const created = await fetch(`${bench.server.url}/api/jobs`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ name: 'Pictures', epsg: 5347 }) }); // prettier-ignore
  jobId = ((await created.json()) as { id: string }).id;
  const source = { path: join(folder, 'farm.las'), fileName: 'farm.las' };
  await (
    await bench.server.operations.startWithFile(jobId, 'import-cloud', source, {})
  ).finished;
  await bench.page.goto(`${bench.server.url}/jobs/${jobId}/intake`);
  await at('picture-file').waitFor({ state: 'attached' });
}, 120_000);
afterAll(async () => {
  await bench.stop();
  await rm(folder, { recursive: true, force: true });
});

describe('an orthophoto', { timeout: 120_000 }, () => {
  test('comes in by its button, and lies over the points where it is wiped', async () => {
    await at('picture-file').setInputFiles(join(folder, 'ortho.tif'));
    await until(async () => (await picture()) !== undefined);
    await at('wipe').waitFor();
    expect(isColourful(await colourAt(0.25, 0.75))).toBe(false);
    await at('wipe').evaluate((input: HTMLInputElement) => {
      input.value = '0.5';
      input.dispatchEvent(new Event('input', { bubbles: true }));
      input.dispatchEvent(new Event('change', { bubbles: true }));
    });
    await until(async () => isColourful(await colourAt(0.25, 0.75)));
    expect(isColourful(await colourAt(0.8, 0.75))).toBe(false);
  });

  test('colouring is refused while it lies aside, with the shift in words', async () => {
    await at('part-colour').click();
    await at('run-colour-cloud').click();
    await bench.page.getByText('nothing was coloured').first().waitFor({ timeout: 60_000 });
  });

  test('the check shows arrows and says how sure it is; the shift is taken out', async () => {
    await at('part-shift').click();
    await at('run-check-shift').click();
    await at('shift-check').filter({ hasText: 'Sure' }).waitFor({ timeout: 60_000 });
    const check = (await state()).products.find(({ kind }) => kind === 'shift-check') as ProductOf<'shift-check'>;
    expect(Math.hypot(check.facts.east - SHIFT[0], check.facts.north - SHIFT[1])).toBeLessThan(0.3 * check.facts.cell);
    expect(await at('shift-check').locator('line').count()).toBeGreaterThan(20);
    const before = (await picture())!;
    const form = bench.page.getByTestId('form-move-picture');
    await form.getByLabel('By', { exact: true }).click();
    await bench.page.getByRole('option', { name: 'Shift of ortho' }).click();
    await at('run-move-picture').click();
    await until(async () => (await picture())?.id !== before.id);
    const after = (await picture())!;
    expect(after.facts.east).toBeCloseTo(before.facts.east - check.facts.east, 6);
  });

  test('then the cloud is coloured and shown in its colours; undo takes them back', async () => {
    await at('run-colour-cloud').click();
    await until(async () => (await state()).clouds[0]!.columns.rgb);
    await at('wipe').evaluate((input: HTMLInputElement) => {
      input.value = '0';
      input.dispatchEvent(new Event('input', { bubbles: true }));
      input.dispatchEvent(new Event('change', { bubbles: true }));
    });
    await until(async () => isColourful(await colourAt(0.8, 0.75)));
    await at('undo').click();
    await until(async () => !(await state()).clouds[0]!.columns.rgb);
  });

  test('a world file alone, and a picture that says nothing of its place, are told in words', async () => {
    await writeFile(join(folder, 'alone.tfw'), '1\n0\n0\n-1\n0\n0\n');
    await at('picture-file').setInputFiles(join(folder, 'alone.tfw'));
    await bench.page.getByText('That is a world file alone').waitFor();
    const products = (await state()).products.map(({ id }: Product) => id);
    await writeFile(join(folder, 'plain.png'), Buffer.from('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==', 'base64')); // prettier-ignore
    await at('picture-file').setInputFiles(join(folder, 'plain.png'));
    await bench.page.getByText('does not say where it lies').first().waitFor();
    expect((await state()).products.map(({ id }: Product) => id)).toEqual(products);
  });

  test('photographs are chosen with their list, shown where they were taken, and colour the cloud', async () => {
    const land = { ...renderOrthophoto(farm(1853), { pixel: 0.5, shift: [0, 0], leans: false }), east: CORNER.easting, north: CORNER.northing }; // prettier-ignore
    const packed = unzipSync(await packFrames(land, framePoses().slice(27, 33)));
    const files = await Promise.all(
      Object.entries(packed).map(async ([name, bytes]) => {
        await writeFile(join(folder, name), bytes);
        return join(folder, name);
      }),
    );
    await at('part-photographs').click();
    const form = bench.page.getByTestId('form-import-photographs');
    await at('run-import-photographs').click();
    await form.getByText('Focal length, mm: type a number.').waitFor();
    await form.getByLabel('Focal length, mm').fill(String(FRAME_CAMERA.focalLength));
    await form.getByLabel('Pixel size, µm').fill(String(FRAME_CAMERA.pixelSize));
    await form.getByRole('button', { name: 'More' }).click();
    for (const name of ['k1', 'k2'] as const)
      await form.getByLabel(`Radial distortion ${name}`).fill(String(FRAME_CAMERA[name]));
    for (const name of ['p1', 'p2'] as const)
      await form.getByLabel(`Tangential distortion ${name}`).fill(String(FRAME_CAMERA[name]));
    const [chooser] = await Promise.all([bench.page.waitForEvent('filechooser'), at('run-import-photographs').click()]);
    expect(chooser.isMultiple()).toBe(true);
    await chooser.setFiles(files);
    await until(async () => (await state()).products.some(({ kind }) => kind === 'photographs'));
    const photographs = (await state()).products.find(({ kind }) => kind === 'photographs') as ProductOf<'photographs'>;
    expect(photographs.facts).toMatchObject({ count: 6, remarks: [], fileName: 'photographs.zip' });
    await at(`photographs-${photographs.id}`).getByText('6 photographs of 0.3 megapixels').waitFor();
    await at('run-colour-from-photographs').click();
    await until(async () => (await state()).clouds[0]!.columns.rgb);
    await bench.page.getByText('Photographs agree by 0.9').first().waitFor();
    await at('undo').click();
    await until(async () => !(await state()).clouds[0]!.columns.rgb);
  });

  test('in Section the picture lies along the foot, and under the ground line once there is a surface', async () => {
    await at('lay-section').click();
    const plan = (await at('view-plan').boundingBox())!;
    await at('view-plan').click({ position: { x: 0.4 * plan.width, y: 0.3 * plan.height } });
    await at('view-plan').click({ position: { x: 0.5 * plan.width, y: 0.7 * plan.height } });
    await at('section-foot').waitFor({ state: 'attached', timeout: 30_000 });
    const colours = async (): Promise<string[]> =>
      bench.page.locator('#section-picture stop').evaluateAll((stops) => stops.map((stop) => stop.getAttribute('stop-color')!)); // prettier-ignore
    await until(async () => new Set(await colours()).size > 40);
    await bench.server.operations.start(jobId, 'find-ground', { clouds: [(await state()).clouds[0]!.id] }).then(({ finished }) => finished); // prettier-ignore
    await bench.server.operations.start(jobId, 'build-surface', { clouds: [(await state()).clouds[0]!.id] }).then(({ finished }) => finished); // prettier-ignore
    await at('section-picture').waitFor({ state: 'attached', timeout: 30_000 });
    await at('section-foot').waitFor({ state: 'detached', timeout: 30_000 });
    await at('close-section').click();
  });

  test('the lagoon is masked by one click, seen before it is made; its points become water, and undo takes that back', async () => {
    await bench.page.getByTestId('stage-classify').click();
    await at('part-mask').click();
    await at('mask-pick').click();
    // The middle of the lagoon, which is more than a hundred metres long.
    const plan = (await at('view-plan').boundingBox())!;
    const scale = (0.95 * plan.width) / 560;
    const position = { x: plan.width / 2 + (452 - 280) * scale, y: plan.height / 2 - (92 - 210) * scale };
    await at('view-plan').click({ position });
    await at('mask-preview').filter({ hasText: 'in 1 piece' }).waitFor({ timeout: 30_000 });
    await bench.page.locator('path.cover.preview').waitFor({ state: 'attached' });
    await at('run-mask-by-colour').click();
    await until(async () => (await state()).products.some(({ kind }) => kind === 'mask'));
    const mask = (await state()).products.find(({ kind }) => kind === 'mask') as ProductOf<'mask'>;
    expect(mask.facts.pieces).toBe(1);
    expect(mask.facts.area).toBeGreaterThan(4000);
    expect(mask.facts.area).toBeLessThan(6000);
    await at('run-use-mask').click();
    await until(async () => ((await state()).clouds[0]!.classCounts['9'] ?? 0) > 500);
    await bench.page.keyboard.press('Escape');
    await at('undo').click();
    await until(async () => !(await state()).clouds[0]!.classCounts['9']);
  });
});
