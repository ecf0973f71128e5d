import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureDemoFiles } from '@pampero/demo';
import { startServer } from '@pampero/server';
import type { Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { openBench, type Bench } from './browser.js';

const AXE = createRequire(import.meta.url).resolve('axe-core/axe.min.js');

let bench: Bench;
let jobId: string;
beforeAll(async () => {
  bench = await openBench();
  const { lidar } = await ensureDemoFiles(join(tmpdir(), 'pampero-demo-files'));
  jobId = (await bench.server.library.create({ name: 'Hand', epsg: 5347 })).id;
  const response = await fetch(
    `${bench.server.url}/api/jobs/${jobId}/operations/import-cloud/file?fileName=flight.las`,
    {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream' },
      body: await readFile(lidar),
    },
  );
  expect(response.status).toBe(202);
  await openPage(bench.page);
}, 120_000);
afterAll(() => bench.stop());

const at = (id: string) => bench.page.getByTestId(id);

async function openPage(page: Page, stage = 'clean'): Promise<void> {
  await page.goto(`${bench.server.url}/jobs/${jobId}/${stage}`);
  await page.waitForFunction(
    () => {
      const canvas = document.querySelector<HTMLElement>('canvas.canvas');
      return canvas?.dataset['complete'] === 'true' && Number(canvas.dataset['drawn']) > 100_000;
    },
    undefined,
    { timeout: 60_000 },
  );
}
interface Counts {
  readonly clouds: readonly { readonly classCounts: Readonly<Record<string, number>> }[];
}
const counts = async (): Promise<Readonly<Record<string, number>>> =>
  ((await (await fetch(`${bench.server.url}/api/jobs/${jobId}`)).json()) as Counts).clouds[0]!.classCounts;
/** Waits until the job on the server has so many points of a class. */
const until = async (code: number, isThere: (count: number) => boolean): Promise<number> => {
  for (let i = 0; i < 200; i++) {
    const count = (await counts())[code] ?? 0;
    if (isThere(count)) return count;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  throw new Error(`class ${code} is ${String((await counts())[code])}`);
};
const number = (text: string | null): number => Number((text ?? '').replace(/\D/g, ''));
/** Does something that selects, and gives the count that the page then shows. */
const selecting = async (doing: () => Promise<void>, page = bench.page): Promise<number> => {
  const counted = page.waitForResponse(/selection\/count/);
  await doing();
  const { points } = (await (await counted).json()) as { points: number };
  await page.waitForFunction(
    (wanted) =>
      Number((document.querySelector('[data-testid="selected-count"]')?.textContent ?? '').replace(/\D/g, '')) ===
      wanted,
    points,
  );
  return points;
};

describe('hand work', () => {
  test('a search shows on the section what it would find, and changes with its parameter', async () => {
    await at('lay-section').click();
    const plan = (await at('view-plan').boundingBox())!;
    await bench.page.mouse.click(plan.x + 110, plan.y + 560);
    await bench.page.mouse.click(plan.x + 420, plan.y + 130);
    await at('view-section').waitFor();
    await at('section-depth').fill('60 m');
    await bench.page.keyboard.press('Enter');
    const preview = at('preview-count');
    await preview.filter({ hasText: /[1-9].* of .* in the section/ }).waitFor();
    const first = await preview.textContent();
    expect(number(first!.split(' of ')[0]!)).toBeGreaterThan(0);
    const field = bench.page.getByLabel('Low-point depth');
    await field.fill('3 m');
    await bench.page.waitForFunction(
      (before) => document.querySelector('[data-testid="preview-count"]')?.textContent !== before,
      first,
    );
    expect(number((await preview.textContent())!.split(' of ')[0]!)).toBeLessThan(number(first!.split(' of ')[0]!));
    await field.fill('0.4');
  });

  test('the search itself puts the planted low points to class 7', async () => {
    await bench.page.getByRole('button', { name: 'Low points' }).last().click();
    // 70 were planted; see the demo's flight.
    const found = await until(7, (count) => count > 0);
    expect(found).toBeGreaterThanOrEqual(68);
    expect(found).toBeLessThanOrEqual(75);
    await at('undo').click();
    await until(7, (count) => count === 0);
  });

  test('the section’s depth is typed; what the keys walk by follows it until it is set', async () => {
    await at('section-depth').fill('2');
    await bench.page.keyboard.press('Enter');
    await bench.page.waitForFunction(
      () => document.querySelector<HTMLInputElement>('[data-testid="section-step"]')?.value === '2.00',
    );
  });

  test('under a line in the section: selected, counted, classed, undone, redone', async () => {
    await at('tool-below').click();
    const section = (await at('view-section').boundingBox())!;
    const y = section.y + section.height * 0.6;
    const count = await selecting(async () => {
      await bench.page.mouse.click(section.x + 30, y);
      await bench.page.mouse.dblclick(section.x + section.width - 40, y);
    });
    expect(count).toBeGreaterThan(0);
    await at('view-section').focus();
    // 7, Low point, by its key.
    await bench.page.keyboard.press('7');
    await at('last-outcome').getByText('to 7 Low point (noise)').waitFor();
    expect(await until(7, (n) => n > 0)).toBe(count);
    await bench.page.keyboard.press('Control+z');
    await until(7, (n) => n === 0);
    await bench.page.keyboard.press('Control+Shift+z');
    expect(await until(7, (n) => n > 0)).toBe(count);
  });

  test('a box in Model takes what is seen and leaves what stands behind', async () => {
    await at('close-section').click();
    await at('pane-model').click();
    await bench.page.waitForTimeout(1500);
    await at('tool-box').click();
    const model = (await at('view-model').boundingBox())!;
    const drag = () =>
      selecting(async () => {
        await bench.page.mouse.move(model.x + 150, model.y + 200);
        await bench.page.mouse.down();
        await bench.page.mouse.move(model.x + 500, model.y + 420, { steps: 5 });
        await bench.page.mouse.up();
      });
    const seen = await drag();
    await at('seen-only').uncheck();
    const all = await drag();
    expect(seen).toBeGreaterThan(1000);
    expect(all).toBeGreaterThan(seen);
    await at('seen-only').check();
    await at('clear-selection').click();
  });

  test('a patch grows from a point touched, and again as its rule changes', async () => {
    await at('pane-plan').click();
    await at('tool-touch').click();
    const plan = (await at('view-plan').boundingBox())!;
    // The barn's roof.
    const roof = await selecting(() => bench.page.mouse.click(plan.x + 262, plan.y + 232));
    expect(roof).toBeGreaterThan(3000);
    expect(roof).toBeLessThan(6000);
    const coarser = await selecting(async () => {
      await at('patch-height-step').fill('6 m');
      await bench.page.keyboard.press('Enter');
    });
    // Now it goes down the walls.
    expect(coarser).toBeGreaterThan(roof);
    await at('clear-selection').click();
    await at('pane-model').click();
    await at('tool-box').click();
    await bench.page.waitForTimeout(500);
  });

  test('only what lies in the focus box is selected; its faces are typed or dragged, and released', async () => {
    const drag = () =>
      selecting(async () => {
        const model = (await at('view-model').boundingBox())!;
        await bench.page.mouse.move(model.x + 100, model.y + 150);
        await bench.page.mouse.down();
        await bench.page.mouse.move(model.x + 600, model.y + 500, { steps: 5 });
        await bench.page.mouse.up();
      });
    const all = await drag();
    await at('focus-box').click();
    const upper = at('box-field-upper');
    const lower = number(await at('box-field-lower').inputValue()) / 100;
    // A slice of half a metre over the lowest point holds little.
    await upper.fill(String(lower + 0.5));
    await bench.page.keyboard.press('Enter');
    const few = await drag();
    expect(few).toBeLessThan(all / 10);
    const handle = (await at('box-upper').boundingBox())!;
    await bench.page.mouse.move(handle.x + 6, handle.y + 6);
    await bench.page.mouse.down();
    await bench.page.mouse.move(handle.x + 6, handle.y - 60, { steps: 5 });
    await bench.page.mouse.up();
    expect(number(await upper.inputValue()) / 100).toBeGreaterThan(lower + 1);
    await upper.fill(String(lower - 3));
    await bench.page.keyboard.press('Enter');
    await bench.page.getByText('It must be more than').waitFor();
    await at('release').click();
    expect(await drag()).toBe(all);
    await at('clear-selection').click();
  });

  test('by keys alone: a tool, its cross, corners, a class', async () => {
    await at('pane-plan').click();
    await at('view-plan').focus();
    await bench.page.keyboard.press('o');
    const move = async (key: string, times: number) => {
      for (let i = 0; i < times; i++) await bench.page.keyboard.press(key);
    };
    // From the middle of the view: a rectangle of 100 by 50 pixels.
    await bench.page.keyboard.press('Space');
    await move('Shift+ArrowRight', 2);
    await bench.page.keyboard.press('Space');
    await move('Shift+ArrowDown', 1);
    await bench.page.keyboard.press('Space');
    await move('Shift+ArrowLeft', 2);
    await bench.page.keyboard.press('Space');
    const count = await selecting(() => bench.page.keyboard.press('Enter'));
    expect(count).toBeGreaterThan(1000);
    await bench.page.keyboard.press('Shift+Digit1');
    await at('last-outcome').getByText('to 11 Road surface').waitFor();
    expect(await until(11, (n) => n > 0)).toBe(count);
    await bench.page.keyboard.press('Control+z');
    await until(11, (n) => n === 0);
    await bench.page.keyboard.press('Escape');
  });

  test('an outline that crosses itself is refused, and what was selected stays', async () => {
    await at('tool-look').click();
    await at('tool-outline').click();
    const plan = (await at('view-plan').boundingBox())!;
    const corners = async (list: [number, number][]) => {
      for (const [x, y] of list) await bench.page.mouse.click(plan.x + x, plan.y + y);
      await bench.page.keyboard.press('Enter');
    };
    const before = await selecting(() => corners([[300, 300], [400, 300], [400, 360]])); // prettier-ignore
    await at('mode-add').click();
    await corners([[500, 300], [600, 360], [600, 300], [500, 360]]); // prettier-ignore
    await at('selection-problem').getByText('cross each other').waitFor();
    await at('selected-count').waitFor();
    expect(number(await at('selected-count').textContent())).toBe(before);
    expect(bench.errors.splice(0)).toEqual([expect.stringContaining('422')]);
    await at('mode-new').click();
    await at('clear-selection').click();
  });

  test('two pages: what one does the other sees, and neither loses the other’s', async () => {
    const other = await bench.page.context().newPage();
    await openPage(other);
    const select = async (page: Page, x: number): Promise<number> => {
      await page.getByTestId('tool-box').click();
      const plan = (await page.getByTestId('view-plan').boundingBox())!;
      return selecting(async () => {
        await page.mouse.move(plan.x + x, plan.y + 260);
        await page.mouse.down();
        await page.mouse.move(plan.x + x + 60, plan.y + 300, { steps: 4 });
        await page.mouse.up();
      }, page);
    };
    const mine = await select(bench.page, 300);
    const theirs = await select(other, 480);
    await Promise.all([
      at('class-choice')
        .selectOption('3')
        .then(() => at('set-class').click()),
      other
        .getByTestId('class-choice')
        .selectOption('4')
        .then(() => other.getByTestId('set-class').click()),
    ]);
    expect(await until(3, (n) => n > 0)).toBe(mine);
    expect(await until(4, (n) => n > 0)).toBe(theirs);
    for (const page of [bench.page, other])
      for (const code of [3, 4]) await page.getByTestId(`class-${code}`).waitFor({ timeout: 5000 });
    await other.close();
  });

  test('a measure, a note and a view are kept; the page comes back as it was after the server was started again', async () => {
    await at('tool-measure').click();
    const plan = (await at('view-plan').boundingBox())!;
    await bench.page.mouse.click(plan.x + 300, plan.y + 380);
    await bench.page.mouse.click(plan.x + 420, plan.y + 380);
    await at('row-1').waitFor();
    expect(number(await at('row-1').textContent())).toBeGreaterThan(10_000); // millimetres
    await bench.page.keyboard.press('n');
    await bench.page.mouse.click(plan.x + 300, plan.y + 380);
    await at('name').fill('Gate post leans');
    await at('name-done').click();
    await at('kept').click();
    await bench.page.getByText('Gate post leans').first().waitFor();
    await bench.page.keyboard.press('Escape');
    const before = await counts();
    const { url } = bench.server;
    const port = Number(new URL(url).port);
    const data = bench.data;
    await bench.server.close();
    bench.server = await startServer({
      data,
      port,
      host: '127.0.0.1',
      workers: 2,
      memory: 1500,
      folder: undefined,
      log: 'silent',
    });
    await openPage(bench.page);
    expect(await counts()).toEqual(before);
    // Undo goes on where it was: whichever of the two pages' edits was the last goes, and comes again.
    const last = (await at('field-book').click().then(() => bench.page.getByText(/points? to [34] /).first().textContent()))!; // prettier-ignore
    const code = Number(/to ([34]) /.exec(last)![1]);
    await at('undo').click();
    await until(code, (n) => n === 0);
    await at('redo').click();
    await until(code, (n) => n > 0);
    await at('field-book').click();
    bench.errors.splice(0); // the page complained, rightly, while there was no server
  });

  test('no serious fault of accessibility, in Clean with a selection and with the colours open', async () => {
    await at('colour-by').click();
    await at('tool-brush').click();
    await bench.page.evaluate(await readFile(AXE, 'utf8'));
    const faults = await bench.page.evaluate(async () => {
      const { axe } = window as unknown as {
        axe: { run(): Promise<{ violations: { id: string; impact: string; nodes: { html: string }[] }[] }> };
      };
      const { violations } = await axe.run();
      return violations
        .filter(({ impact }) => impact === 'serious' || impact === 'critical')
        .map(({ id, nodes }) => `${id}: ${nodes[0]!.html.slice(0, 120)}`);
    });
    expect(faults).toEqual([]);
  });

  test('the page has made no mistake', () => expect(bench.errors).toEqual([]));
});
