import { execFileSync } from 'node:child_process';
import { mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeGeoTiff } from '@pampero/core/formats/geotiff';
import type { Run } from '@pampero/contract';
import { newPointBatch } from '@pampero/core/cloud';
import { bufferSink } from '@pampero/core/formats';
import { writeLas } from '@pampero/core/formats/las';
import { seededRandom } from '@pampero/core/task';
import { deflateSync } from 'node:zlib';
import { unzipSync } from 'fflate';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { fieldWithShed, lasBytes, QUANTISATION, testServer, type TestServer } from './server.fixture.js';

const [E, N] = QUANTISATION.offset;
const [WIDTH, HEIGHT] = [620, 560];
let host: TestServer;
let folder: string;
let jobId: string;
let cloud: number;
/** Red, green and blue, the northernmost row first: patches with sharp edges and some noise. */
let pixels: Buffer;

const at = (name: string): string => join(folder, name);
const gdal = (tool: string, ...args: string[]): string => execFileSync(tool, args, { encoding: 'utf8', cwd: folder, stdio: ['ignore', 'pipe', 'ignore'] }); // prettier-ignore
interface Info {
  readonly geoTransform: readonly number[];
  readonly size: readonly [number, number];
  readonly bands: readonly {
    readonly overviews?: readonly unknown[];
    readonly mask?: unknown;
    readonly type: string;
  }[];
  readonly metadata: Readonly<Record<string, Readonly<Record<string, string>>>>;
  readonly stac?: { readonly 'proj:epsg'?: number };
  readonly coordinateSystem: { readonly wkt: string };
}
const info = (name: string): Info => JSON.parse(gdal('gdalinfo', '-json', name)) as Info;
/** A band of a file as GDAL reads it. */
async function bandOf(name: string, band: number | 'mask' | `mask,${number}`): Promise<Buffer> {
  gdal('gdal_translate', '-q', '-of', 'ENVI', '-b', String(band), name, 'band.img');
  return readFile(at('band.img'));
}

beforeAll(async () => {
  host = await testServer();
  folder = await mkdtemp(join(tmpdir(), 'pampero-pictures-'));
  jobId = (await host.api.newJob('Pictures')).id;
  await host.api.import(jobId, await lasBytes(fieldWithShed()));
  cloud = (await host.api.read(jobId)).clouds[0]!.id;
  const random = seededRandom(5);
  pixels = Buffer.alloc(3 * WIDTH * HEIGHT);
  for (let row = 0, k = 0; row < HEIGHT; row++)
    for (let column = 0; column < WIDTH; column++)
      for (let band = 0; band < 3; band++, k++) {
        const patch = (Math.floor(column / 37) * 7 + Math.floor(row / 29) * 13 + band * 5) % 11;
        pixels[k] = 40 + patch * 15 + Math.floor(random() * 12);
      }
  // North up, pixels of 0.1 m, from a corner that lies on nothing round.
  const southFirst = new Uint8Array(pixels.length);
  for (let row = 0; row < HEIGHT; row++)
    southFirst.set(pixels.subarray(3 * row * WIDTH, 3 * (row + 1) * WIDTH), 3 * (HEIGHT - 1 - row) * WIDTH);
  const frame = { east: E - 0.55, north: N + 0.35, cell: 0.1, columns: WIDTH, rows: HEIGHT };
  const deflate = (bytes: Uint8Array): Uint8Array => deflateSync(bytes);
  await writeFile(at('plain.tif'), writeGeoTiff(southFirst, frame, { epsg: 5347, deflate }));
});
afterAll(async () => {
  await host.stop();
  await rm(folder, { recursive: true, force: true });
});

async function bring(
  name: string,
  given: Record<string, unknown> = {},
): Promise<ReturnType<typeof host.api.newest<'picture'>> extends Promise<infer P> ? P : never> {
  // prettier-ignore
  const run = await host.api.fromFile(jobId, 'import-picture', await readFile(at(name)), name, given);
  expect(run.state, run.outcome).toBe('done');
  return host.api.newest(jobId, 'picture');
}

