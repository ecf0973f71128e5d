import { readFileSync } from 'node:fs';
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
  // The first lines are shown: columns are taken for what their headings say, and one that is missing is told.
  await page.getByRole('heading', { name: 'Columns of flood-bank-trajectory.csv' }).waitFor();
  expect(await page.getByTestId('column-0').inputValue()).toBe('time');
  await page.getByTestId('column-4').selectOption('-');
  await page.getByText('No column is roll yet.').waitFor();
  expect(await page.getByTestId('columns-done').isDisabled()).toBe(true);
  await page.getByTestId('column-4').selectOption('roll');
  await page.getByTestId('columns-done').click();
  await page
    .getByText(/records from flood-bank-trajectory.csv/)
    .first()
    .waitFor({ timeout: 60_000 });
  await page.getByText('adjusted standard GPS time').waitFor();
  // A sensor file fills the form; another file is refused in words.
  const lever = (name: string) => page.getByTestId(`georeference-scan-lever${name}`);
  await page.getByTestId('sensor-file').setInputFiles(files.trajectory);
  await page.getByText('This is no sensor file: it is not JSON.').waitFor();
  await page.getByTestId('sensor-file').setInputFiles({
    name: 'scanner.json',
    mimeType: 'application/json',
    buffer: Buffer.from(
      JSON.stringify({
        format: 'pampero-sensor',
        version: 1,
        name: 'Scanner on the bank',
        leverArm: { forward: 0.1, right: -0.05, down: 0.25 },
      }),
    ),
  });
  await page.getByText('Scanner on the bank').first().waitFor();
  await expect.poll(() => lever('Down').inputValue()).toBe('0.25');
  await lever('Down').fill('0.2');
  const kept = page.waitForEvent('download');
  await page.getByTestId('save-sensor').click();
  const sensor = JSON.parse(readFileSync((await (await kept).path())!, 'utf8')) as { leverArm: object };
  expect(sensor.leverArm).toEqual({ forward: 0.1, right: -0.05, down: 0.2 });
  await page.getByTestId('file-georeference-scan').setInputFiles(files.scan);
  await page.getByTestId('columns-done').click();
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
    // The map of two strips alone, over Plan, and the points again.
    await page.getByTestId('pair-0').click();
    await page.getByText('2 less 1').first().waitFor();
    await page.getByTestId('map-in-plan-elevation').first().click();
    await page.getByTestId('show-surface').getByText('Map').waitFor();
    await page.getByTestId('map-in-plan-elevation').first().click();
    await expect.poll(() => page.getByTestId('show-surface').count()).toBe(0);
  },
);

test(
  'strips are found on the trajectory, split and named on it, and colour the cloud',
  { timeout: 120_000 },
  async () => {
    const { page } = bench;
    await part('strips').click();
    const form = page.getByTestId('form-find-strips');
    await form.getByRole('combobox', { name: 'Trajectory' }).click();
    await page.getByRole('option', { name: /trajectory/ }).click();
    await form.getByText('straight runs of the trajectory').click();
    await run('find-strips', 'Find strips');
    const row = (k: number) => page.getByTestId(`edited-strip-${k}`);
    await page.getByTestId('edit-strips').click();
    await row(4).waitFor();
    await page.getByTestId('strip-click-split').check();
    // The strips run from west to east: the trajectory of one lies in Plan where its coordinates say.
    const plan = (await page.getByTestId('view-plan').boundingBox())!;
    await page
      .getByTestId('fit-all')
      .or(page.getByRole('button', { name: 'Whole' }))
      .first()
      .click();
    for (let y = 0.2; y < 0.9 && (await row(5).count()) === 0; y += 0.04)
      await page.mouse.click(plan.x + 0.3 * plan.width, plan.y + y * plan.height);
    await row(5).waitFor();
    await row(0).getByLabel('Name of the strip').fill('');
    await expect.poll(() => page.getByTestId('keep-strips').isDisabled()).toBe(true);
    await row(0).getByLabel('Name of the strip').fill('north bank');
    await row(1).getByLabel('Strip is used').uncheck();
    await page.getByTestId('keep-strips').click();
    await page.getByTestId('strip-1').getByText('north bank').waitFor({ timeout: 60_000 });
    await page.getByTestId('strip-2').getByText('(left out)').waitFor();
    await page.getByTestId('colour-by-strip').click();
    await page.getByTestId('colour-by').getByText('Strip, as found').waitFor();
    // The comparison below is by point source ID again.
    await page.getByRole('button', { name: /Undo/ }).first().click();
    await page.getByTestId('strip-1').getByText('1', { exact: true }).waitFor();
  },
);

test('an adjustment is looked at, applied, and the strips agree', { timeout: 240_000 }, async () => {
  const { page } = bench;
  await part('adjust').click();
  await run('adjust-strips', 'Adjust strips');
  await page.getByTestId('adjustment-verdict').getByText('holds').waitFor();
  await page.getByText('Boresight, heading').waitFor();
  const before = page.getByTestId('difference-map-before');
  await before.waitFor();
  // The section is shown before and after, where the map is clicked; nothing has moved.
  const box = (await before.boundingBox())!;
  await before.click({ position: { x: box.width * 0.6, y: box.height * 0.45 } });
  const section = page.getByTestId('strip-section');
  await expect.poll(async () => Number(await section.getAttribute('data-points')), { timeout: 30_000 }).toBeGreaterThan(50); // prettier-ignore
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

test(
  'a target is picked in the cloud, what is left of it is seen, and the cloud is fitted',
  { timeout: 90_000 },
  async () => {
    const { page } = bench;
    await part('targets').click();
    await page.getByText('Pick a target in the cloud first.').waitFor();
    await page.getByTestId('target-C1').click();
    await page.getByTestId('target-C1').getByText('click it').waitFor();
    const plan = (await page.getByTestId('view-plan').boundingBox())!;
    await page.mouse.click(plan.x + plan.width * 0.55, plan.y + plan.height * 0.5);
    await page.getByTestId('target-C1').getByText('drop').waitFor();
    // It was picked far from its place: the shift takes all of it, and says so before anything moves.
    await page.getByTestId('targets-verdict').getByText('What is left at the targets used: 0.000 m').waitFor();
    await page.getByTestId('target-C2').getByText('click it').waitFor();
    expect(await run('fit-to-targets', 'Fit the cloud to targets')).toMatch(/fitted to 1 target by a shift/);
    await page.getByRole('button', { name: /Undo/ }).first().click();
    await page.getByTestId('positions-1').waitFor();
    await expect.poll(() => page.getByTestId('positions-1').isChecked()).toBe(true);
    await part('targets').click();
  },
);

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
