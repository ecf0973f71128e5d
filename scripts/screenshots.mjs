// `npm run screenshots`: takes the pictures of docs/screenshots from the demo job, at 1280 x 800. Needs `npm run demo` to be
// serving (PAMPERO_PORT as there), and does the demo's work on the way if it has not been done.
import { mkdirSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { bankNorthing, CORNER, groundElevation } from '../demo/dist/farm/terrain.js';
import { chromium } from 'playwright-core';
import { root } from './setup.mjs';

const base = `http://127.0.0.1:${process.env.PAMPERO_PORT ?? 4600}`;
const folder = join(root, 'docs', 'screenshots');
mkdirSync(folder, { recursive: true });
const readJobs = async () => (await fetch(`${base}/api/jobs`)).json();
// The demo is ready with its first job; the others come in meanwhile.
let jobs = await readJobs();
for (let i = 0; i < 120 && !(jobs.length > 2 && jobs.every(({ pointCount }) => pointCount > 0)); i++) {
  await new Promise((resolve) => setTimeout(resolve, 1000));
  jobs = await readJobs();
}
const job = jobs.find((j) => j.name === 'Flood bank, east reach');
if (!job) throw new Error('The demo job is not there: run `npm run demo` first.');

const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--use-angle=swiftshader', '--enable-unsafe-swiftshader', '--ignore-gpu-blocklist'],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
const at = (id) => page.getByTestId(id);
const settle = (ms = 2500) => page.waitForTimeout(ms);
const shot = async (name) => page.screenshot({ path: join(folder, `${name}.png`) });
const noMessage = () =>
  page
    .locator('mat-snack-bar-container button')
    .click({ timeout: 3000 })
    .catch(() => undefined);

const colourBy = async (mode) => {
  await at('colour-by').click();
  await at(`colour-${mode}`).click();
  await at('colour-by').click();
};
const drag = async (view, [ax, ay], [bx, by]) => {
  const box = await at(`view-${view}`).boundingBox();
  await page.mouse.move(box.x + ax, box.y + ay);
  await page.mouse.down();
  await page.mouse.move(box.x + bx, box.y + by, { steps: 6 });
  await page.mouse.up();
};

/** Runs an operation of a job by its API and answers with the run. */
const runOf = async (jobId, id, given) => {
  const address = `${base}/api/jobs/${jobId}`;
  const answer = await fetch(`${address}/operations/${id}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(given),
  });
  let run = await answer.json();
  while (run.state === 'queued' || run.state === 'running') {
    await settle(300);
    run = await (await fetch(`${address}/runs/${run.id}`)).json();
  }
  return run;
};

await page.goto(base);
await settle(1000);
await shot('jobs');

// Clean: what the search for low points would find, in a section over bank and trees.
await page.goto(`${base}/jobs/${job.id}/clean`);
await settle();
await at('lay-section').click();
await at('view-plan').click({ position: { x: 120, y: 520 } });
await at('view-plan').click({ position: { x: 600, y: 420 } });
await at('section-depth').fill('12');
await page.keyboard.press('Enter');
await at('preview-count').filter({ hasText: 'in the section' }).waitFor();
await settle();
await shot('clean');
await at('close-section').click();

await page.goto(`${base}/jobs/${job.id}/classify`);
await settle();
const operate = async (id, isDone) => {
  if (await isDone()) return;
  await at(`run-${id}`).click();
  // What it says at its end may still be what the one before said: the field book tells.
  const isListed = async () => (await (await fetch(`${base}/api/jobs/${job.id}/history`)).json()).entries.some((entry) => entry.operation === id && entry.state === 'done'); // prettier-ignore
  for (let i = 0; i < 300 && !(await isListed()); i++) await settle(300);
  await noMessage();
};
if ((await at('class-2').count()) === 0) {
  // What settings would do, seen before it is done.
  await at('lay-section').click();
  await at('view-plan').click({ position: { x: 400, y: 240 } });
  await at('view-plan').click({ position: { x: 480, y: 420 } });
  await at('preview-ground').click();
  await at('preview-result').waitFor();
  await settle(2500);
  await shot('ground-preview');
  await at('close-comparison').click();
  await at('close-section').click();
}
await operate('find-ground', async () => (await at('class-2').count()) > 0);
if ((await at('class-9').count()) === 0) {
  await at('part-water').click();
  await operate('find-water', async () => false);
}
if ((await at('class-6').count()) === 0) {
  await page.getByRole('checkbox', { name: /fences and walls/ }).check();
  await page.getByRole('checkbox', { name: /vehicles/ }).check();
  await operate('find-objects', async () => false);
}
await page.locator('section.sheet').evaluate((sheet) => sheet.scrollTo(0, 0));
await at('lay-section').click();
await at('view-plan').click({ position: { x: 250, y: 150 } });
await at('view-plan').click({ position: { x: 500, y: 520 } });
await settle();
await shot('classify-section');
await at('close-section').click();
// Where ground may be wrong, one place in Plan and in its section.
await page.locator('section.sheet').evaluate((sheet) => sheet.scrollTo(0, 0));
await at('look-for-suspects').click();
await at('suspect-count').waitFor();
await at('suspect').nth(2).click();
await settle(1500);
await at('close-section').click();
await page.keyboard.press('w');
// Fewer points that say the same.
await at('stage-thin').click();
await page.getByRole('combobox', { name: 'Keep' }).click();
await page.getByRole('option', { name: /key points/ }).click();
await operate('thin-cloud', async () => (await at('thinning-result').count()) > 0);
await at('thinning-result').scrollIntoViewIfNeeded();
await settle();
await shot('thin');
await at('stage-classify').click();
await settle();
// Selecting in Model what is seen, beside Plan.
await at('pane-both').click();
await settle();
await at('tool-box').click();
await drag('model', [60, 250], [200, 330]);
await at('selected-count').waitFor();
await settle(1500);
await shot('selecting');
await at('clear-selection').click();
await at('tool-look').click();
await at('pane-plan').click();

// Lines: the edges of bank and canal found in the points, the water's edge, and a section across them.
const workbench = async () => (await fetch(`${base}/api/jobs/${job.id}`)).json();
if (!(await workbench()).products.some(({ kind }) => kind === 'lines')) {
  const clouds = [(await workbench()).clouds[0].id];
  const { productId } = await runOf(job.id, 'find-breaks', { clouds, kind: 'bank' });
  const { proposed } = (await workbench()).products.find(({ id }) => id === productId).facts;
  const accept = Array.from({ length: proposed }, (_, k) => k);
  await runOf(job.id, 'judge-proposals', { proposalsId: productId, accept });
  await runOf(job.id, 'find-water-edges', { clouds });
}
await at('stage-lines').click();
await page.keyboard.press('w');
await colourBy('intensity');
await at('lay-section').click();
await at('view-plan').click({ position: { x: 330, y: 270 } });
await at('view-plan').click({ position: { x: 390, y: 460 } });
await at('change-lines').click();
await at('view-plan').click({ position: { x: 205, y: 199 } });
await settle(3000);
await noMessage();
await settle(500);
await shot('lines');
await at('tool-look').click();
await at('close-section').click();
await colourBy('class');

await at('stage-terrain').click();
// The pond is laid flat at its level, along its edge.
await page.getByText('lay flat', { exact: true }).click();
await operate('build-surface', async () => (await page.locator('[data-testid^="eye-surface"]').count()) > 0);
await operate('draw-contours', async () => (await page.locator('[data-testid^="eye-contours"]').count()) > 0);
await at('show-surface').click();
await page.keyboard.press('w');
await page.locator('[data-testid^="eye-contours"]').first().waitFor({ timeout: 120_000 });
await noMessage();
await settle();
await page.locator('section.sheet').evaluate((sheet) => sheet.scrollTo(0, 0));
await shot('terrain-plan');
const fold = async (...parts) => {
  for (const part of parts) await at(`part-${part}`).click();
};
await fold('surface', 'contours', 'tints');
await at('bands-as-contours').click();
await settle();
await page.getByLabel('Height of a band').fill('0');
await page.getByLabel('Height of a band').press('Tab');
await fold('tints', 'profiles');
await at('lay-section').click();
await at('view-plan').click({ position: { x: 300, y: 190 } });
await at('view-plan').click({ position: { x: 380, y: 430 } });
await at('run-draw-profile').click();
await at('profile-chart').waitFor();
await noMessage();
await settle();
await shot('profile');
await at('close-section').click();
await fold('profiles', 'edit-surface');
await at('find-faults').click();
await at('fault-count').waitFor();
await page.getByTestId('surface-fault').nth(1).locator('button').first().click();
await settle(3500);
await shot('triangles');
await at('edit-triangles').click();
await page.keyboard.press('w');
// Two designs of a raised bank, on a line along its crest.
const state = async () => (await fetch(`${base}/api/jobs/${job.id}`)).json();
if (!(await state()).products.some(({ facts }) => facts.design)) {
  const stations = Array.from({ length: 17 }, (_, k) => 100 + 20 * k);
  const crest = stations.map((east) => bankNorthing(east));
  await runOf(job.id, 'draw-lines', {
    put: [
      {
        code: 'CREST',
        easting: stations.map((east) => CORNER.easting + east),
        northing: crest.map((north) => CORNER.northing + north),
        elevation: stations.map((east, k) => groundElevation(east, crest[k])),
      },
    ],
  });
  const { products } = await state();
  const newest = (kind) => products.filter((product) => product.kind === kind).at(-1).id;
  const along = products.find(({ kind, facts }) => kind === 'lines' && facts.code === 'CREST').id;
  const design = { along, surfaceId: newest('surface'), crestWidth: 5 };
  await runOf(job.id, 'design-earthwork', { ...design, raise: 1, name: 'Raised 1 m, 1 in 2' });
  await runOf(job.id, 'design-earthwork', { ...design, raise: 1.5, fillSlope: 3, name: 'Raised 1.5 m, 1 in 3' });
}
await fold('edit-surface', 'design');
await at('alternatives').scrollIntoViewIfNeeded();
await page.getByRole('button', { name: 'Raised 1.5 m, 1 in 3', exact: true }).click();
// Contours would hide what is designed under them.
const contours = page.locator('[data-testid^="eye-contours-"]').first();
await contours.click();
await at('pane-model').click();
await settle(6000);
await noMessage();
await settle(500);
await shot('terrain-model');
await contours.click();
await at('field-book').click();
await at('pane-both').click();
await at('show-points').click();
await colourBy('elevation');
await settle();
await at('show-graph').click();
await settle();
await shot('field-book');
await at('show-graph').click();
await at('field-book').click();

await at('pane-plan').click();
await colourBy('intensity');
await at('stage-intake').click();
if ((await (await fetch(`${base}/api/jobs/${job.id}`)).json()).controlCount === 0) {
  const files = join(process.env.PAMPERO_DATA ?? join(root, '.pampero'), 'demo-files');
  await at('control-file').setInputFiles(join(files, 'check-points.csv'));
  await page.locator('mat-snack-bar-container').waitFor();
  await noMessage();
}
await settle(4000);
await noMessage();
await page.locator('section.sheet').evaluate((sheet) => sheet.scrollTo(0, 540));
const wipe = (share) =>
  at('wipe').evaluate((input, value) => {
    input.value = value;
    input.dispatchEvent(new Event('input', { bubbles: true }));
    input.dispatchEvent(new Event('change', { bubbles: true }));
  }, String(share));
await wipe(0.5);
await settle(2500);
await shot('intake');
await wipe(0);
await at('stage-deliver').click();
await at('pane-model').click();
await colourBy('class');
await page.locator('section.sheet').evaluate((sheet) => sheet.scrollTo(0, 0));
await settle();
await shot('deliver');
// A text file on its way in: a made-up survey of a pasture within the demo's cloud.
await page.goto(`${base}/jobs/${job.id}/intake`);
await page.locator('pam-density-map').waitFor();
const pasture = ['Nr;Este;Norte;Cota;Intensidad'];
for (let i = 0; i < 4000; i++) {
  const [east, north] = [5_512_040 + (i % 80) * 3, 6_150_120 + Math.floor(i / 80) * 3];
  const cells = [east.toFixed(2), north.toFixed(2), (29 + Math.sin(i / 300)).toFixed(2)].map((n) =>
    n.replace('.', ','),
  );
  pasture.push([i + 1, ...cells, i % 400].join(';'));
}
await at('las-file').setInputFiles({
  name: 'pasture.csv',
  mimeType: 'text/csv',
  buffer: Buffer.from(pasture.join('\n')),
});
await page.locator('pam-extent-map').waitFor();
await settle(800);
await shot('import');
await page.getByRole('button', { name: 'Cancel' }).click();

// The second job: the flight before anything is corrected, compared and adjusted.
const flight = jobs.find((j) => j.name === 'Flood bank, as flown');
const align = (id, given) => runOf(flight.id, id, given);
await page.goto(`${base}/jobs/${flight.id}/align`);
const made = (await (await fetch(`${base}/api/jobs/${flight.id}`)).json()).products.map(({ kind }) => kind);
if (!made.includes('strip-differences')) await align('compare-strips', { cloud: 1 });
if (!made.includes('strips')) await align('find-strips', { cloud: 1, by: 'straight', trajectory: 1 });
if (!made.includes('adjustment'))
  await align('adjust-strips', { cloud: 1, leverForward: 0.1, leverRight: -0.05, leverDown: 0.2 });
await page.reload();
await at('difference-map-elevation').first().waitFor();
await settle(3000);
await colourBy('strip');
await drag('plan', [400, 300], [400, 300]).catch(() => undefined);
const map = at('difference-map-elevation').first();
const box = await map.boundingBox();
await map.click({ position: { x: box.width * 0.62, y: box.height * 0.42 } });
await settle(3500);
await page.locator('section.sheet').evaluate((sheet) => sheet.scrollTo(0, 0));
await settle(500);
await shot('align');
await at('strip-section').waitFor();
await at('adjustment-verdict').scrollIntoViewIfNeeded();
await page.locator('section.sheet').evaluate((sheet) => {
  const top = sheet.querySelector('[data-testid="adjustment-verdict"]').getBoundingClientRect().top;
  sheet.scrollBy(0, top - 90);
});
await settle(1500);
await shot('align-adjusted');

// The page for a client, from a file and without a network.
const newestOf = (products, kind) => products.filter((product) => product.kind === kind).at(-1)?.id;
const { products, clouds } = await (await fetch(`${base}/api/jobs/${job.id}`)).json();
const view = await fetch(`${base}/api/jobs/${job.id}/client-view`, {
  method: 'POST',
  headers: { 'content-type': 'application/json' },
  body: JSON.stringify({
    surfaceId: newestOf(
      products.filter(({ facts }) => !facts.design),
      'surface',
    ),
    contoursId: newestOf(products, 'contours'),
    pictureId: newestOf(products, 'picture'),
    clouds: clouds.map(({ id }) => id),
    words: 'The flood bank and its canal after the survey of the east reach.',
  }),
});
const viewPath = join(tmpdir(), 'pampero-view.html');
writeFileSync(viewPath, Buffer.from(await view.arrayBuffer()));
await page.goto(pathToFileURL(viewPath).href);
await page.waitForFunction(() => document.body.dataset.draped);
await page.click('[data-tool=profile]');
for (const [x, y] of [
  [420, 540],
  [640, 320],
]) {
  await page.mouse.click(x, y);
  await settle(300);
}
await settle(2500);
await shot('client-page');

// A run sheet that waits at its gate, on the same flight a month later.
const files = join(process.env.PAMPERO_DATA ?? join(root, '.pampero'), 'demo-files');
const later = await (
  await fetch(`${base}/api/jobs`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ name: 'East reach, a month later', epsg: 5347 }),
  })
).json();
const { sheet } = await (await fetch(`${base}/api/run-sheets/lidar-to-contours`)).json();
const gate = sheet.steps.find(({ key }) => key === 'accuracy-holds');
gate.gate.limit = '1 cm';
const strict = await (
  await fetch(`${base}/api/run-sheets`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ sheet: { ...sheet, name: 'East reach, every month' } }),
  })
).json();
await page.goto(`${base}/jobs/${later.id}/deliver`);
await at('part-run-sheets').click();
await at(`run-sheet-${strict.id}`).click();
await at('place-lidar').setInputFiles(join(files, 'flood-bank-lidar.las'));
await at('place-checks').setInputFiles(join(files, 'check-points.csv'));
await at('run-start').click();
await at('gate').waitFor({ timeout: 120_000 });
await noMessage();
await page.locator('section.sheet').evaluate((element) => element.scrollTo(0, 180));
await settle(4000);
await noMessage();
await shot('run-sheet');
await fetch(`${base}/api/jobs/${later.id}`, { method: 'DELETE' });
await fetch(`${base}/api/run-sheets/${strict.id}`, { method: 'DELETE' });
await browser.close();