async function refused(name: string, given: Record<string, unknown> = {}): Promise<string> {
  const parameters = encodeURIComponent(JSON.stringify(given));
  const path = `/jobs/${jobId}/operations/import-picture/file?fileName=${name}&parameters=${parameters}`;
  const answer = await host.api.raw(path, { method: 'POST', body: new Uint8Array(await readFile(at(name))), headers: { 'content-type': 'application/octet-stream' } }); // prettier-ignore
  expect(answer.status).toBe(422);
  const { detail, code } = answer.json() as { detail: string; code: string };
  return `${code}: ${detail}`;
}

describe('a picture comes in and leaves', { timeout: 60_000 }, () => {
  test('without loss, every pixel and the georeference are those that GDAL reads of the file', async () => {
    const picture = await bring('plain.tif', { isExact: true });
    expect(picture.facts).toMatchObject({ columns: WIDTH, rows: HEIGHT, levels: 2, bands: 'colour', hasMask: false });
    await writeFile(at('out.tif'), await host.api.file(jobId, picture.id, 'tif'));
    const [before, after] = [info('plain.tif'), info('out.tif')];
    after.geoTransform.forEach((value, k) => expect(value).toBeCloseTo(before.geoTransform[k]!, 9));
    expect(after.size).toEqual([WIDTH, HEIGHT]);
    expect(after.coordinateSystem.wkt).toContain('5347');
    expect(after.bands[0]!.overviews).toHaveLength(1);
    for (const band of [1, 2, 3])
      expect((await bandOf('out.tif', band)).equals(await bandOf('plain.tif', band))).toBe(true);
  });

  test('as a photograph it is within what JPEG loses, and its halves are means of it', async () => {
    const picture = await bring('plain.tif');
    await writeFile(at('photo.tif'), await host.api.file(jobId, picture.id, 'tif'));
    expect(info('photo.tif').metadata['IMAGE_STRUCTURE']!['COMPRESSION']).toContain('JPEG');
    const [one, two] = [await bandOf('photo.tif', 2), await bandOf('plain.tif', 2)];
    const mean = one.reduce((sum, value, k) => sum + Math.abs(value - two[k]!), 0) / one.length;
    expect(mean).toBeLessThan(4);
    const { body } = await host.api.raw(`/jobs/${jobId}/products/${picture.id}/tiles/colour/1/0/0`);
    const { data, info: half } = await sharp(body).raw().toBuffer({ resolveWithObject: true });
    expect([half.width, half.height]).toEqual([WIDTH / 2, HEIGHT / 2]);
    const of = (c: number, r: number): number => pixels[3 * (r * WIDTH + c)]!;
    let off = 0;
    for (let r = 0; r < 100; r++)
      for (let c = 0; c < 100; c++) {
        const four = (of(2 * c, 2 * r) + of(2 * c + 1, 2 * r) + of(2 * c, 2 * r + 1) + of(2 * c + 1, 2 * r + 1)) / 4;
        off += Math.abs(data[3 * (r * half.width + c)]! - four) / 1e4;
      }
    expect(off).toBeLessThan(3);
  });

  test.each([
    ['lzw.tif', ['-co', 'COMPRESS=LZW', '-co', 'PREDICTOR=2'], 0],
    ['strips.tif', ['-co', 'COMPRESS=DEFLATE', '-co', 'TILED=NO', '-co', 'BLOCKYSIZE=17'], 0],
    ['bands.tif', ['-co', 'INTERLEAVE=BAND', '-co', 'TILED=YES', '-co', 'COMPRESS=LZW'], 0],
    ['big.tif', ['-co', 'BIGTIFF=YES', '-co', 'TILED=YES'], 0],
    ['jpeg.tif', ['-co', 'COMPRESS=JPEG', '-co', 'TILED=YES', '-co', 'PHOTOMETRIC=YCBCR'], 1],
  ])('%s is read as GDAL reads it', async (name, options, most) => {
    gdal('gdal_translate', '-q', ...options, 'plain.tif', name);
    const picture = await bring(name, { isExact: true });
    await writeFile(at('again.tif'), await host.api.file(jobId, picture.id, 'tif'));
    for (const band of [1, 3]) {
      const [one, two] = [await bandOf('again.tif', band), await bandOf(name, band)];
      expect(one.reduce((worst, value, k) => Math.max(worst, Math.abs(value - two[k]!)), 0)).toBeLessThanOrEqual(most);
    }
  });

  test('of 16 bits those in use are kept; infrared stays by itself', async () => {
    gdal('gdal_translate', '-q', '-ot', 'UInt16', '-scale', '0', '255', '0', '2040', 'plain.tif', 'twelve.tif');
    const { id } = await bring('twelve.tif', { isExact: true });
    const run = (await host.api.call('readHistory', `/jobs/${jobId}/history`)).entries[0]!;
    expect(run.outcome).toContain('Of its 16 bits 11 are in use');
    await writeFile(at('eight.tif'), await host.api.file(jobId, id, 'tif'));
    const [one, two] = [await bandOf('eight.tif', 1), await bandOf('plain.tif', 1)];
    // 8 steps of 2040 are one of 255; 11 bits reach to 2047.
    expect(one.reduce((worst, value, k) => Math.max(worst, Math.abs(value - (two[k]! * 2040) / 2047)), 0)).toBeLessThan(
      1.5,
    );
    gdal('gdal_translate', '-q', '-b', '1', '-b', '2', '-b', '3', '-b', '2', '-co', 'ALPHA=NO', '-colorinterp_4', 'undefined', 'plain.tif', 'four.tif'); // prettier-ignore
    const four = await bring('four.tif', { isExact: true });
    expect(four.facts.bands).toBe('colour-infrared');
    const tile = await host.api.raw(`/jobs/${jobId}/products/${four.id}/tiles/infrared/0/0/0`);
    const { data } = await sharp(tile.body).raw().toBuffer({ resolveWithObject: true });
    expect(data[0]).toBe(pixels[1]);
  });

  test('alpha, a no-data value and a mask inside the file all say where there is no picture', async () => {
    gdal('gdal_translate', '-q', '-a_nodata', '0', '-srcwin', '-100', '0', '720', '560', 'plain.tif', 'none.tif');
    gdal('gdal_translate', '-q', '-b', '1', '-b', '2', '-b', '3', '-mask', 'mask', '--config', 'GDAL_TIFF_INTERNAL_MASK', 'YES', 'none.tif', 'mask.tif'); // prettier-ignore
    gdal('gdalwarp', '-q', '-overwrite', '-dstalpha', 'none.tif', 'alpha.tif');
    for (const name of ['none.tif', 'mask.tif', 'alpha.tif']) {
      const picture = await bring(name, { isExact: true });
      expect(picture.facts.hasMask, name).toBe(true);
      const { body } = await host.api.raw(`/jobs/${jobId}/products/${picture.id}/tiles/mask/0/0/0`);
      const { data, info: size } = await sharp(body).raw().toBuffer({ resolveWithObject: true });
      const seen = (c: number): number => data[(20 * size.width + c) * size.channels]!;
      expect([seen(99), seen(100)], name).toEqual([0, 255]);
    }
    await writeFile(at('masked.tif'), await host.api.file(jobId, (await host.api.newest(jobId, 'picture')).id, 'tif'));
    expect(info('masked.tif').bands[0]!.mask).toBeDefined();
  });

  test('whatever value says there is no picture, in 8 and 16 bits, GDAL and we see the same', async () => {
    const rim = ['-srcwin', '-100', '0', '720', '560', '-co', 'TILED=YES'];
    gdal('gdal_translate', '-q', '-a_nodata', '77', ...rim, 'plain.tif', 'odd.tif');
    gdal('gdal_translate', '-q', '-ot', 'UInt16', '-scale', '0', '255', '300', '60000', 'plain.tif', 'deep.tif');
    gdal('gdal_translate', '-q', '-a_nodata', '0', ...rim, 'deep.tif', 'deep-none.tif');
    gdal('gdal_translate', '-q', '-a_nodata', '65535', '-co', 'INTERLEAVE=BAND', ...rim, 'deep.tif', 'deep-apart.tif');
    gdal('gdal_translate', '-q', '-b', '1', '-a_nodata', '300', ...rim, 'deep.tif', 'deep-grey.tif');
    for (const name of ['odd.tif', 'deep-none.tif', 'deep-apart.tif', 'deep-grey.tif']) {
      const picture = await bring(name, { isExact: true });
      expect(picture.facts.hasMask, name).toBe(true);
      const leaves = `seen-${name}`;
      await writeFile(at(leaves), await host.api.file(jobId, picture.id, 'tif'));
      // GDAL looks at each band alone: there is a picture where it sees one in any of them.
      const bands: Buffer[] = [];
      for (let band = 1; band <= info(name).bands.length; band++) bands.push(await bandOf(name, `mask,${band}`));
      const seen = bands[0]!.map((_, k) => Math.max(...bands.map((band) => band[k]!)));
      expect(Buffer.compare(await bandOf(leaves, 'mask'), seen), name).toBe(0);
      expect(seen.includes(0) && seen.includes(255), name).toBe(true);
    }
  });

  test('a JPEG lies where its world file says, also when that is turned', async () => {
    await sharp(pixels, { raw: { width: WIDTH, height: HEIGHT, channels: 3 } })
      .jpeg()
      .toFile(at('photo.jpg'));
    expect(await refused('photo.jpg')).toContain('picture-nowhere: photo.jpg does not say where it lies');
    const [cos, sin] = [0.1 * Math.cos(0.2), 0.1 * Math.sin(0.2)];
    const { facts } = await bring('photo.jpg', { worldFile: [cos, sin, sin, -cos, E + 5, N + 50].join('\n') });
    expect(facts.eastPerColumn).toBeCloseTo(cos, 12);
    expect(facts.northPerColumn).toBeCloseTo(sin, 12);
    // The centre of the first pixel is what the world file gives.
    expect(facts.east + (cos + sin) / 2).toBeCloseTo(E + 5, 9);
  });

  test('leaves as PNG and JPEG with a world file, where GDAL finds every pixel at its place; clear where there is none', async () => {
    const leaving = async (id: number, form: 'png' | 'jpg'): Promise<string> => {
      const files = unzipSync(await host.api.file(jobId, id, form));
      for (const [name, bytes] of Object.entries(files)) await writeFile(at(`out-${name}`), bytes);
      return `out-${Object.keys(files).find((name) => name.endsWith(form))!}`;
    };
    const picture = await bring('plain.tif', { isExact: true });
    const png = await leaving(picture.id, 'png');
    info(png).geoTransform.forEach((value, k) => expect(value).toBeCloseTo(info('plain.tif').geoTransform[k]!, 8));
    for (const band of [1, 2, 3]) expect((await bandOf(png, band)).equals(await bandOf('plain.tif', band))).toBe(true);
    const jpg = await leaving(picture.id, 'jpg');
    expect(info(jpg).size).toEqual([WIDTH, HEIGHT]);
    const [one, two] = [await bandOf(jpg, 2), await bandOf('plain.tif', 2)];
    expect(one.reduce((sum, value, k) => sum + Math.abs(value - two[k]!), 0) / one.length).toBeLessThan(4);
    gdal('gdal_translate', '-q', '-a_nodata', '0', '-srcwin', '-100', '0', '720', '560', 'plain.tif', 'none.tif');
    const clear = await leaving((await bring('none.tif', { isExact: true })).id, 'png');
    expect(info(clear).bands).toHaveLength(4);
    const alpha = await bandOf(clear, 4);
    expect([alpha[20 * 720 + 99], alpha[20 * 720 + 100]]).toEqual([0, 255]);
  });

  test('a picture of another system is resampled, as GDAL does, and says so', async () => {
    gdal('gdalwarp', '-q', '-t_srs', 'EPSG:32720', '-r', 'bilinear', '-dstnodata', '0', 'plain.tif', 'utm.tif');
    const picture = await bring('utm.tif', { isExact: true });
    const run = (await host.api.call('readHistory', `/jobs/${jobId}/history`)).entries[0]!;
    expect(run.outcome).toContain('Resampled from EPSG:32720');
    await writeFile(at('back.tif'), await host.api.file(jobId, picture.id, 'tif'));
    // GDAL resamples into our frame; both read the same file the same way.
    const { geoTransform: g, size } = info('back.tif');
    const box = [g[0]!, g[3]! + g[5]! * size[1], g[0]! + g[1]! * size[0], g[3]!].map(String);
    gdal('gdalwarp', '-q', '-overwrite', '-t_srs', 'EPSG:5347', '-te', ...box, '-ts', String(size[0]), String(size[1]), '-r', 'bilinear', '-et', '0', 'utm.tif', 'theirs.tif'); // prettier-ignore
    const [ours, theirs] = [await bandOf('back.tif', 1), await bandOf('theirs.tif', 1)];
    let [sum, count] = [0, 0];
    for (let k = 0; k < ours.length; k++)
      if (ours[k]! > 0 && theirs[k]! > 0) {
        sum += Math.abs(ours[k]! - theirs[k]!);
        count++;
      }
    expect(count).toBeGreaterThan(0.9 * WIDTH * HEIGHT);
    expect(sum / count).toBeLessThan(0.6);
  });

  test('what is no picture is refused in words before anything is done', async () => {
    const whole = await readFile(at('plain.tif'));
    await writeFile(at('cut.tif'), whole.subarray(0, whole.length >> 1));
    expect(await refused('cut.tif')).toContain('cut.tif cannot be read as a picture');
    await writeFile(at('words.jpg'), 'no picture at all');
    expect(await refused('words.jpg')).toContain('begins neither as TIFF nor as JPEG nor as PNG');
    gdal('gdal_translate', '-q', '-ot', 'Float32', '-b', '1', 'plain.tif', 'heights.tif');
    expect(await refused('heights.tif')).toContain('32 bits of floating point');
  });
});

