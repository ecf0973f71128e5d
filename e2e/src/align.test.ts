import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureDemoFiles, ensureFlightFiles, type DemoFiles, type FlightFiles } from '@pampero/demo';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { openBench, type Bench } from './browser.js';

let bench: Bench;
let files: DemoFiles & FlightFiles;
let jobId: string;

beforeAll(async () => {
  bench = await openBench();
  const folder = join(tmpdir(), 'pampero-demo-files');
  files = { ...(await ensureDemoFiles(folder)), ...(await ensureFlightFiles(folder)) };
  jobId = (await bench.server.library.create({ name: 'As flown', epsg: 5347 })).id;
}, 240_000);
afterAll(() => bench.stop());

const part = (name: string) => bench.page.getByTestId(`part-${name}`);
const figure = async (id: string): Promise<number> =>
  parseFloat((await bench.page.getByTestId(id).innerText()).replace(/[^\d.]/g, ''));

/** Runs what the form of an operation offers and waits until it says that it is done. */
async function run(id: string, title: string): Promise<string> {
  const said = bench.page
    .locator('mat-snack-bar-container')
    .filter({ hasText: `${title}: ` })
    .last();
  await bench.page.getByTestId(`run-${id}`).click();
  await said.waitFor({ timeout: 120_000 });
  const text = await said.innerText();
  await bench.page.getByRole('button', { name: 'Close' }).last().click();
  await said.waitFor({ state: 'detached' });
  return text;
}

test('control, trajectory and raw scan come in by their buttons', { timeout: 240_000 }, async () => {
  const { page } = bench;
  await page.goto(`${bench.server.url}/jobs/${jobId}/align`);
  await page.getByRole('heading', { name: /Do the strips agree/ }).waitFor();
  // Without a trajectory a raw scan cannot be made points of, and the sheet says so.
  await part('raw-scan').click();
  await page.getByText('Import the trajectory of the flight first.').waitFor();
  await part('trajectory').click();
  await page.getByTestId('file-import-trajectory').setInputFiles(files.trajectory);
  await page
    .getByText(/records from flood-bank-trajectory.csv/)
    .first()
    .waitFor({ timeout: 60_000 });
  await page.getByText('adjusted standard GPS time').waitFor();
  await page.getByTestId('georeference-scan-leverForward').fill('0.1');
  await page.getByTestId('georeference-scan-leverRight').fill('-0.05');
  await page.getByTestId('georeference-scan-leverDown').fill('0.2');
  await page.getByTestId('file-georeference-scan').setInputFiles(files.scan);
  await page
    .getByText(/points of .* beams of flood-bank-scan.csv/)
    .first()
    .waitFor({ timeout: 120_000 });
  await page.goto(`${bench.server.url}/jobs/${jobId}/intake`);
  await page.getByTestId('control-file').setInputFiles(files.control);
  await page
    .getByText(/8 control points from/)
    .first()
    .waitFor();
  await page.goto(`${bench.server.url}/jobs/${jobId}/align`);
});

test(
  'a comparison tells that the strips do not agree, and its map leads to the place',
  { timeout: 120_000 },
  async () => {
    const { page } = bench;
    expect(await run('compare-strips', 'Compare strips')).toMatch(/RMSDz 0\.1\d\d m .* beyond the 0\.080 m/);
    await page.getByTestId('comparison-verdict').getByText('The strips do not agree').waitFor();
    expect(await figure('align-rmsd')).toBeGreaterThan(0.08);
    const map = page.getByTestId('difference-map-elevation').first();
    const box = (await map.boundingBox())!;
    await map.click({ position: { x: box.width / 2, y: box.height / 2 } });
    await page.getByText(/Strip/).first().waitFor();
    await page.keyboard.press('Escape');
  },
);

test('an adjustment is looked at, applied, and the strips agree', { timeout: 240_000 }, async () => {
  const { page } = bench;
  await part('adjust').click();
  await run('adjust-strips', 'Adjust strips');
  await page.getByTestId('adjustment-verdict').getByText('holds').waitFor();
  await page.getByText('Boresight, heading').waitFor();
  await page.getByTestId('difference-map-before').waitFor();
  const report = page.waitForEvent('download');
  await page.getByTestId('adjustment-report').click();
  expect((await report).suggestedFilename()).toMatch(/\.pdf$/);
  await page.getByTestId('run-apply-adjustment').click();
  await page
    .getByText(/Apply the corrections: /)
    .first()
    .waitFor({ timeout: 60_000 });
  await part('positions').waitFor();
  expect(await page.getByTestId('positions-1').isChecked()).toBe(true);
  await page.getByRole('button', { name: 'Close' }).last().click();
  expect(await run('compare-strips', 'Compare strips')).toMatch(/within the 0\.080 m/);
  expect(await figure('align-rmsd')).toBeLessThan(0.02);
});

test('the positions it came with are shown again, and undo takes that back', { timeout: 60_000 }, async () => {
  const { page } = bench;
  await page.getByTestId('positions-0').check();
  await page
    .getByText(/\bStale\b/)
    .first()
    .waitFor();
  await page.getByRole('button', { name: /Undo/ }).first().click();
  await expect.poll(() => page.getByTestId('positions-1').isChecked()).toBe(true);
  expect(bench.errors).toEqual([]);
  expect(bench.strayRequests).toEqual([]);
});
