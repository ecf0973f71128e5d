import { spawnSync } from 'node:child_process';
import { mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { isolatedPoints, meanNeighbourDistances } from '@pampero/core/cleaning';
import { bufferSource } from '@pampero/core/formats';
import { openLas } from '@pampero/core/formats/las';
import { startServer, type RunningServer } from '@pampero/server';
import { chromium, type Page } from 'playwright-core';
import { writeBenchFile } from './bench-cloud.js';
import { CHROMIUM_ARGUMENTS } from './chromium.js';
import type { Row } from './rows.js';

interface JobState {
  readonly clouds: readonly {
    readonly id: number;
    readonly bounds: { readonly min: readonly number[]; readonly max: readonly number[] };
    readonly classCounts: Readonly<Record<string, number>>;
  }[];
}

/** Hand work on a large cloud: selecting a million points, setting their class, undo; and the searches of Clean. */
export async function* editsBench(folder: string, count: number): AsyncGenerator<Row> {
  const millions = `${count / 1e6} M`;
  const data = join(folder, 'jobs');
  await mkdir(data);
  const server = await startServer({ data, port: 0, host: '127.0.0.1', workers: 2, memory: 1500, log: 'silent' });
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: CHROMIUM_ARGUMENTS });
  try {
    const jobId = await importCloud(server, count);
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(`${server.url}/jobs/${jobId}/clean`);
    await page.waitForFunction(
      () => {
        const { complete, drawn } = document.querySelector<HTMLElement>('canvas.canvas')?.dataset ?? {};
        return complete === 'true' && Number(drawn) > 100_000;
      },
      undefined,
      { timeout: 120_000 },
    );
    yield* handRows(server, jobId, page, count, millions);
    await page.close();
    yield* searchRows(server, jobId, count, millions);
  } finally {
    await browser.close();
    await server.close();
    await rm(data, { recursive: true, force: true });
  }
}

async function importCloud(server: RunningServer, count: number): Promise<string> {
  const job = await server.library.create({ name: 'Bench', unit: 'metre' });
  const received = server.library.scratchPath('.received');
  await writeBenchFile(received, count);
  const run = await (
    await server.operations.startWithFile(job.id, 'import-cloud', { path: received, fileName: 'bench.las' }, {})
  ).finished;
  if (run.state !== 'done') throw new Error(run.outcome ?? run.state);
  return job.id;
}

async function stateOf(server: RunningServer, jobId: string): Promise<JobState['clouds'][0]> {
  return ((await (await fetch(`${server.url}/api/jobs/${jobId}`)).json()) as JobState).clouds[0]!;
}

async function* handRows(
  server: RunningServer,
  jobId: string,
  page: Page,
  count: number,
  millions: string,
): AsyncGenerator<Row> {
  // A square in the middle of Plan that holds about a million points.
  const box = (await page.getByTestId('view-plan').boundingBox())!;
  const { bounds } = await stateOf(server, jobId);
  const wide = bounds.max[0]! - bounds.min[0]!;
  const deep = bounds.max[1]! - bounds.min[1]!;
  const pixel = Math.max(wide / (box.width - 40), deep / (box.height - 40));
  const side = Math.sqrt((wide * deep * 1.02e6) / count) / pixel;
  const [x, y] = [box.x + box.width / 2 - side / 2, box.y + box.height / 2 - side / 2];
  await page.getByTestId('tool-box').click();
  const select = async (): Promise<{ points: number; seconds: number }> => {
    const counted = page.waitForResponse(/selection\/count/);
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x + side, y + side, { steps: 3 });
    const begun = performance.now();
    await page.mouse.up();
    const { points } = (await (await counted).json()) as { points: number };
    return { points, seconds: (performance.now() - begun) / 1000 };
  };
  await select(); // the first has the server's caches to fill
  const { points, seconds } = await select();
  yield { name: `points selected of ${millions} by an outline, with an exact count`, measured: points, unit: 'points' };
  yield { name: `counting them`, measured: seconds, unit: 's', target: 1 };

  await page.waitForTimeout(500);
  await page.getByTestId('view-plan').focus();
  const seen = await untilNextPicture(page, () => page.keyboard.press('Shift+Digit1'));
  yield { name: `their class set: seen on the screen`, measured: seen.milliseconds, unit: 'ms', target: 150 };
  const isSet = async (wanted: boolean): Promise<number> => {
    for (;;) {
      const { classCounts } = await stateOf(server, jobId);
      if ((classCounts['11'] ?? 0) > 0 === wanted) return (performance.now() - seen.begun) / 1000;
      await new Promise((resolve) => setTimeout(resolve, 10));
    }
  };
  yield { name: `their class set: stored`, measured: await isSet(true), unit: 's', target: 1 };
  await page.getByTestId('class-11').waitFor();
  await page.waitForTimeout(1500);
  const undone = performance.now();
  await page.keyboard.press('Control+z');
  await page.waitForResponse(/\/undo$/);
  yield { name: `undo: stored`, measured: (performance.now() - undone) / 1000, unit: 's', target: 1 };
  await page.getByTestId('class-11').waitFor({ state: 'detached' });
  await page.waitForFunction(
    () => document.querySelector<HTMLElement>('canvas.canvas')!.dataset['complete'] === 'true',
  );
  yield { name: `undo: seen on the screen`, measured: performance.now() - undone, unit: 'ms', target: 1000 };
}