describe('inside the cloud', { timeout: 60_000 }, () => {
  test('points take the bilinear colour of their place, 8 bits as 16 by 257; undo gives the old ones back', async () => {
    const picture = await bring('plain.tif', { isExact: true });
    const run = await host.api.operate(jobId, 'colour-cloud', { picture: picture.id, cloud });
    expect(run.outcome).toContain('points coloured');
    expect(run.state, run.outcome).toBe('done');
    expect((await host.api.read(jobId)).clouds[0]!.columns.rgb).toBe(true);
    const { body } = await host.api.raw(`/jobs/${jobId}/clouds/${cloud}/points?format=csv`);
    const [head, ...rows] = Buffer.from(body).toString().trim().split('\n').map((line) => line.split(',')); // prettier-ignore
    const column = (name: string): number => head!.findIndex((title) => title.trim().toLowerCase() === name);
    const [e, n, red] = [column('easting'), column('northing'), column('red')];
    expect(Math.min(e, n, red)).toBeGreaterThanOrEqual(0);
    let checked = 0;
    for (const row of rows.filter((_, k) => k % 37 === 0)) {
      const [pc, pr] = [
        (Number(row[e]) - (E - 0.55)) / 0.1 - 0.5,
        (N + 0.35 + HEIGHT * 0.1 - Number(row[n])) / 0.1 - 0.5,
      ];
      const [c, r] = [Math.floor(pc), Math.floor(pr)];
      if (c < 0 || r < 0 || c + 1 >= WIDTH || r + 1 >= HEIGHT) continue;
      const of = (x: number, y: number): number => pixels[3 * (y * WIDTH + x)]!;
      const [u, v] = [pc - c, pr - r];
      const wanted =
        (1 - v) * ((1 - u) * of(c, r) + u * of(c + 1, r)) + v * ((1 - u) * of(c, r + 1) + u * of(c + 1, r + 1));
      expect(Math.abs(Number(row[red]) - 257 * wanted)).toBeLessThan(2);
      checked++;
    }
    expect(checked).toBeGreaterThan(100);
    await host.api.call('undo', `/jobs/${jobId}/undo`);
    expect((await host.api.read(jobId)).clouds[0]!.columns.rgb).toBe(false);
    await host.api.call('redo', `/jobs/${jobId}/redo`);
    expect((await host.api.read(jobId)).clouds[0]!.columns.rgb).toBe(true);
  });

  test('only chosen classes are coloured; the rest keep what they had', async () => {
    const picture = await host.api.newest(jobId, 'picture');
    const run = await host.api.operate(jobId, 'colour-cloud', { picture: picture.id, cloud, classes: [6] });
    expect(run.state).toBe('failed');
    expect(run.outcome).toContain('No point of');
  });

  test('pictures that lie over each other are joined in the order chosen, pixel for pixel; what each leaves open stays open', async () => {
    // Halves with a wide overlap, the eastern one darker, and a hole between land that neither has.
    gdal('gdal_translate', '-q', '-srcwin', '0', '0', '400', '560', 'plain.tif', 'west.tif');
    gdal('gdal_translate', '-q', '-srcwin', '300', '60', '320', '500', '-scale', '0', '255', '0', '127', 'plain.tif', 'east.tif'); // prettier-ignore
    const west = await bring('west.tif', { isExact: true });
    const east = await bring('east.tif', { isExact: true });
    for (const order of [
      [west.id, east.id],
      [east.id, west.id],
    ]) {
      // prettier-ignore
      const run = await host.api.operate(jobId, 'join-pictures', { pictures: order });
      expect(run.state, run.outcome).toBe('done');
      const { id, facts } = await host.api.newest(jobId, 'picture');
      expect([facts.columns, facts.rows, facts.hasMask, facts.bands]).toEqual([WIDTH, HEIGHT, true, 'colour']);
      await writeFile(at('joined.tif'), await host.api.file(jobId, id, 'tif'));
      const band = await bandOf('joined.tif', 1);
      const known = await bandOf('joined.tif', 'mask');
      const isWestFirst = order[0] === west.id;
      let [sum, count] = [0, 0];
      for (let row = 4; row < HEIGHT - 4; row += 3)
        for (let column = 4; column < WIDTH - 4; column += 3) {
          const k = row * WIDTH + column;
          const [inWest, inEast] = [column < 396, column >= 304 && row >= 64];
          if ((column >= 400 && row < 60) !== (known[k] === 0)) expect([column, row]).toBe('open where neither lies');
          if (!inWest && !inEast) continue;
          const isEast = inEast && (!inWest || !isWestFirst);
          if (column >= 396 && column < 404) continue;
          sum += Math.abs(band[k]! - pixels[3 * k]! * (isEast ? 127 / 255 : 1));
          count++;
        }
      expect(count).toBeGreaterThan(20_000);
      // As JPEG at a quality of 92, of patches with noise; a pixel aside would be off by four.
      expect(sum / count).toBeLessThan(2.6);
    }
    const alone = await host.api.operate(jobId, 'join-pictures', { pictures: [west.id, west.id] });
    expect(alone.outcome).toContain('One picture alone is joined already');
  });

  test('a surface leaves with the picture over it: each corner finds the pixel of its place', async () => {
    const picture = await bring('plain.tif', { isExact: true });
    await host.api.operate(jobId, 'find-ground', { clouds: [cloud], cell: 2 });
    const built = await host.api.operate(jobId, 'build-surface', { clouds: [cloud] });
    expect(built.state, built.outcome).toBe('done');
    const glb = await host.api.file(jobId, built.productId, 'glb-picture');
    const length = glb.readUInt32LE(12);
    interface Gltf { readonly bufferViews: { byteOffset: number; byteLength: number }[]; readonly accessors: { count: number }[]; readonly extras: { easting: number; northing: number } } // prettier-ignore
    const json = JSON.parse(glb.toString('utf8', 20, 20 + length)) as Gltf;
    const part = (k: number): Buffer => {
      const { byteOffset, byteLength } = json.bufferViews[k]!;
      return glb.subarray(28 + length + byteOffset, 28 + length + byteOffset + byteLength);
    };
    const { data, info: size } = await sharp(part(4)).raw().toBuffer({ resolveWithObject: true });
    expect(Math.max(size.width, size.height)).toBeGreaterThan(400);
    let [sum, count] = [0, 0];
    for (let i = 0; i < json.accessors[0]!.count; i += 13) {
      const [e, n] = [json.extras.easting + part(0).readFloatLE(12 * i), json.extras.northing - part(0).readFloatLE(12 * i + 8)]; // prettier-ignore
      const [u, v] = [part(3).readFloatLE(8 * i), part(3).readFloatLE(8 * i + 4)];
      const [c, r] = [Math.floor((e - picture.facts.east) / 0.1), Math.floor((picture.facts.north - n) / 0.1)];
      const [tc, tr] = [Math.min(size.width - 1, Math.floor(u * size.width)), Math.min(size.height - 1, Math.floor(v * size.height))]; // prettier-ignore
      if (c < 2 || r < 2 || c >= WIDTH - 2 || r >= HEIGHT - 2) continue;
      sum += Math.abs(pixels[3 * (r * WIDTH + c)]! - data[3 * (tr * size.width + tc)]!);
      count++;
    }
    expect(count).toBeGreaterThan(100);
    // Patches are 15 apart and noise is 12: a place aside would be off by tens.
    expect(sum / count).toBeLessThan(8);
    const bare = await host.api.newJob('Without a picture');
    await host.api.import(bare.id, await lasBytes(fieldWithShed()));
    const [own] = (await host.api.read(bare.id)).clouds;
    await host.api.operate(bare.id, 'find-ground', { clouds: [own!.id], cell: 2 });
    const alone = await host.api.operate(bare.id, 'build-surface', { clouds: [own!.id] });
    const answer = await host.api.raw(`/jobs/${bare.id}/products/${alone.productId}/file?format=glb-picture`);
    expect(answer.status).toBe(422);
    expect(Buffer.from(answer.body).toString()).toContain('No picture of the job lies over Ground');
  });

  test('a picture elsewhere says that it has no land in common with the cloud', async () => {
    gdal('gdal_translate', '-q', '-a_ullr', String(E + 9000), String(N + 9056), String(E + 9062), String(N + 9000), 'plain.tif', 'far.tif'); // prettier-ignore
    const picture = await bring('far.tif');
    const entry = (await host.api.call('readHistory', `/jobs/${jobId}/history`)).entries[0]!;
    expect(entry.outcome).toContain('does not touch any cloud');
    const run = await host.api.operate(jobId, 'check-shift', { picture: picture.id, cloud });
    expect(run.state).toBe('failed');
    expect(run.outcome).toContain('have no land in common');
  });

  test('a picture is moved by typed numbers and shows the same tiles; a check of another is refused', async () => {
    const before = await bring('plain.tif');
    const run = await host.api.operate(jobId, 'move-picture', { picture: before.id, east: 1.5, north: -2 });
    expect(run.state, run.outcome).toBe('done');
    const after = await host.api.newest(jobId, 'picture');
    expect(after.seriesId).toBe(before.seriesId);
    expect(after.facts.east).toBeCloseTo(before.facts.east + 1.5, 9);
    expect(after.facts.north).toBeCloseTo(before.facts.north - 2, 9);
    expect(after.isStale).toBe(false);
    const tile = async (id: number): Promise<Uint8Array> => (await host.api.raw(`/jobs/${jobId}/products/${id}/tiles/colour/0/0/0`)).body; // prettier-ignore
    expect(Buffer.from(await tile(after.id)).equals(Buffer.from(await tile(before.id)))).toBe(true);
    const check = await host.api.operate(jobId, 'check-shift', { picture: after.id, cloud });
    expect(check.state, check.outcome).toBe('done');
    // A bare field and a chequered picture: nothing can be said, and it says so.
    expect((await host.api.newest(jobId, 'shift-check')).facts.sureness).not.toBe('sure');
  });
});

