import type { Page } from 'playwright-core';
import { openBenchJob } from './bench-job.js';
import type { Row } from './rows.js';

/** How the page draws a large cloud on software rendering: first picture, refinement, moving, and whether the page is blocked. */
export async function* viewerBench(folder: string, count: number): AsyncGenerator<Row> {
  const millions = `${count / 1e6} M`;
  const { server, browser, jobId, close } = await openBenchJob(folder, 'jobs', count);
  try {
    yield* windowRows(server.url, jobId, millions);

    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(server.url); // the application itself is in the cache, as for whoever opens a job from the Jobs page
    await page.waitForTimeout(1500);
    const begun = performance.now();
    await page.goto(`${server.url}/jobs/${jobId}/classify`);
    await page.waitForFunction(
      () => Number(document.querySelector<HTMLElement>('canvas.canvas')?.dataset['drawn'] ?? 0) > 1000,
    );
    yield {
      name: `first picture of ${millions} points after opening the job`,
      measured: (performance.now() - begun) / 1000,
      unit: 's',
      target: 2,
    };
    await page.waitForFunction(
      () => document.querySelector<HTMLElement>('canvas.canvas')?.dataset['complete'] === 'true',
      undefined,
      { timeout: 120_000 },
    );
    yield {
      name: `all of the view of ${millions} points after opening the job`,
      measured: (performance.now() - begun) / 1000,
      unit: 's',
    };

    const moving = await whileMoving(page);
    yield {
      name: `pictures a second while Plan of ${millions} points is dragged`,
      measured: moving.pictures,
      unit: '1/s',
      target: 15,
      isMoreBetter: true,
    };
    yield {
      name: `points in each of them`,
      measured: moving.points,
      unit: 'points',
      target: 200_000,
      isMoreBetter: true,
    };
    yield { name: `longest time the page was blocked meanwhile`, measured: moving.blocked, unit: 'ms', target: 60 };
    const rate = await pointsASecond(page);
    yield {
      name: `points drawn a second by the processor, Plan standing still`,
      measured: rate / 1e6,
      unit: 'M points/s',
    };
    await page.getByTestId('painter').click();
    await page.getByTestId('painter-graphics').click();
    await page.waitForFunction(
      () => document.querySelector<HTMLElement>('canvas.canvas')?.dataset['painter'] === 'graphics',
    );
    const software = await pointsASecond(page);
    yield { name: `points drawn a second by software WebGL, same view`, measured: software / 1e6, unit: 'M points/s' };
    yield {
      name: `processor against software WebGL`,
      measured: rate / software,
      unit: 'times',
      target: 10,
      isMoreBetter: true,
    };
  } finally {
    await close();
  }
}

/** An outline round a hundredth of the cloud's extent, read first thing after the import. */
async function* windowRows(url: string, jobId: string, millions: string): AsyncGenerator<Row> {
  const { clouds } = (await (await fetch(`${url}/api/jobs/${jobId}`)).json()) as {
    clouds: { id: number; bounds: { min: [number, number]; max: [number, number] } }[];
  };
  const [{ id, bounds }] = clouds as [(typeof clouds)[0]];
  const [wide, high] = [0, 1].map((axis) => (bounds.max[axis]! - bounds.min[axis]!) / 10) as [number, number];
  const [west, south] = [bounds.min[0] + wide * 4.3, bounds.min[1] + high * 3.7];
  const outline = [
    [west, south],
    [west + wide, south],
    [west + wide, south + high],
    [west, south + high],
  ];
  const begun = performance.now();
  const answer = await fetch(`${url}/api/jobs/${jobId}/clouds/${id}/window`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ outline }),
  });
  const { points, nodesRead, nodes } = (await answer.json()) as { points: number; nodesRead: number; nodes: number };
  const seconds = (performance.now() - begun) / 1000;
  yield { name: `reading a window of 1 % of ${millions} points`, measured: seconds, unit: 's', target: 0.5 };
  yield { name: `points found in it`, measured: points, unit: 'points' };
  yield { name: `nodes read for it, of all`, measured: (100 * nodesRead) / nodes, unit: '%' };
}

const MOVE_MS = 4000;

export async function whileMoving(page: Page): Promise<{ pictures: number; points: number; blocked: number }> {
  const box = (await page.getByTestId('view-plan').boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.evaluate(() => {
    const canvas = document.querySelector<HTMLElement>('canvas.canvas')!;
    const watch = {
      begin: Number(canvas.dataset['pictures']),
      blocked: 0,
      last: performance.now(),
      drawn: [] as number[],
    };
    (window as unknown as { watch: typeof watch }).watch = watch;
    const tick = (): void => {
      const now = performance.now();
      watch.blocked = Math.max(watch.blocked, now - watch.last - 17);
      watch.last = now;
      watch.drawn.push(Number(canvas.dataset['drawn']));
      setTimeout(tick, 0);
    };
    tick();
  });
  await page.mouse.move(x, y);
  await page.mouse.down();
  const begun = performance.now();
  for (let step = 0; performance.now() - begun < MOVE_MS; step++) {
    await page.mouse.move(x + 120 * Math.sin(step / 9), y + 80 * Math.cos(step / 11));
    await page.waitForTimeout(12);
  }
  const result = await page.evaluate(() => {
    const { begin, blocked, drawn } = (
      window as unknown as { watch: { begin: number; blocked: number; drawn: number[] } }
    ).watch;
    const sorted = [...drawn].sort((a, b) => a - b);
    return {
      pictures: Number(document.querySelector<HTMLElement>('canvas.canvas')!.dataset['pictures']) - begin,
      points: sorted[sorted.length >> 1]!,
      blocked,
    };
  });
  const seconds = (performance.now() - begun) / 1000;
  await page.mouse.up();
  return { ...result, pictures: result.pictures / seconds };
}

async function pointsASecond(page: Page): Promise<number> {
  await page.waitForTimeout(1500);
  // Drawn once more, now that all of it lies in memory.
  const before = await page.evaluate(() => document.querySelector<HTMLElement>('canvas.canvas')!.dataset['pictures']);
  await page.getByTestId('view-plan').press('ArrowLeft');
  await page.waitForFunction(
    (was) => document.querySelector<HTMLElement>('canvas.canvas')!.dataset['pictures'] !== was,
    before,
  );
  await page.waitForFunction(
    () => document.querySelector<HTMLElement>('canvas.canvas')!.dataset['complete'] === 'true',
    undefined,
    { timeout: 120_000 },
  );
  await page.waitForTimeout(2500);
  return page.evaluate(() => {
    const { drawn, milliseconds } = document.querySelector<HTMLElement>('canvas.canvas')!.dataset;
    return (Number(drawn) / Number(milliseconds)) * 1000;
  });
}
