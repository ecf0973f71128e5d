import { execFileSync } from 'node:child_process';
import { mkdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { seededRandom } from '@pampero/core/task';
import { startServer } from '@pampero/server';
import { chromium } from 'playwright-core';
import sharp from 'sharp';
import { writeBenchFile } from './bench-cloud.js';
import { CHROMIUM_ARGUMENTS } from './chromium.js';
import type { Row } from './rows.js';

/**
 * Pictures: reading a large one against GDAL's own conversion on as many cores, the first picture of it in Plan, and colouring a cloud.
 * @param side - pixels along the side of the picture
 */
export async function* pictureBench(folder: string, side: number, points: number): AsyncGenerator<Row> {
  const megapixels = (side * side) / 1e6;
  const data = join(folder, 'picture-jobs');
  await mkdir(data);
  const server = await startServer({ data, port: 0, host: '127.0.0.1', workers: 2, memory: 1500, log: 'silent' });
  try {
    const job = await server.library.create({ name: 'Pictures', unit: 'metre' });
    const cloud = server.library.scratchPath('.received');
    await writeBenchFile(cloud, points);
    const run = async (id: string, given: Record<string, unknown>, source?: { path: string; fileName: string }) => {
      const begun = performance.now();
      const { finished } = source
        ? await server.operations.startWithFile(job.id, id, source, given)
        : await server.operations.start(job.id, id, given);
      const ended = await finished;
      if (ended.state !== 'done') throw new Error(ended.outcome ?? ended.state);
      return (performance.now() - begun) / 1000;
    };
    await run('import-cloud', {}, { path: cloud, fileName: 'bench.las' });
    const read = async () => (await (await fetch(`${server.url}/api/jobs/${job.id}`)).json()) as { clouds: { id: number; bounds: { min: number[]; max: number[] } }[]; products: { id: number; kind: string }[] }; // prettier-ignore
    const { id: cloudId, bounds } = (await read()).clouds[0]!;
    const path = join(folder, 'large.tif');
    await writeLarge(path, side, bounds);
    yield { name: `the GeoTIFF of ${megapixels} megapixels, LZW in strips`, measured: (await stat(path)).size / 1e6, unit: 'MB' }; // prettier-ignore

    const begun = performance.now();
    const options = ['-co', 'TILED=YES', '-co', 'COMPRESS=JPEG', '-co', 'PHOTOMETRIC=YCBCR', '-co', 'BLOCKXSIZE=512', '-co', 'BLOCKYSIZE=512', '-co', 'NUM_THREADS=2', '-co', 'BIGTIFF=YES', '-co', 'JPEG_QUALITY=92']; // prettier-ignore
    const theirs = join(folder, 'theirs.tif');
    execFileSync('gdal_translate', ['-q', ...options, path, theirs]);
    execFileSync('gdaladdo', ['-q', '-r', 'average', '--config', 'COMPRESS_OVERVIEW', 'JPEG', '--config', 'PHOTOMETRIC_OVERVIEW', 'YCBCR', '--config', 'GDAL_NUM_THREADS', '2', theirs, '2', '4', '8', '16', '32']); // prettier-ignore
    const gdal = (performance.now() - begun) / 1000;
    await rm(theirs);
    const taken = server.library.scratchPath('.received');
    execFileSync('cp', [path, taken]);
    const seconds = await run('import-picture', {}, { path: taken, fileName: 'large.tif' });
    yield { name: `reading a picture of ${megapixels} megapixels`, measured: megapixels / seconds, unit: 'MP/s', target: 15, isMoreBetter: true }; // prettier-ignore
    yield { name: 'reading it, against GDAL to tiles with halves', measured: seconds / gdal, unit: 'times', target: 1 };
    const picture = (await read()).products.find(({ kind }) => kind === 'picture')!.id;

    yield* firstPicture(`${server.url}/jobs/${job.id}/intake`);
    // The bench's cloud has nothing to do with its picture: how long it takes is asked, not whether it lies right.
    const checking = await run('check-shift', { picture, cloud: cloudId });
    yield { name: `checking the shift against ${points / 1e6} M points`, measured: checking, unit: 's' };
    const colouring = await run('colour-cloud', { picture, cloud: cloudId });
    yield { name: `colouring ${points / 1e6} M points`, measured: points / 1e6 / colouring, unit: 'M points/s', target: 2, isMoreBetter: true }; // prettier-ignore

    // A patch of one shade in the middle, in a window of 25 megapixels.
    const [[west, south], [east, north]] = [bounds.min, bounds.max] as [number[], number[]];
    const [middleE, middleN] = [(west! + east!) / 2, (south! + north!) / 2];
    const share = Math.min(1, 5000 / side) / 2;
    const [halfE, halfN] = [share * (east! - west!), share * (north! - south!)];
    const window = { west: middleE - halfE, east: middleE + halfE, south: middleN - halfN, north: middleN + halfN };
    const parameters = { places: [[middleE, middleN]], name: 'Mask' };
    for (const which of ['first', 'again']) {
      const asked = performance.now();
      const answer = await fetch(`${server.url}/api/jobs/${job.id}/products/${picture}/mask-preview`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ window, parameters }),
      });
      if (!answer.ok) throw new Error(await answer.text());
      await answer.json();
      yield { name: `a mask seen before it is made, window of 25 megapixels, ${which}`, measured: (performance.now() - asked) / 1000, unit: 's', target: 0.3 }; // prettier-ignore
    }
    const masking = await run('mask-by-colour', { picture, ...parameters });
    yield { name: 'a mask of 25 megapixels made and kept', measured: masking, unit: 's' };
    const drawing = await run('draw-picture', { clouds: [cloudId], shows: 'intensity', name: 'Intensity' });
    yield { name: `a picture drawn of ${points / 1e6} M points`, measured: points / 1e6 / drawing, unit: 'M points/s' };
    const drawn = (await read()).products.filter(({ kind }) => kind === 'picture').at(-1)!.id;
    const joining = await run('join-pictures', { pictures: [drawn, picture], name: 'Joined' });
    yield { name: `that picture and the one of ${megapixels} megapixels joined`, measured: megapixels / joining, unit: 'MP/s' }; // prettier-ignore
  } finally {
    await server.close();
    await rm(data, { recursive: true, force: true });
  }
}

