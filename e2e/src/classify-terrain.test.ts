import { execFileSync } from 'node:child_process';
import { readFile, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { ensureDemoFiles } from '@pampero/demo';
import type { Download } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { openBench, type Bench } from './browser.js';

let bench: Bench;
let jobId: string;

interface JobState {
  readonly clouds: readonly { readonly id: number; readonly classCounts: Readonly<Record<string, number>> }[];
  readonly pins: readonly { readonly kind: string }[];
  readonly products: readonly {
    readonly id: number;
    readonly kind: string;
    readonly facts: { readonly areaInPlan: number; readonly facets: number };
  }[];
  readonly runs: readonly { readonly state: string }[];
}

beforeAll(async () => {
  bench = await openBench();
  const { lidar, check } = await ensureDemoFiles(join(tmpdir(), 'pampero-demo-files'));
  const post = async (path: string, body: BodyInit, type: string): Promise<{ id: string }> => {
    const response = await fetch(`${bench.server.url}/api${path}`, {
      method: 'POST',
      headers: { 'content-type': type },
      body,
    });
    if (!response.ok) throw new Error(await response.text());
    return (await response.json()) as { id: string };
  };
  jobId = (await post('/jobs', JSON.stringify({ name: 'Ground', epsg: 5347 }), 'application/json')).id;
  const importing = async (operation: string, path: string, parameters: object): Promise<void> => {
    const query = new URLSearchParams({ fileName: basename(path), parameters: JSON.stringify(parameters) });
    await post(
      `/jobs/${jobId}/operations/${operation}/file?${query.toString()}`,
      await readFile(path),
      'application/octet-stream',
    );
  };
  await importing('import-cloud', lidar, {});
  await importing('import-control', check, { order: 'PNEZD', role: 'check' });
  for (let i = 0; i < 400; i++) {
    if ((await state()).runs.every((run) => run.state === 'done') && (await state()).clouds.length > 0) break;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  await bench.page.goto(`${bench.server.url}/jobs/${jobId}/classify`);
  await bench.page.locator('canvas[data-complete="true"]').waitFor({ timeout: 60_000 });
}, 120_000);
afterAll(() => bench.stop());

const at = (id: string) => bench.page.getByTestId(id);
const said = (words: RegExp) =>
  bench.page.locator('mat-snack-bar-container', { hasText: words }).waitFor({ timeout: 90_000 });
async function state(): Promise<JobState> {
  return (await (await fetch(`${bench.server.url}/api/jobs/${jobId}`)).json()) as JobState;
}
const unfold = async (part: string): Promise<void> => {
  const fold = at(`part-${part}`);
  if (!(await fold.evaluate((summary) => (summary.parentElement as HTMLDetailsElement).open))) await fold.click();
};
const groundCount = async (): Promise<number> => (await state()).clouds[0]!.classCounts['2'] ?? 0;
async function downloaded(testId: string): Promise<string> {
  const [download] = await Promise.all([bench.page.waitForEvent('download') as Promise<Download>, at(testId).click()]);
  const path = join(tmpdir(), `pampero-e2e-${download.suggestedFilename()}`);
  await writeFile(path, await readFile(await download.path()));
  return path;
}

describe('ground that can be trusted', () => {
  test('settings are proposed from the cloud with reasons, and seen before they are run', async () => {
    await at('find-ground-reasons').waitFor();
    expect(await at('find-ground-reasons').innerText()).toMatch(/Why these settings/);
    await at('preview-ground').click();
    await at('preview-result')
      .getByText(/would become ground/)
      .waitFor({ timeout: 60_000 });
    // Seen, not done: in the section twice, as it is and as it would be.
    await at('view-after').getByText('As it would be').waitFor();
    expect(await at('view-section').innerText()).toMatch(/As it is/);
    expect(await groundCount()).toBe(0);
  });

  test('two settings are held against each other: a wider tolerance takes in grass', async () => {
    await at('keep-settings').click();
    await at('find-ground-tolerance').fill('12 cm');
    await at('compare-ground').click();
    const words = at('preview-result').getByText(/more ground points than the kept ones/);
    await words.waitFor({ timeout: 60_000 });
    const [more, fewer] = (await words.innerText()).match(/find ([\d\s]+) more.* and ([\d\s]+) fewer/)!.slice(1);
    const number = (text: string): number => Number(text.replace(/\D/g, ''));
    expect(number(more!)).toBeGreaterThan(10_000);
    expect(number(fewer!)).toBeLessThan(number(more!) / 20);
    await at('view-after').getByText('With the settings in the form').waitFor();
    await at('close-comparison').click();
    await at('view-after').waitFor({ state: 'detached' });
    await bench.page.keyboard.press('Escape');
    await at('find-ground-tolerance').fill('5 cm');
  });

  test('ground is found, and the suspect areas are walked, accepted and fixed by key', async () => {
    await at('run-find-ground').click();
    await said(/Find ground: 1\s\d{3}\s\d{3} points to ground/);
    await at('look-for-suspects').click();
    await at('suspect-count').waitFor({ timeout: 30_000 });
    const open = async (): Promise<number> => Number((await at('suspect-count').innerText()).match(/^(\d+)/)![1]);
    const all = await open();
    expect(all).toBeGreaterThan(5);
    // The first is shown in Plan and in a section of its own.
    await at('view-section').waitFor();
    await at('view-plan').focus();
    await bench.page.keyboard.press('a');
    await bench.page.waitForFunction(
      (n) => document.querySelector('[data-testid="suspect-count"]')?.textContent?.startsWith(String(n)),
      all - 1,
    );
    for (let i = 0; i < 200 && (await state()).pins.length === 0; i++) await bench.page.waitForTimeout(50);
    expect((await state()).pins.map(({ kind }) => kind)).toEqual(['accepted']);
    // On to a spike: one key takes it out of ground, undo brings it back.
    const before = await groundCount();
    for (let i = 0; i < 40; i++) {
      if (/Spike/.test(await bench.page.locator('[data-testid="suspect"].current').innerText())) break;
      await bench.page.keyboard.press('.');
    }
    await bench.page.keyboard.press('d');
    for (let i = 0; i < 200 && (await groundCount()) === before; i++) await bench.page.waitForTimeout(50);
    expect(await groundCount()).toBeLessThan(before);
    expect(await open()).toBe(all - 2);
    await bench.page.keyboard.press('Control+z');
    for (let i = 0; i < 200 && (await groundCount()) !== before; i++) await bench.page.waitForTimeout(50);
    expect(await groundCount()).toBe(before);
    await at('close-section').click();
  });
});

describe('what stands on the ground', () => {
  test('water is found to its banks; poles, fences and vehicles get their classes, and the list tells them one by one', async () => {
    await unfold('water');
    await at('run-find-water').click();
    await said(/Find water: \d+\s\d+ points to water/);
    await bench.page.getByRole('checkbox', { name: /fences and walls/ }).check();
    await bench.page.getByRole('checkbox', { name: /vehicles/ }).check();
    await at('run-find-objects').click();
    await said(/Classify objects: .*to Building.*to Vehicle/);
    const counts = (await state()).clouds[0]!.classCounts;
    for (const code of ['9', '14', '15', '64', '65']) expect(counts[code]).toBeGreaterThan(20);
    await bench.page.getByText('Fence or wall').first().waitFor();
    await at('list-objects').click();
    await at('object-count')
      .getByText(/building/)
      .waitFor({ timeout: 30_000 });
    await bench.page.locator('[data-testid="object"]').first().click();
    await at('view-section').waitFor();
    await bench.page.keyboard.press('Escape');
    await at('close-section').click();
  });
});

describe('fewer points that say the same', () => {
  test('key points hold their tolerance, and the sheet says what it did to the surface', async () => {
    await at('stage-thin').click();
    await bench.page.getByRole('combobox', { name: 'Keep' }).click();
    await bench.page.getByRole('option', { name: /key points/ }).click();
    await at('thin-cloud-tolerance').fill('15 cm');
    await at('run-thin-cloud').click();
    await said(/points kept, flagged as key points/);
    const text = await at('thinning-result').innerText();
    const worst = Number(/Worst\s+([\d.]+)/.exec(text)![1]);
    expect(worst).toBeGreaterThan(0);
    expect(worst).toBeLessThanOrEqual(0.15);
  });

  test('points are numbered, and their list is set right by hand', async () => {
    await at('run-number-points').click();
    await said(/Number points: .*, 1 to \d+/);
    const table = at('spot-table');
    const first = table.getByLabel('Number of point 1', { exact: true });
    await first.fill('BM1');
    await first.press('Tab');
    await table.getByLabel('Leave point out: 2', { exact: true }).click();
    await at('keep-spots').click();
    await at('keep-spots').waitFor({ state: 'detached' }); // the new list has come, with no change of its own
    await table.getByLabel('Number of point BM1', { exact: true }).waitFor();
    await at('undo').click();
    await table.getByLabel('Number of point 1', { exact: true }).waitFor();
  });
});

describe('terrain, and how sure', () => {
  test('buildings are outlined square, and land without ground; undo takes both back', async () => {
    await at('stage-lines').click();
    await unfold('buildings');
    await at('run-outline-buildings').click();
    await said(/Outline buildings: 3 buildings, 3 squared/);
    await at('run-outline-voids').click();
    await said(/Outline voids: \d+ voids?, [\d\s]+ m² without ground/);
    const codes = async () => (await state()).products.filter(({ kind }) => kind === 'lines').length;
    expect(await codes()).toBe(2);
    await at('undo').click();
    await at('undo').click();
    for (let i = 0; i < 100 && (await codes()) > 0; i++) await bench.page.waitForTimeout(50);
    expect(await codes()).toBe(0);
  });

  test('a boundary and a breakline come in by file and the surface keeps to them', async () => {
    await at('stage-lines').click();
    const [E, N] = [5_512_000, 6_150_000];
    const useAs = async (name: string) => {
      await at('form-import-lines').getByRole('combobox', { name: 'Use as' }).click();
      await bench.page.getByRole('option', { name, exact: true }).click();
    };
    const ring = [[60, 30], [500, 30], [500, 390], [60, 390], [60, 30]].map(([e, n]) => [E + e!, N + n!]); // prettier-ignore
    const path = join(tmpdir(), 'pampero-e2e-site.geojson');
    await writeFile(path, JSON.stringify({ type: 'Polygon', coordinates: [ring] }));
    await useAs('boundary');
    await at('file-import-lines').setInputFiles(path);
    await said(/Import lines: 1 line with 4 vertices/);
    const list = join(tmpdir(), 'pampero-e2e-crest.csv');
    const crest = Array.from({ length: 30 }, (_, i) => `${i + 1},${N + 300},${E + 100 + 10 * i},31.5,EDGE`);
    await writeFile(list, crest.join('\n'));
    await useAs('breaklines');
    await at('file-import-lines').setInputFiles(list);
    await said(/Import lines: 1 line with 30 vertices/);
    await at('stage-terrain').click();
    await at('run-build-surface').click();
    await said(/Build surface: Ground: \d{3}\s\d{3} triangles/);
    const surfaces = (await state()).products.filter(({ kind }) => kind === 'surface');
    // All of the site but the middle of the lagoon, where no side may bridge it.
    expect(surfaces.at(-1)!.facts.areaInPlan).toBeLessThan(440 * 360 - 1000);
    expect(surfaces.at(-1)!.facts.areaInPlan).toBeGreaterThan(0.97 * 440 * 360);
  });

  test('the surface is looked over and set right by hand; undo brings it back', async () => {
    const facets = async () => (await state()).products.filter(({ kind }) => kind === 'surface').at(-1)!.facts.facets;
    const before = await facets();
    await unfold('edit-surface');
    await at('find-faults').click();
    await at('fault-count').waitFor({ timeout: 30_000 });
    await at('edit-triangles').click();
    await at('edit-drop').check();
    // All of the land: its middle lies on the surface.
    await bench.page.getByText('Whole', { exact: true }).click();
    await bench.page.waitForTimeout(400);
    const box = (await at('view-plan').boundingBox())!;
    await bench.page.mouse.click(box.x + box.width / 2, box.y + box.height / 2);
    for (let i = 0; i < 200 && (await facets()) === before; i++) await bench.page.waitForTimeout(50);
    expect(await facets()).toBe(before - 1);
    await at('undo').click();
    for (let i = 0; i < 200 && (await facets()) !== before; i++) await bench.page.waitForTimeout(50);
    expect(await facets()).toBe(before);
    await at('edit-triangles').click();
  });

  test('a profile is drawn along the section', async () => {
    const box = (await at('view-plan').boundingBox())!;
    await at('tool-section').click();
    await bench.page.mouse.click(box.x + box.width * 0.4, box.y + box.height * 0.35);
    await bench.page.mouse.click(box.x + box.width * 0.5, box.y + box.height * 0.65);
    await at('view-section').waitFor();
    await unfold('profiles');
    await at('run-draw-profile').click();
    await at('profile-chart').waitFor({ timeout: 30_000 });
    await at('close-section').click();
  });

  test('the interval is moved live over the view; bands follow the contours', async () => {
    await unfold('contours');
    await at('preview-contours').locator('input').check();
    await at('interval-slide').fill('4');
    await at('preview-contours')
      .getByText(/\d+ lines in this view/)
      .waitFor();
    expect(await at('draw-contours-interval').inputValue()).toBe('0.5');
    await at('preview-contours').locator('input').uncheck();
    await at('run-draw-contours').click();
    await said(/Draw contours: .* contours at 0\.5 m/);
    await unfold('tints');
    await at('bands-as-contours').click();
    await bench.page.waitForFunction(
      () => document.querySelector<HTMLInputElement>('[aria-label="Height of a band"]')?.value === '0.5',
    );
  });

  test('check points make a statement; contours finer than they support are warned of', async () => {
    await unfold('accuracy');
    await at('run-state-accuracy').click();
    await said(/State accuracy: RMSEz 0\.\d{3} m, NVA 0\.\d{3} m over \d+ check points/);
    expect(await at('accuracy-result').first().innerText()).toMatch(/VVA, 95th percentile/);
    await at('draw-contours-interval').fill('0.02');
    await at('run-draw-contours').click();
    await said(/Draw contours: /);
    await at('interval-warning')
      .getByText(/finer than the check points support/)
      .waitFor();
    await at('undo').click();
    await at('interval-warning').waitFor({ state: 'detached' });
  });

  test('a volume over a level is measured, a grid is made', async () => {
    await unfold('volume');
    await at('run-measure-volume').click();
    await bench.page.getByText('Type the level').waitFor();
    await at('measure-volume-level').fill('31');
    await at('run-measure-volume').click();
    await said(/Measure volume: .* cut [\d.]+ m³, fill [\d.]+ m³/);
    await unfold('grid');
    await at('run-make-grid').click();
    await said(/Make grid: 880 by 720 cells of 0\.5 m/);
    // It is looked at by itself; one of a file takes its place, and goes again.
    const shown = bench.page.locator('[data-testid^="eye-grid-"][aria-pressed="true"]');
    await shown.waitFor();
    const design = join(tmpdir(), 'pampero-e2e-design.asc');
    const head = 'ncols 40\nnrows 30\nxllcorner 5512100\nyllcorner 6150100\ncellsize 5\n';
    await writeFile(design, head + Array.from({ length: 30 }, (_, row) => Array.from({ length: 40 }, (__, c) => 31 + 0.01 * row * c).join(' ')).join('\n')); // prettier-ignore
    await at('grid-file').setInputFiles(design);
    await said(/Import grid: pampero-e2e-design: 40 by 30 cells of 5 m/);
    await bench.page.locator('[aria-label="Show pampero-e2e-design"][aria-pressed="true"]').waitFor();
    expect(await shown.count()).toBe(1);
    await at('grid-file').setInputFiles({ name: 'no.tif', mimeType: 'image/tiff', buffer: Buffer.from('nothing') });
    await bench.page.getByText(/no\.tif cannot be read as a grid/).waitFor();
    await at('undo').click();
    await bench.page.locator('[aria-label="Show pampero-e2e-design"]').waitFor({ state: 'detached' });
  });

  test('a bank is designed on a line, twice, and the alternatives stand side by side with their earth', async () => {
    await unfold('design');
    const form = at('form-design-earthwork');
    await form.getByLabel('Line', { exact: true }).click();
    await bench.page.getByRole('option', { name: /EDGE/ }).click();
    await at('design-earthwork-raise').fill('1.5');
    await at('design-earthwork-name').fill('Bank, 1 in 2');
    await at('run-design-earthwork').click();
    await said(/Design a bank or a pad: Bank, 1 in 2 on .*: cut [\d.\s]+ m³, fill [\d.\s]+ m³/);
    await at('design-earthwork-fillSlope').fill('3');
    await at('design-earthwork-name').fill('Bank, 1 in 3');
    await at('run-design-earthwork').click();
    await said(/Design a bank or a pad: Bank, 1 in 3 on/);
    await at('alternatives').locator('tbody tr').nth(1).waitFor();
    const fills = (await at('alternatives').locator('tbody tr').allInnerTexts()).map((row) =>
      Number(row.split('\t').at(-2)!.replace(/\s/g, '')),
    );
    expect(fills).toHaveLength(2);
    expect(fills[1]!).toBeGreaterThan(fills[0]!);
    await bench.page.getByRole('button', { name: 'Bank, 1 in 2', exact: true }).click();
    const shown = at('alternatives').locator('[aria-pressed]');
    expect(await shown.evaluateAll((all) => all.map((one) => one.getAttribute('aria-pressed')))).toEqual(['true', 'false']); // prettier-ignore
    // What the alternative is on goes on to be the ground of the next one.
    expect(await form.getByLabel('Ground', { exact: true }).innerText()).not.toMatch(/Bank/);
    await at('undo').click();
    await at('undo').click();
    await at('alternatives').waitFor({ state: 'detached' });
  });

  test('a picture of the cloud is drawn, and leaves as a GeoTIFF that GDAL reads', async () => {
    await at('stage-deliver').click();
    await unfold('picture');
    await at('draw-picture-pixel').fill('50 cm');
    await at('run-draw-picture').click();
    await said(/Draw picture of cloud: Intensity, 0\.5 m: [\d\s]+ by [\d\s]+ pixels/);
    const { geoTransform } = JSON.parse(
      execFileSync('/usr/bin/gdalinfo', ['-json', await downloaded('export-picture-tif')]).toString(),
    ) as { geoTransform: number[] };
    expect([geoTransform[1], geoTransform[5]]).toEqual([0.5, -0.5]);
    await at('undo').click();
  });

  test('GeoTIFF and PDF leave, and GDAL knows where the grid lies', async () => {
    await at('stage-deliver').click();
    const info = JSON.parse(
      execFileSync('/usr/bin/gdalinfo', ['-json', await downloaded('export-grid-tif')]).toString(),
    ) as {
      size: number[];
      geoTransform: number[];
    };
    expect(info.size).toEqual([880, 720]);
    expect(info.geoTransform.slice(0, 2)).toEqual([5_512_060, 0.5]);
    const pdf = await readFile(await downloaded('export-accuracy-pdf'));
    expect(pdf.subarray(0, 5).toString()).toBe('%PDF-');
  });

  test('a plan is drawn to scale, and its PDF says what is on it', async () => {
    await at('stage-deliver').click();
    await unfold('plan');
    const part = bench.page.locator('pam-sheet-part', { has: at('part-plan') });
    await part.getByLabel('Title', { exact: false }).first().fill('Survey of the flood bank');
    await at('run-draw-plan').click();
    await said(/Draw a plan: 1 : \d+ on \d+ sheets? of A3 landscape/);
    const path = await downloaded('export-plan-pdf');
    const text = execFileSync('/usr/bin/pdftotext', ['-layout', path, '-']).toString();
    for (const words of ['Survey of the flood bank', 'Legend', 'EPSG:5347', 'Check point', 'Contours every'])
      expect(text).toContain(words);
  });

  test('what is not needed is removed, comes back by undo, and its space is given back', async () => {
    const before = await state();
    const grid = before.products.find(({ kind }) => kind === 'grid')!;
    const cloud = before.clouds[0]!;
    await at('stage-deliver').click();
    await at('deliver-holdings').click();
    await at(`choose-cloud-${cloud.id}`).check();
    // What hangs on the cloud is named before it goes.
    await bench.page
      .getByTestId('stranded')
      .getByText(/can no longer be rebuilt/)
      .waitFor();
    await at(`choose-cloud-${cloud.id}`).uncheck();
    await at(`choose-product-${grid.id}`).check();
    await at('remove-chosen').click();
    await at(`choose-product-${grid.id}`).waitFor({ state: 'detached' });
    expect((await state()).products.some(({ id }) => id === grid.id)).toBe(false);
    await bench.page.getByRole('button', { name: 'Close', exact: true }).first().click();
    await at('undo').click();
    await at(`eye-grid-${grid.id}`).waitFor();

    await at('holdings').click();
    await at('give-back').click();
    await at('give-back-sure').click();
    await said(/Give back space: .* given back/);
    await at('kept-for-undo').waitFor({ state: 'detached' });
    await bench.page.keyboard.press('Escape');
    await bench.page.locator('[data-testid="undo"][disabled]').waitFor();
    const after = await state();
    expect(after.products.map(({ id }) => id)).toEqual(before.products.map(({ id }) => id));
    expect(after.clouds[0]!.classCounts).toEqual(before.clouds[0]!.classCounts);
  });

  test('the page has made no mistake', () => {
    expect(bench.strayRequests).toEqual([]);
    // But for the file that was refused, which the browser writes down by itself.
    expect(bench.errors.filter((error) => !error.includes('422 (Unprocessable Entity)'))).toEqual([]);
  });
});
