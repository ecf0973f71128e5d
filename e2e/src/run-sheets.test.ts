import { execFileSync } from 'node:child_process';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { RUN_SHEET_FORMAT, RUN_SHEET_VERSION, type SheetRun, type Workbench } from '@pampero/contract';
import { newPointBatch } from '@pampero/core/cloud';
import { bufferSink } from '@pampero/core/formats';
import { writeLas } from '@pampero/core/formats/las';
import { seededRandom } from '@pampero/core/task';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { openBench, type Bench } from './browser.js';

const [E, N, SIDE] = [5_512_000, 6_150_000, 60];
const heightAt = (e: number, n: number): number => 30 + 0.02 * e + 0.03 * n;
let bench: Bench;
let folder: string;
let jobId: string;
const at = (id: string) => bench.page.getByTestId(id);
const answer = async <T>(path: string): Promise<T> =>
  (await (await fetch(`${bench.server.url}/api${path}`)).json()) as T;
const state = () => answer<Workbench>(`/jobs/${jobId}`);
const runs = () => answer<SheetRun[]>(`/jobs/${jobId}/sheet-runs`);
const newJob = async (name: string): Promise<string> =>
  ((await (await fetch(`${bench.server.url}/api/jobs`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ name, epsg: 5347 }) })).json()) as { id: string }).id; // prettier-ignore
async function openDeliver(): Promise<void> {
  await bench.page.goto(`${bench.server.url}/jobs/${jobId}/deliver`);
  await at('part-run-sheets').waitFor();
  // It unfolds by itself where a run is known.
  await at('new-sheet')
    .waitFor({ timeout: 4000 })
    .catch(() => at('part-run-sheets').click());
}

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'pampero-sheets-'));
  const count = 12_000;
  const random = seededRandom(8);
  const points = newPointBatch(count, { gpsTime: false, rgb: false, nearInfrared: false, wavePacket: false, extraBytesLength: 0 }); // prettier-ignore
  for (let i = 0; i < count; i++) {
    const [e, n] = [random() * SIDE, random() * SIDE];
    points.x[i] = Math.round(e * 1000);
    points.y[i] = Math.round(n * 1000);
    points.z[i] = Math.round((heightAt(e, n) + 0.01 * random()) * 1000);
    points.classification[i] = 1;
    points.returns[i] = 0x11;
  }
  const sink = bufferSink();
  await writeLas(sink, [points], { version: '1.4', pointFormat: 6, quantisation: { scale: [0.001, 0.001, 0.001], offset: [E, N, 0] }, crs: { epsg: 5347 } }); // prettier-ignore
  await writeFile(join(folder, 'field.las'), sink.bytes());
  // Half a metre off: the gate must hold the run.
  const checks = [[10, 10], [50, 12], [12, 48], [50, 50], [30, 30]] // prettier-ignore
    .map(([e, n], k) => `C${k},${N + n!},${E + e!},${(heightAt(e!, n!) + 0.5).toFixed(3)},GND`);
  await writeFile(join(folder, 'checks.csv'), checks.join('\n'));
  bench = await openBench();
  jobId = await newJob('Reach 3');
}, 60_000);
afterAll(async () => {
  await bench?.stop();
  await rm(folder, { recursive: true, force: true });
});