/** From the moment a job is opened until Plan shows its picture, on software rendering. */
async function* firstPicture(url: string): AsyncGenerator<Row> {
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: CHROMIUM_ARGUMENTS });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(new URL(url).origin);
    await page.waitForTimeout(1500);
    let first = NaN;
    const begun = performance.now();
    page.on('response', (response) => {
      if (response.url().includes('/tiles/colour/') && Number.isNaN(first)) first = performance.now() - begun;
    });
    await page.goto(url);
    for (let k = 0; k < 100 && Number.isNaN(first); k++) await page.waitForTimeout(50);
    yield { name: 'opening a job until its picture comes', measured: first / 1000, unit: 's', target: 1 };
  } finally {
    await browser.close();
  }
}

/** Patches of colour with grain, as large as the cloud, written by GDAL from a small one: neither flat nor pure noise. */
async function writeLarge(path: string, side: number, { min, max }: { min: number[]; max: number[] }): Promise<void> {
  const small = 2000;
  const random = seededRandom(77);
  const pixels = Buffer.alloc(3 * small * small);
  for (let row = 0, k = 0; row < small; row++)
    for (let column = 0; column < small; column++) {
      const patch = ((column >> 5) * 7 + (row >> 5) * 13) % 23;
      const grain = random() * 24;
      for (let band = 0; band < 3; band++, k++) pixels[k] = 50 + patch * 6 + band * 9 + grain;
    }
  const seed = `${path}.png`;
  await sharp(pixels, { raw: { width: small, height: small, channels: 3 } })
    .png({ compressionLevel: 1 })
    .toFile(seed);
  const corners = [min[0]!, max[1]!, max[0]!, min[1]!].map(String);
  execFileSync('gdal_translate', ['-q', '-r', 'nearest', '-outsize', String(side), String(side), '-a_ullr', ...corners, '-co', 'COMPRESS=LZW', '-co', 'PREDICTOR=2', '-co', 'BIGTIFF=YES', seed, path]); // prettier-ignore
  await rm(seed);
}