test.each([
  ['in the lower byte', 1],
  ['in the upper byte', 256],
])('colours of a LAS file that hold 8 bits %s come in at full depth, with a warning', async (_, factor) => {
  const count = 500;
  const columns = { gpsTime: true, rgb: true, nearInfrared: false, wavePacket: false, extraBytesLength: 0 };
  const points = newPointBatch(count, columns);
  for (let i = 0; i < count; i++) {
    [points.x[i], points.y[i], points.z[i]] = [i * 100, (i % 20) * 1000, 30_000];
    points.returns[i] = 0x11;
    [points.red![i], points.green![i], points.blue![i]] = [(i % 256) * factor, ((i * 7) % 256) * factor, 255 * factor];
  }
  for (const isCompressed of [false, true]) {
    const sink = bufferSink();
    await writeLas(sink, [points], { version: '1.4', pointFormat: 7, quantisation: QUANTISATION, isCompressed });
    const { id } = await host.api.newJob(`Colours ${factor}`);
    await host.api.import(id, sink.bytes());
    const [dark] = (await host.api.read(id)).clouds;
    expect(dark!.warnings.map(({ code }) => code)).toContain('colours-of-8-bits');
    const { body } = await host.api.raw(`/jobs/${id}/clouds/${dark!.id}/points?format=csv`);
    const [head, ...rows] = Buffer.from(body).toString().trim().split('\n').map((line) => line.split(',')); // prettier-ignore
    const [e, red, blue] = ['easting', 'red', 'blue'].map((name) => head!.findIndex((title) => title.trim().toLowerCase() === name)); // prettier-ignore
    for (const row of rows) {
      const i = Math.round((Number(row[e!]) - E) * 10);
      expect([Number(row[red!]), Number(row[blue!])]).toEqual([(i % 256) * 257, 65_535]);
    }
    expect(rows).toHaveLength(count);
  }
});