describe('run sheets on the screen', () => {
  test('one that came with Pampero is run on files, waits at its gate, and goes on with the reason', async () => {
    await openDeliver();
    await at('run-sheet-lidar-to-contours').click();
    await expect.poll(() => at('run-start').isDisabled()).toBe(true);
    await at('place-lidar').setInputFiles(join(folder, 'field.las'));
    await at('place-checks').setInputFiles(join(folder, 'checks.csv'));
    await at('run-start').click();
    await at('gate').waitFor({ timeout: 60_000 });
    expect(await at('gate').innerText()).toMatch(/RMSEz is 0\.\d+ m/);
    expect(await at('sheet-run-state').innerText()).toContain('waits for you');
    await expect.poll(() => at('gate-accept').isDisabled()).toBe(true);
    await at('gate-reason').fill('The check points are of another datum.');
    await at('gate-accept').click();
    await expect.poll(async () => (await runs())[0]!.state, { timeout: 40_000 }).toBe('done');
    await expect.poll(() => at('sheet-run-state').innerText()).toBe('done');
    expect(await at('run-step-accuracy-holds').innerText()).toContain('another datum');
    const kinds = (await state()).products.map(({ kind }) => kind).sort();
    expect(kinds).toEqual(['accuracy', 'contours', 'grid', 'surface']);
  });

  test('steps of the field book become a sheet; it is changed in the table and refused with the step named', async () => {
    await bench.page.getByRole('button', { name: 'Field book' }).click();
    await at('pick-steps').click();
    await at('make-sheet').click();
    await at('name').waitFor();
    await expect.poll(() => at('name').inputValue()).not.toBe('');
    await at('name').fill('Reach, every month');
    await at('name-done').click();
    await bench.page.getByText('The run sheet is kept').waitFor();
    const names = async () =>
      (await answer<{ sheets: { sheet: { name: string } }[] }>('/run-sheets')).sheets.map(({ sheet }) => sheet.name);
    await expect.poll(names).toContain('Reach, every month');
    await openDeliver();
    const row = bench.page.locator('.export', { hasText: 'Reach, every month' });
    await row.getByRole('button', { name: 'Edit …' }).click();
    await at('step-find-ground').click();
    const tolerance = bench.page.getByLabel('Ground tolerance');
    await tolerance.fill('80 m');
    await tolerance.blur();
    await at('sheet-keep').click();
    expect(await at('sheet-faults').innerText()).toMatch(/Step \d: .*cannot be over/);
    await tolerance.fill('2 spacings');
    await tolerance.blur();
    await at('sheet-keep').click();
    await at('sheet-name').waitFor({ state: 'detached' });
    const { sheets } = await answer<{ sheets: { sheet: { name: string; steps: { key: string; parameters?: Record<string, unknown> }[] } }[] }>('/run-sheets'); // prettier-ignore
    const kept = sheets.find(({ sheet }) => sheet.name === 'Reach, every month')!.sheet;
    expect(kept.steps.find(({ key }) => key === 'find-ground')!.parameters!['tolerance']).toEqual({ spacings: 2 });
  });

  test('a sheet is run in several jobs, each with its own clouds; one without clouds cannot be chosen', async () => {
    const [second, bare] = [await newJob('Reach 4'), await newJob('Reach 5')];
    const source = { path: join(bench.data, 'reach-4.las'), fileName: 'reach-4.las' };
    await writeFile(source.path, await readFile(join(folder, 'field.las')));
    await (
      await bench.server.operations.startWithFile(second, 'import-cloud', source, {})
    ).finished;
    const sheet = {
      format: RUN_SHEET_FORMAT,
      version: RUN_SHEET_VERSION,
      name: 'Ground of each',
      places: [{ key: 'clouds', kind: 'clouds', label: 'Clouds', help: 'Of the job.' }],
      steps: [{ key: 'ground', kind: 'work', operation: 'find-ground', parameters: { clouds: { place: 'clouds' } } }],
    };
    const kept = (await (await fetch(`${bench.server.url}/api/run-sheets`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ sheet }) })).json()) as { id: string }; // prettier-ignore
    await openDeliver();
    await at(`run-sheet-${kept.id}`).click();
    await at('target-jobs').check();
    expect(await at(`job-${bare}`).isDisabled()).toBe(true);
    expect(await at(`job-${jobId}`).isChecked()).toBe(true);
    await at(`job-${second}`).check();
    await at('run-start').click();
    // What it says may be told over at once by what the runs say at their end: they tell themselves.
    await at('run-start').waitFor({ state: 'detached', timeout: 30_000 });
    const states = async (id: string) => (await answer<SheetRun[]>(`/jobs/${id}/sheet-runs`)).map(({ name, state: of }) => `${name} ${of}`); // prettier-ignore
    for (const id of [jobId, second]) await expect.poll(() => states(id), { timeout: 40_000 }).toContain('Ground of each done'); // prettier-ignore
    expect((await answer<Workbench>(`/jobs/${second}`)).clouds[0]!.classCounts['2']).toBeGreaterThan(1000);
    expect(await states(bare)).toEqual([]);
  });

  test('a package is put together of what suits a drawing office', async () => {
    await at('hand-over').click();
    await at('suit-cad').click();
    const loading = bench.page.waitForEvent('download');
    await at('hand-over-go').click();
    const file = await loading;
    expect(file.suggestedFilename()).toBe('Reach 3.zip');
    const bytes = await readFile((await file.path())!);
    expect(bytes.subarray(0, 2).toString()).toBe('PK');
    for (const name of ['README.txt', 'metadata.xml', 'SHA256SUMS.txt', 'Reach 3 - Ground.xml'])
      expect(bytes.includes(Buffer.from(name)), name).toBe(true);
  });

  test('a report is written with a view as it is placed, and read back by another program', async () => {
    await at('report').click();
    // The dialog sets its own words a moment after it opens.
    await at('report-words').waitFor();
    await bench.page.waitForTimeout(500);
    await at('report-surveyor').fill('M. Quiroga');
    await at('report-words').getByTestId('words').click();
    await bench.page.keyboard.type('Flown after the flood.');
    await at('part-of-report-density').uncheck();
    await at('report-view-plan').click();
    const loading = bench.page.waitForEvent('download');
    await at('report-pdf').click();
    const file = await loading;
    expect(file.suggestedFilename()).toBe('Reach 3 report.pdf');
    const path = (await file.path())!;
    const text = execFileSync('pdftotext', ['-layout', path, '-']).toString();
    expect(text).toContain('Flown after the flood.');
    expect(text).toContain('M. Quiroga, date');
    expect(text).not.toContain('Point density');
    // The gate that did not hold is told, with the reason.
    expect(text.replace(/\s+/g, ' ')).toContain('The check points are of another datum.');
    expect(execFileSync('pdfimages', ['-list', path]).toString().split('\n').length).toBeGreaterThanOrEqual(5);
  });

  test('a page for the client is shared by a link, listed, and taken back', async () => {
    await at('client-view').click();
    // The dialog's own words come a moment after it.
    await expect.poll(() => at('view-title').inputValue()).not.toBe('');
    await at('view-title').fill('Reach 3 for the owner');
    await at('view-share').click();
    await at('share').waitFor({ timeout: 30_000 });
    expect(await at('share').innerText()).toContain('Reach 3 for the owner');
    const [share] = await answer<{ address: string }[]>(`/jobs/${jobId}/shares`);
    expect((await fetch(bench.server.url + share!.address)).status).toBe(200);
    await at('share-end').click();
    await at('share').waitFor({ state: 'detached' });
    expect((await fetch(bench.server.url + share!.address)).status).toBe(404);
  });

  test('a file that is no run sheet is refused in words, and nothing went wrong on the page', async () => {
    await writeFile(join(folder, 'wrong.json'), '{"format":"pampero-run-sheet","version":9}');
    await at('sheet-file').setInputFiles(join(folder, 'wrong.json'));
    await bench.page.getByText('was written by a newer Pampero').waitFor();
    expect(bench.errors.filter((error) => !error.includes('400'))).toEqual([]);
    expect(bench.strayRequests).toEqual([]);
  });
});
