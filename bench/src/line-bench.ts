import { writeFile } from 'node:fs/promises';
import { findBreaks, followBreak, PointField, type BreakOptions } from '@pampero/core/breaks';
import { flowOver } from '@pampero/core/drainage';
import { LineIndex, MAGNETS, shapeOf, type LineShape } from '@pampero/core/lines';
import { seededRandom } from '@pampero/core/task';
import { openBenchJob } from './bench-job.js';
import { kerbScene } from './line-scenes.js';
import type { Row } from './rows.js';
import { whileMoving } from './viewer-bench.js';

const [LINES, CORNERS] = [50_000, 20];
const KERB: BreakOptions = {
  ...{ kind: 'kerb', leastHeight: 0.06, mostHeight: 0.3, faceWidth: 0.1, stoneWidth: 0.15, leastTurn: 0.2 },
  ...{ halfProfile: 0.9, reach: 1, longestGap: 8 },
};

/** How fast lines are followed, found, drawn, drawn to and changed. */
export async function* lineBench(folder: string, points: number): AsyncGenerator<Row> {
  yield* following();
  yield* magnets();
  yield* flowing();
  yield* onThePage(folder, points);
}

function* following(): Generator<Row> {
  const scene = kerbScene(11);
  const field = new PointField(scene.points, 0.6);
  for (const guide of scene.guides) followBreak(field, guide, KERB); // warmed up
  let begun = performance.now();
  let length = 0;
  for (const guide of scene.guides) for (const line of followBreak(field, guide, KERB)) length += line.length;
  const seconds = (performance.now() - begun) / 1000;
  yield { name: 'following 1 km of kerb along a guide, points every 0.15 m', measured: (1000 * seconds) / length, unit: 's', target: 2 }; // prettier-ignore
  begun = performance.now();
  findBreaks(field, KERB, { leastLength: 5, leastAgree: 0.6 });
  const rate = scene.points.easting.length / (performance.now() - begun) / 1000;
  yield { name: 'looking for kerbs everywhere, one thread', measured: rate, unit: 'M points/s' };
}

/** A million corners in fifty thousand lines over the land of the bench cloud. */
function manyLines(extent: number): LineShape[] {
  const random = seededRandom(4);
  return Array.from({ length: LINES }, () => {
    let [e, n, turn] = [random() * extent, random() * extent, 6.28 * random()];
    return shapeOf(
      Array.from({ length: CORNERS }, () => {
        turn += 0.4 * (random() - 0.5);
        return { e: (e += Math.cos(turn)), n: (n += Math.sin(turn)), z: 30, source: 2 };
      }),
      false,
    );
  });
}

function* magnets(): Generator<Row> {
  const lines = manyLines(1000);
  let begun = performance.now();
  const index = new LineIndex(lines);
  yield { name: 'index of 1 M corners made', measured: performance.now() - begun, unit: 'ms' };
  const wanted = new Set(MAGNETS);
  const times: number[] = [];
  for (let k = 0; k < 1000; k++) {
    begun = performance.now();
    index.snap((k * 37.7) % 1000, (k * 91.3) % 1000, 2, wanted, [500, 500]);
    times.push(performance.now() - begun);
  }
  times.sort((a, b) => a - b);
  yield { name: 'magnets answer among 1 M corners, 99 of 100 within', measured: times[990]!, unit: 'ms', target: 30 };
}

function* flowing(): Generator<Row> {
  const side = 2000;
  const z = Float32Array.from({ length: side * side }, (_, at) => {
    const [c, r] = [at % side, Math.floor(at / side)];
    return 5 * Math.sin(c / 90) + 4 * Math.cos(r / 70) - c / 100;
  });
  const begun = performance.now();
  flowOver(z, { columns: side, rows: side });
  yield { name: 'flow over 4 M cells, pits filled', measured: (side * side) / (performance.now() - begun) / 1000, unit: 'M cells/s' }; // prettier-ignore
}

async function* onThePage(folder: string, points: number): AsyncGenerator<Row> {
  const { server, browser, jobId, close } = await openBenchJob(folder, 'line-jobs', points);
  try {
    const { clouds } = (await (await fetch(`${server.url}/api/jobs/${jobId}`)).json()) as { clouds: { bounds: { min: number[]; max: number[] } }[] }; // prettier-ignore
    const { min, max } = clouds[0]!.bounds;
    const features = manyLines(max[0]! - min[0]!).map(({ easting, northing, elevation }) => ({
      type: 'Feature',
      properties: { code: 'BREAK' },
      geometry: { type: 'LineString', coordinates: Array.from(easting, (e, k) => [e + min[0]!, northing[k]! + min[1]!, elevation[k]!]) }, // prettier-ignore
    }));
    const path = server.library.scratchPath('.geojson');
    await writeFile(path, JSON.stringify({ type: 'FeatureCollection', features }));
    let begun = performance.now();
    const run = await (
      await server.operations.startWithFile(jobId, 'import-lines', { path, fileName: 'many.geojson' }, {})
    ).finished;
    if (run.state !== 'done') throw new Error(run.outcome ?? run.state);
    yield { name: 'importing 1 M corners in 50 000 lines', measured: (performance.now() - begun) / 1000, unit: 's' };
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    begun = performance.now();
    await page.goto(`${server.url}/jobs/${jobId}/lines`);
    await page.waitForFunction(() => Number(document.querySelector<HTMLElement>('canvas.canvas')?.dataset['drawn'] ?? 0) > 1000); // prettier-ignore
    await page.getByTestId('line-count').filter({ hasText: '50' }).waitFor();
    await page.waitForTimeout(6000);
    const moving = await whileMoving(page);
    yield { name: 'pictures a second while Plan with 1 M corners is dragged', measured: moving.pictures, unit: '1/s', target: 15, isMoreBetter: true }; // prettier-ignore
    yield { name: 'longest time the page was blocked meanwhile', measured: moving.blocked, unit: 'ms', target: 60 };
    // One line of them is put anew: until the page shows it.
    const count = async (): Promise<string> => page.getByTestId('line-count').innerText();
    const before = await count();
    begun = performance.now();
    await fetch(`${server.url}/api/jobs/${jobId}/operations/draw-lines`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ put: [{ code: 'BREAK', easting: [min[0]! + 1, min[0]! + 9], northing: [min[1]!, min[1]! + 9], elevation: [1, 2] }] }), // prettier-ignore
    });
    while ((await count()) === before && performance.now() - begun < 20_000) await page.waitForTimeout(10);
    yield {
      name: 'a line drawn among 50 000 is stored and counted on the page',
      measured: performance.now() - begun,
      unit: 'ms',
    };
  } finally {
    await close();
  }
}