test('an import that is cancelled leaves neither a picture nor tiles on the disk', { timeout: 60_000 }, async () => {
  gdal('gdal_translate', '-q', '-outsize', '9000', '9000', '-r', 'nearest', 'plain.tif', 'large.tif');
  const before = (await host.api.made(jobId, 'picture')).length;
  const { id } = await host.api.startFromFile(jobId, 'import-picture', await readFile(at('large.tif')), 'large.tif');
  const state = async (): Promise<Run> => host.api.call('readRun', `/jobs/${jobId}/runs/${id}`);
  while (((await state()).progress ?? 0) < 0.05 && (await state()).state !== 'done')
    await new Promise((r) => setTimeout(r, 50));
  await host.api.call('cancelRun', `/jobs/${jobId}/runs/${id}`);
  while (['queued', 'running'].includes((await state()).state)) await new Promise((r) => setTimeout(r, 50));
  expect((await state()).state).toBe('cancelled');
  expect(await host.api.made(jobId, 'picture')).toHaveLength(before);
  // The process that was ended may hold on for a moment.
  for (let k = 0; k < 40 && (await readdir(join(host.data, 'scratch'))).length > 0; k++) await new Promise((r) => setTimeout(r, 100)); // prettier-ignore
  expect(await readdir(join(host.data, 'scratch'))).toEqual([]);
});