/** From doing something to the next picture that the page shows. */
async function untilNextPicture(
  page: Page,
  doing: () => Promise<void>,
): Promise<{ milliseconds: number; begun: number }> {
  await page.evaluate(() => {
    const canvas = document.querySelector<HTMLElement>('canvas.canvas')!;
    const watch = { begun: 0, seen: 0 };
    (window as unknown as { watch: typeof watch }).watch = watch;
    addEventListener('keydown', () => (watch.begun ||= performance.now()), { capture: true, once: true });
    const before = canvas.dataset['pictures'];
    new MutationObserver((_, observer) => {
      if (watch.begun === 0 || canvas.dataset['pictures'] === before) return;
      watch.seen = performance.now();
      observer.disconnect();
    }).observe(canvas, { attributes: true });
  });
  const begun = performance.now();
  await doing();
  await page.waitForFunction(() => (window as unknown as { watch: { seen: number } }).watch.seen > 0);
  const milliseconds = await page.evaluate(() => {
    const { watch } = window as unknown as { watch: { begun: number; seen: number } };
    return watch.seen - watch.begun;
  });
  return { milliseconds, begun };
}

const RADIUS = 1;
const NEIGHBOURS = 8;

async function* searchRows(server: RunningServer, jobId: string, count: number, millions: string): AsyncGenerator<Row> {
  const { id } = await stateOf(server, jobId);
  const rates: Record<string, number> = {};
  for (const [operation, parameters] of [
    ['find-isolated', { radius: RADIUS, leastNeighbours: 4 }],
    ['find-outliers', { neighbours: NEIGHBOURS, deviations: 4 }],
    ['find-low', {}],
  ] as const) {
    const begun = performance.now();
    const { finished } = await server.operations.start(jobId, operation, { clouds: [id], ...parameters });
    const run = await finished;
    if (run.state !== 'done') throw new Error(run.outcome ?? run.state);
    rates[operation] = count / ((performance.now() - begun) / 1000);
    yield {
      name: `${operation} over ${millions} points, from store to store, two threads`,
      measured: rates[operation] / 1e6,
      unit: 'M points/s',
      ...(operation === 'find-low' ? {} : { target: 1, isMoreBetter: true }),
    };
  }
}

/** The same neighbour counts by SciPy's k-d tree, in the same minute; one thread each. */
export async function* neighbourBench(folder: string, count: number): AsyncGenerator<Row> {
  const path = join(folder, 'points.las');
  await writeBenchFile(path, count);
  const bytes = await readFile(path);
  const las = await openLas(bufferSource('points.las', bytes));
  const { scale } = las.quantisation;
  const [x, y, z] = [new Float64Array(count), new Float64Array(count), new Float64Array(count)];
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  for (let i = 0, at = las.header.pointDataOffset; i < count; i++, at += las.header.recordLength) {
    x[i] = view.getInt32(at, true) * scale[0];
    y[i] = view.getInt32(at + 4, true) * scale[1];
    z[i] = view.getInt32(at + 8, true) * scale[2];
  }
  const places = { count, x, y, z };
  const timed = (work: () => void): number => {
    const begun = performance.now();
    work();
    return (performance.now() - begun) / 1000;
  };
  const ours = {
    // More than any point has: every neighbour is counted, as SciPy does.
    ball: timed(() => isolatedPoints(places, { radius: RADIUS, leastNeighbours: 1_000_000 })),
    nearest: timed(() => meanNeighbourDistances(places, NEIGHBOURS, 10)),
  };
  const packed = join(folder, 'points.bin');
  await writeFile(packed, Buffer.concat([x, y, z].map((column) => Buffer.from(column.buffer))));
  const script = `
import sys, time, json
import numpy as np
from scipy.spatial import cKDTree
p = np.fromfile(sys.argv[1]).reshape(3, -1).T.copy()
t = time.time(); tree = cKDTree(p); tree.query_ball_point(p, ${RADIUS}, return_length=True); ball = time.time() - t
t = time.time(); tree = cKDTree(p); tree.query(p, k=${NEIGHBOURS + 1}); nearest = time.time() - t
print(json.dumps({"ball": ball, "nearest": nearest}))`;
  const done = spawnSync('/usr/bin/python3', ['-c', script, packed], { encoding: 'utf8' });
  if (done.status !== 0) throw new Error(done.stderr);
  const scipy = JSON.parse(done.stdout) as { ball: number; nearest: number };
  const millions = `${count / 1e6} M`;
  yield { name: `neighbours within ${RADIUS} m of ${millions} points`, measured: ours.ball, unit: 's' };
  yield { name: `the same by SciPy’s cKDTree`, measured: scipy.ball, unit: 's' };
  yield {
    name: `ours against it`,
    measured: scipy.ball / ours.ball,
    unit: 'times',
    target: 1,
    isMoreBetter: true,
  };
  yield { name: `${NEIGHBOURS} nearest neighbours of ${millions} points`, measured: ours.nearest, unit: 's' };
  yield { name: `the same by SciPy’s cKDTree`, measured: scipy.nearest, unit: 's' };
  yield {
    name: `ours against it`,
    measured: scipy.nearest / ours.nearest,
    unit: 'times',
    target: 1,
    isMoreBetter: true,
  };
}
