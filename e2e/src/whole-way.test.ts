import { readFile, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureDemoFiles } from '@pampero/demo';
import { agreementCounts, agreementOf } from '@pampero/core/accuracy';
import { bufferSource } from '@pampero/core/formats';
import { openLas } from '@pampero/core/formats/las';
import type { Download } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { openBench, type Bench } from './browser.js';

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
});
afterAll(() => bench.stop());

const at = (testId: string) => bench.page.getByTestId(testId);
/** Waits until the last message at the foot says so. */
const said = (words: RegExp) =>
  bench.page.locator('mat-snack-bar-container', { hasText: words }).waitFor({ timeout: 60_000 });

async function downloaded(testId: string): Promise<{ name: string; bytes: Buffer }> {
  const [download] = await Promise.all([bench.page.waitForEvent('download') as Promise<Download>, at(testId).click()]);
  return { name: download.suggestedFilename(), bytes: await readFile(await download.path()) };
}

describe('from an empty folder to the hand-over', () => {
  test('the jobs page is empty, and says what to do', async () => {
    await bench.page.goto(bench.server.url);
    await bench.page.getByText('No job yet').waitFor();
  });

  test('a job without a name is not made; the system is found by words', async () => {
    await at('new-job').click();
    await at('create-job').click();
    await bench.page.getByText('Give the job a name.').waitFor();
    await at('job-name').fill('East reach');
    await at('job-crs').fill('posgar 2007 argentina 5');
    await bench.page.getByRole('option', { name: /EPSG:5347/ }).click();
    await at('create-job').click();
    await bench.page.waitForURL(/\/jobs\/east-reach-[0-9a-f]{4}\/intake$/);
    await bench.page.getByText('EPSG:5347, metres').waitFor();
  });

  test('a file that is no LAS is refused with its reason', async () => {
    const path = join(tmpdir(), 'pampero-not-a-cloud.las');
    await writeFile(path, 'These are no points at all.');
    await at('las-file').setInputFiles(path);
    await at('pending-problem')
      .getByText(/begins with "Thes"/)
      .waitFor();
    expect(await at('import-now').isDisabled()).toBe(true);
    // The refusal itself is the one thing the browser's console may complain of.
    expect(bench.errors.splice(0)).toEqual([expect.stringContaining('422')]);
    await bench.page.getByRole('button', { name: 'Cancel' }).click();
    expect(await at('class-1').count()).toBe(0);
  });

  test('the demo strip comes in by the file chooser and shows itself', async () => {
    const files = await ensureDemoFiles(join(tmpdir(), 'pampero-demo-files'));
    const [chooser] = await Promise.all([
      bench.page.waitForEvent('filechooser'),
      bench.page.getByRole('button', { name: 'Import clouds' }).click(),
    ]);
    await chooser.setFiles(files.lidar);
    await bench.page.getByText('LAS 1.4, points 6').waitFor();
    await at('import-now').click();
    await said(/Import cloud: 1\s47\d\s\d{3} points/);
    await bench.page.locator('canvas[data-complete="true"]').waitFor();
    // Drawn means drawn: the middle of Plan is not the bare ground colour.
    const shot = await at('view-plan').screenshot();
    expect(shot.length).toBeGreaterThan(40_000);
  });

  test('a point under the cursor reads its exact coordinates, to the millimetre', async () => {
    const box = (await at('view-plan').boundingBox())!;
    await bench.page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
    await bench.page.waitForFunction(() =>
      /5.512.\d{3}\.\d{3} E.*6.150.\d{3}\.\d{3} N.*\d\d\.\d{3} m/.test(
        document.querySelector('[data-testid="cursor"]')?.textContent ?? '',
      ),
    );
  });

  test('the first look against control tells how far off the cloud is', async () => {
    const files = await ensureDemoFiles(join(tmpdir(), 'pampero-demo-files'));
    await at('control-file').setInputFiles(files.control);
    await at('control-rmse').waitFor();
    // Ranging noise 18 mm, survey 10 mm, a plane over a dozen points: some millimetres, at most a few centimetres.
    expect(parseFloat(await at('control-rmse').innerText())).toBeLessThan(0.03);
    expect(await at('control-verdict').innerText()).toMatch(/No tilt, no bow/);
  });

  test('ground, surface and contours, each with its outcome told', async () => {
    await at('stage-classify').click();
    await at('find-ground-cell').fill('a bit');
    await at('run-find-ground').click();
    await bench.page.getByText('“a bit” is not a length').waitFor();
    await at('find-ground-cell').fill('100 cm');
    await at('run-find-ground').click();
    await said(/Find ground: 1\s\d{3}\s\d{3} points to ground/);
    await bench.page.waitForFunction(
      () => parseFloat(document.querySelector('[data-testid="ground-share"]')?.textContent ?? '') > 80,
    );
    await at('stage-terrain').click();
    await at('run-build-surface').click();
    await said(/Build surface: Ground: \d{3}\s\d{3} triangles/);
    await at('draw-contours-interval').fill('0.5');
    await at('run-draw-contours').click();
    await said(/Draw contours: \d+ contours at 0\.5 m/);
  });

  test('a section is laid by two clicks and walked by the keys', async () => {
    await at('lay-section').click();
    await at('view-plan').click({ position: { x: 250, y: 250 } });
    await at('view-plan').click({ position: { x: 300, y: 560 } });
    await at('view-section').waitFor();
    await at('view-section').focus();
    await bench.page.keyboard.press('ArrowUp');
    await at('section-depth').fill('4 m');
    await at('section-depth').press('Enter');
    expect(await at('section-depth').inputValue()).toBe('4.00');
    await at('close-section').click();
    await at('view-section').waitFor({ state: 'detached' });
  });

  test('Model and side by side draw too', async () => {
    for (const pane of ['model', 'both', 'plan']) {
      await at(`pane-${pane}`).click();
      await bench.page.waitForTimeout(400);
    }
  });

  test('undo takes the contours back, redo brings them again', async () => {
    await at('field-book').click();
    await bench.page.getByRole('option', { name: /Draw contours/ }).waitFor();
    await at('undo').click();
    await bench.page.getByText('undone', { exact: true }).waitFor();
    expect(await bench.page.locator('[data-testid^="eye-contours"]').count()).toBe(0);
    await at('redo').click();
    await bench.page.locator('[data-testid^="eye-contours"]').waitFor();
    await at('field-book').click();
  });

  test('LAS, DXF and LandXML leave, and hold what was made', async () => {
    await at('stage-deliver').click();
    const las = await downloaded('export-las');
    expect(las.name).toBe('flood-bank-lidar.las');
    const file = await openLas(bufferSource(las.name, las.bytes));
    expect(file.warnings).toEqual([]);

    // Held against the truth by time, return and place, since the store keeps points in an order of its own.
    const truth = await openLas(
      bufferSource('truth', await readFile((await ensureDemoFiles(join(tmpdir(), 'pampero-demo-files'))).truth)),
    );
    const trueClass = new Map<string, number>();
    const keyOf = (
      b: { gpsTime?: Float64Array; returns: Uint8Array; x: Int32Array; z: Int32Array },
      i: number,
    ): string => `${b.gpsTime![i]} ${b.returns[i]} ${b.x[i]} ${b.z[i]}`;
    for await (const batch of truth.batches())
      for (let i = 0; i < batch.count; i++) trueClass.set(keyOf(batch, i), batch.classification[i]!);
    const want = new Uint8Array(file.pointCount);
    const got = new Uint8Array(file.pointCount);
    let k = 0;
    for await (const batch of file.batches()) {
      for (let i = 0; i < batch.count; i++, k++) {
        want[k] = trueClass.get(keyOf(batch, i)) ?? 255;
        got[k] = batch.classification[i]!;
      }
    }
    expect(k).toBe(truth.pointCount);
    expect(want.includes(255)).toBe(false);
    expect(agreementOf(agreementCounts(want, got, 2)).kappa).toBeGreaterThanOrEqual(0.9);

    const dxf = (await downloaded('export-contours-dxf')).bytes.toString();
    const levels = [...dxf.matchAll(/\n30\n(-?[\d.]+)\n70\n32\n/g)].map((match) => Number(match[1]));
    expect(levels.length).toBeGreaterThan(1000);
    expect(levels.every((z) => Math.abs(z * 2 - Math.round(z * 2)) < 1e-9)).toBe(true);
    expect(dxf).toContain('CONTOUR-INDEX');

    const xml = (await downloaded('export-surface-landxml')).bytes.toString();
    const points = xml.match(/<P id=/g)!.length;
    const corners = [...xml.matchAll(/<F>(\d+) (\d+) (\d+)<\/F>/g)].flatMap((match) => match.slice(1).map(Number));
    expect(Math.max(...corners.slice(0, 60_000))).toBeLessThanOrEqual(points);
    expect(xml).toContain('<Metric linearUnit="meter"');
  });

  test('some points leave as CSV: ground only, one per cube of two metres, with the columns chosen', async () => {
    await at('stage-deliver').click();
    await at('export-choose').click();
    await at('format-csv').check();
    await bench.page.getByRole('checkbox', { name: /^1 Unclassified/ }).uncheck();
    await bench.page.getByRole('checkbox', { name: 'intensity' }).uncheck();
    await at('export-spacing').fill('two');
    await bench.page.getByText('“two” is not a length').waitFor();
    await at('export-spacing').fill('2 m');
    const { bytes } = await downloaded('export-now');
    const rows = bytes.toString().trim().split('\n');
    expect(rows[0]).toBe('easting,northing,elevation,class');
    expect(rows[1]).toMatch(/^55\d{5}\.\d+,61\d{5}\.\d+,\d\d\.\d+,2$/);
    // 560 by 420 m: some 59 000 columns of two metres, and few of them have ground in two cubes.
    expect(rows.length).toBeGreaterThan(40_000);
    expect(rows.length).toBeLessThan(110_000);
  });

  test('every stage has its mark and its page', async () => {
    await at('stage-align').click();
    await at('run-compare-strips').waitFor();
    await at('stage-lines').click();
    await at('draw-line').waitFor();
  });

  test('no request has left the machine, and the page has made no mistake', () => {
    expect(bench.strayRequests).toEqual([]);
    expect(bench.errors).toEqual([]);
  });
});
