import { mkdir, readFile, readdir, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureDemoFiles } from '@pampero/demo';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { openBench, type Bench } from './browser.js';

/** Markup that would run, were it ever taken for markup. */
const MARKUP = '<img src=x onerror="window.caught=1"><script>window.caught=1</script>';

describe('names that are markup', () => {
  let bench: Bench;
  let jobId: string;
  beforeAll(async () => {
    bench = await openBench();
    const { lidar } = await ensureDemoFiles(join(tmpdir(), 'pampero-demo-files'));
    const api = (path: string, body: unknown): Promise<Response> =>
      fetch(`${bench.server.url}/api${path}`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify(body),
      });
    jobId = ((await (await api('/jobs', { name: MARKUP, epsg: 5347 })).json()) as { id: string }).id;
    const query = new URLSearchParams({ fileName: 'x.las', parameters: JSON.stringify({ name: MARKUP }) });
    const sent = await fetch(`${bench.server.url}/api/jobs/${jobId}/operations/import-cloud/file?${query.toString()}`, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream' },
      body: await readFile(lidar),
    });
    expect(sent.status).toBe(202);
    const read = async (): Promise<{ clouds: { id: number }[]; products: unknown[] }> =>
      (await (await fetch(`${bench.server.url}/api/jobs/${jobId}`)).json()) as never;
    const until = async (isThere: () => Promise<boolean>): Promise<void> => {
      for (let k = 0; k < 600 && !(await isThere()); k++) await new Promise((resolve) => setTimeout(resolve, 100));
    };
    await until(async () => (await read()).clouds.length === 1);
    const clouds = [(await read()).clouds[0]!.id];
    await api(`/jobs/${jobId}/operations/build-surface`, { name: MARKUP, clouds, classes: [1] });
    await until(async () => (await read()).products.length === 1);
    await api(`/jobs/${jobId}/operations/edit-classes`, {
      classes: [{ code: 70, name: MARKUP.slice(0, 58), colour: '#123456' }],
    });
    await api(`/jobs/${jobId}/pins`, { kind: 'note', name: MARKUP, place: [5_512_100, 6_150_100, 30] });
  }, 180_000);
  afterAll(() => bench.stop());

  test('are shown as they are written, on every sheet, and never run', async () => {
    const { page } = bench;
    const caught = (): Promise<unknown> => page.evaluate(() => (window as { caught?: unknown }).caught);
    await page.goto(bench.server.url);
    await page.getByText(MARKUP).first().waitFor();
    await page.getByRole('button', { name: /More about/ }).click();
    await page.getByRole('menuitem', { name: 'Remove' }).waitFor();
    await page.keyboard.press('Escape');
    expect(await caught()).toBeUndefined();
    for (const stage of ['intake', 'clean', 'classify', 'thin', 'terrain', 'deliver']) {
      await page.goto(`${bench.server.url}/jobs/${jobId}/${stage}`);
      await page.getByText(MARKUP).first().waitFor({ timeout: 30_000 });
      expect(await caught(), stage).toBeUndefined();
    }
    await page.keyboard.press('b');
    await page.getByText('Import cloud').first().waitFor();
    await page.getByText('Build surface').first().click();
    expect(await caught()).toBeUndefined();
    expect(await page.locator('img[src="x"]').count()).toBe(0);
    expect(bench.strayRequests).toEqual([]);
    expect(bench.errors).toEqual([]);
  }, 180_000);
});

describe('files that cannot be opened', () => {
  let bench: Bench;
  beforeAll(async () => {
    bench = await openBench();
    await bench.server.library.create({ name: 'Good', epsg: 5347 });
    await writeFile(join(bench.data, 'north-bank.pampero'), 'not SQLite');
    await mkdir(join(bench.data, 'folder.pampero'));
  });
  afterAll(() => bench.stop());

  test('stand under the jobs with what is wrong, and are moved aside by a button', async () => {
    const { page } = bench;
    await page.goto(bench.server.url);
    const list = page.getByTestId('unreadable');
    await list.waitFor();
    expect(await page.getByTestId('job').count()).toBe(1);
    expect(await list.innerText()).toMatch(/north-bank\.pampero\s+The file is not a Pampero job/);
    expect(await list.innerText()).toMatch(/folder\.pampero\s+It is a folder and no job file/);
    await page.getByRole('button', { name: 'Move north-bank.pampero aside' }).click();
    await page.getByText('north-bank.pampero lies in the folder “aside” now.').waitFor();
    await page.getByRole('button', { name: 'Move folder.pampero aside' }).click();
    await list.waitFor({ state: 'detached' });
    expect((await readdir(join(bench.data, 'aside'))).map((name) => name.split('.')[0]).sort()).toEqual([
      'folder',
      'north-bank',
    ]);
    expect(bench.errors).toEqual([]);
  });

  test('a file that is no job is refused when it is restored, in words', async () => {
    const { page } = bench;
    await page.goto(bench.server.url);
    await page.getByTestId('job-file').setInputFiles({
      name: 'holiday.pampero',
      mimeType: 'application/octet-stream',
      buffer: Buffer.from('a picture'),
    });
    await page.getByText(/The file is not a Pampero job/).waitFor();
    expect(await page.getByTestId('job').count()).toBe(1);
    bench.errors.length = 0; // the browser logs an answer of 422
  });
});

describe('a server with a token', () => {
  let bench: Bench;
  beforeAll(async () => {
    bench = await openBench({ token: 'seven-herons-by-the-river' });
    await bench.server.library.create({ name: 'Behind the door', epsg: 5347 });
  });
  afterAll(() => bench.stop());

  test('asks once, says when it is wrong, and then shows the jobs for good', async () => {
    const { page } = bench;
    await page.goto(bench.server.url);
    expect(new URL(page.url()).pathname).toBe('/enter');
    await page.getByLabel('Token').fill('a guess at random');
    await page.getByRole('button', { name: 'Open' }).click();
    await page.getByText('This is not the server’s token.').waitFor();
    await page.getByLabel('Token').fill('seven-herons-by-the-river');
    await page.getByRole('button', { name: 'Open' }).click();
    await page.getByText('Behind the door').waitFor();
    await page.reload();
    await page.getByText('Behind the door').waitFor();
    // Scripts of the page cannot read what lets it in.
    expect(await page.evaluate(() => document.cookie)).toBe('');
    // Events and files go through the same door.
    await page.getByTestId('job').click();
    await page.getByText('Behind the door').first().waitFor();
    expect(bench.strayRequests).toEqual([]);
  });

  test('asks again when it does not know the browser any more', async () => {
    const { page } = bench;
    await page.goto(bench.server.url);
    await page.getByText('Behind the door').waitFor();
    await page.context().clearCookies();
    await page.getByTestId('job').click();
    await page.getByLabel('Token').waitFor();
    expect(new URL(page.url()).pathname).toBe('/enter');
  });
});
