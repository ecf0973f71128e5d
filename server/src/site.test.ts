import { execFile, execFileSync, spawn } from 'node:child_process';
import { mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { isKind, operations } from '@pampero/contract';
import { newPointBatch, type PointBatch, type Quantisation } from '@pampero/core/cloud';
import { unpackArrays } from '@pampero/core/binary';
import { bufferSink } from '@pampero/core/formats';
import { openLas, writeLas } from '@pampero/core/formats/las';
import { seededRandom } from '@pampero/core/task';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { JobError } from './errors/job-error.js';
import { openFileSource } from './files/file-bytes.js';
import { checkedSheet } from './run-sheets/sheet-runner.js';
import { shippedSheets } from './run-sheets/shipped.js';
import { machineIn } from './site/this-machine.js';
import { divideFiles } from './site/divide-files.js';
import { MARGIN_STEP, sheetForSquares, SQUARES_GATE } from './site/sheet-for-squares.js';
import { openReader } from './store/job-file.js';
import { listClouds, readCloudFacts } from './store/cloud-repository.js';
import { listStoredNodes, readNodePoints } from './store/node-repository.js';
import { listProducts, readProductBlob } from './store/product-repository.js';
import { batchesOf } from './tasks/import/las-batches.js';
import { TaskPool } from './tasks/task-pool.js';

const bin = fileURLToPath(new URL('../bin/pampero.mjs', import.meta.url));
const BASE = [5_512_000, 6_150_000] as const;
const MM: Quantisation = { scale: [0.001, 0.001, 0.001], offset: [5_500_000, 6_100_000, 0] };
const CRS = { wkt: 'PROJCS["POSGAR 2007 / Argentina 5",UNIT["metre",1],AUTHORITY["EPSG","5347"]]' };
/** 100 by 100 m in squares of 50 m, on whole multiples of it. */
const LAND = 100;
const [SIDE, MARGIN] = [50, 20];

let folder: string;
const at = (...names: string[]): string => join(folder, ...names);

/** Hills with trees, sheds and a step, eight points a square metre: one file the west with an overlap, one the east. */
function hills(seed: number, west: number, east: number, quantisation: Quantisation): PointBatch {
  const random = seededRandom(seed);
  const count = Math.round((east - west) * LAND * 8);
  const points = newPointBatch(count, { gpsTime: true, rgb: false, nearInfrared: false, wavePacket: false, extraBytesLength: 0 }); // prettier-ignore
  const { scale, offset } = quantisation;
  for (let i = 0; i < count; i++) {
    const [e, n] = [west + random() * (east - west), random() * LAND];
    const ground = 40 + 3 * Math.sin(e / 17) * Math.cos(n / 23) + (n > 61 ? 1.4 : 0) + 0.02 * (random() - 0.5);
    const isTree = Math.sin(e / 5) * Math.sin(n / 6) > 0.7 && random() < 0.6;
    // One shed stands across an edge of squares.
    const isShed = (Math.abs(e - 51) < 5 && Math.abs(n - 30) < 6) || (Math.abs(e - 20) < 4 && Math.abs(n - 85) < 4);
    const height = isShed ? 4.2 : isTree ? 7 * Math.sqrt(random()) : 0;
    points.x[i] = Math.round((BASE[0] + e - offset[0]) / scale[0]);
    points.y[i] = Math.round((BASE[1] + n - offset[1]) / scale[1]);
    points.z[i] = Math.round((ground + height - offset[2]) / scale[2]);
    points.classification[i] = 1;
    points.returns[i] = isTree ? 0x21 : 0x11;
    points.intensity[i] = i % 60_000;
    points.pointSourceId[i] = seed;
    points.gpsTime![i] = 3e8 + i / 1000;
  }
  return points;
}

async function writeFileOf(
  name: string,
  points: PointBatch,
  quantisation: Quantisation,
  more: object = {},
): Promise<void> {
  // prettier-ignore
  const sink = bufferSink();
  await writeLas(sink, [points], { version: '1.4', pointFormat: 6, quantisation, crs: CRS, ...more });
  await writeFile(at(name), sink.bytes());
}

/** Places, intensities and sources of all points of a LAS or LAZ file, to the millimetre. */
async function pointsIn(path: string): Promise<string[]> {
  const source = await openFileSource(path);
  try {
    const las = await openLas(source);
    const { scale, offset } = las.quantisation;
    const out: string[] = [];
    for await (const { count, x, y, z, intensity, pointSourceId } of batchesOf(las, { path, fileName: path }))
      for (let i = 0; i < count; i++) {
        const of = (column: Int32Array, k: 0 | 1 | 2): string => (column[i]! * scale[k] + offset[k]).toFixed(3);
        out.push(`${of(x, 0)} ${of(y, 1)} ${of(z, 2)} ${intensity[i]} ${pointSourceId[i]}`);
      }
    return out;
  } finally {
    await source.close();
  }
}

const CM: Quantisation = { scale: [0.01, 0.01, 0.01], offset: [5_512_000, 6_150_000, 0] };

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'pampero-site-'));
  await writeFileOf('west.las', hills(1, 0, 62, MM), MM);
  await writeFileOf('east.laz', hills(2, 56, 100, CM), CM, { isCompressed: true });
});
afterAll(() => rm(folder, { recursive: true, force: true }));

describe('files divided into squares', () => {
  test('every point is in its own square once, and in the margins of those about', async () => {
    const pool = new TaskPool(2);
    const pieces = at('pieces-of-test');
    const shares: number[] = [];
    const { squares, epsg } = await divideFiles([at('east.laz'), at('west.las')], {
      ...{ pool, layout: { side: SIDE, margin: MARGIN }, folder: pieces, signal: new AbortController().signal },
      report: (share) => shares.push(share),
    }).finally(() => pool.close());
    expect(epsg).toBe(5347);
    expect(shares.at(-1)).toBe(1);
    expect(shares).toEqual([...shares].sort((a, b) => a - b));
    const given = [...(await pointsIn(at('west.las'))), ...(await pointsIn(at('east.laz')))];
    expect(squares.reduce((sum, { own }) => sum + own, 0)).toBe(given.length);
    const owned: string[] = [];
    for (const { column, row, name, own, margin, files } of squares) {
      expect(name).toBe(`${column * SIDE}_${row * SIDE}`);
      expect(files).toEqual(['points.las']);
      const inside = (text: string, reach: number): boolean => {
        const [e, n] = text.split(' ').map(Number) as [number, number];
        const within = (value: number, first: number): boolean => value >= first * SIDE - reach && value < (first + 1) * SIDE + reach; // prettier-ignore
        return within(e, column) && within(n, row);
      };
      const piece = await pointsIn(join(pieces, name, 'points.las'));
      expect(piece.length).toBe(own + margin);
      expect(piece.filter((text) => inside(text, 0)).length).toBe(own);
      expect([...piece].sort()).toEqual(given.filter((text) => inside(text, MARGIN)).sort());
      owned.push(...piece.filter((text) => inside(text, 0)));
    }
    expect(owned.sort()).toEqual(given.sort());
  });

  test('files in two systems are refused, and a file that is none', async () => {
    const pool = new TaskPool(1);
    const division = { ...{ pool, layout: { side: SIDE, margin: MARGIN }, folder: at('refused') }, signal: new AbortController().signal, report: () => undefined }; // prettier-ignore
    await writeFileOf('elsewhere.las', hills(3, 0, 4, MM), MM, { crs: { wkt: CRS.wkt.replace('5347', '5346') } });
    await writeFile(at('damaged.las'), 'LASF and then nothing');
    await expect(divideFiles([at('west.las'), at('elsewhere.las')], division)).rejects.toThrow(/EPSG:5346/);
    await expect(divideFiles([at('damaged.las')], division)).rejects.toMatchObject({ code: 'file-ends-early' });
    await pool.close();
  });
});

describe('a sheet as it is run on squares', () => {
  const work = (key: string, operation: string, parameters: object = { clouds: [{ from: 'in' }] }): object => ({ kind: 'work', key, operation, parameters, ...(operation === 'import-cloud' && { file: 'files', parameters: {} }) }); // prettier-ignore
  const sheetOf = (...steps: object[]) =>
    checkedSheet({ format: 'pampero-run-sheet', version: 1, name: 'S', places: [{ key: 'files', label: 'Files', kind: 'files' }, { key: 'more', label: 'More', kind: 'files', isOptional: true }], steps }); // prettier-ignore

  test('takes the classes of the margin after the last step that decides them, before anything is built', () => {
    const sheet = sheetForSquares(sheetOf(work('in', 'import-cloud'), work('low', 'find-low'), work('ground', 'find-ground'), work('surface', 'build-surface'), work('key', 'thin-cloud', { clouds: [{ from: 'in' }], method: 'key-points' }))); // prettier-ignore
    expect(sheet.steps.map(({ key }) => key)).toEqual(['in', 'low', 'ground', SQUARES_GATE, MARGIN_STEP, 'surface', 'key']); // prettier-ignore
    expect(sheet.steps[4]).toMatchObject({ parameters: { clouds: [{ from: 'in' }] } });
    // What comes of it is a sheet like any other.
    expect(checkedSheet(sheet)).toEqual(sheet);
  });

  test.each<[string, object[], RegExp]>([
    ['builds before all is classed', [work('in', 'import-cloud'), work('surface', 'build-surface'), work('ground', 'find-ground')], /Build surface.*would not meet/s],
    ['moves points', [work('in', 'import-cloud'), work('fit', 'fit-to-control', { cloud: { from: 'in' } })], /moves points.*Align the strips first/s],
    ['imports nothing', [{ ...work('points', 'import-control', {}), file: 'files' }], /no place for clouds/],
    ['imports from two places', [work('in', 'import-cloud'), { ...work('in2', 'import-cloud'), file: 'more' }], /several places/],
  ])('that %s is refused', (_, steps, says) => {
    const refused = (() => {
      try {
        sheetForSquares(sheetOf(...steps));
      } catch (error) {
        return error;
      }
      return undefined;
    })();
    expect(refused).toBeInstanceOf(JobError);
    expect((refused as Error).message + JSON.stringify(refused)).toMatch(says);
  }); // prettier-ignore

  test('the shipped sheet for squares suits, and so does the one for photographs', () => {
    for (const id of ['square-to-contours', 'photographs-to-contours'])
      expect(() => sheetForSquares(checkedSheet(shippedSheets[id]!))).not.toThrow();
    expect(operations.some(({ id }) => id === 'take-margin-classes')).toBe(true);
  });
});

interface Ended {
  readonly code: number;
  readonly out: string;
  readonly err: string;
}
const ARGUMENTS = ['site', 'square-to-contours', '--side', String(SIDE), '--margin', String(MARGIN), '--json'];
const env = { ...process.env, PAMPERO_LOG: 'error' };
const site = (out: string, ...more: string[]): Promise<Ended> =>
  new Promise((resolve) => {
    const args = [bin, ...ARGUMENTS, '--in', at('east.laz'), at('west.las'), '--out', at(out), ...more];
    execFile(process.execPath, args, { env }, (error, said, err) => resolve({ code: error ? Number(error.code) : 0, out: said, err })); // prettier-ignore
  });

describe('a site from files to products', () => {
  const names = ['5512000_6150000', '5512050_6150000', '5512000_6150050', '5512050_6150050'];
  let said: Ended;
  let others: Ended[];

  beforeAll(async () => {
    // Killed once while it is dividing or just after, once in the middle of the squares; it does not come back, and two others take over.
    for (const after of [/"step":"Dividing/, /Find ground/]) {
      const child = spawn(process.execPath, [bin, ...ARGUMENTS, '--in', at('east.laz'), at('west.las'), '--out', at('out')], { env }); // prettier-ignore
      await new Promise<void>((done) => {
        let text = '';
        child.stdout.on('data', (bytes: Buffer) => after.test((text += bytes.toString())) && child.kill('SIGKILL'));
        child.on('exit', () => done());
      });
    }
    others = await Promise.all(['one', 'two'].map((name) => site('out', '--silent', '6', '--at-once', '1', '--jobs', at(name)))); // prettier-ignore
    said = await site('out');
  }, 300_000);

  test('is taken over by others when its machine was killed; each does some of the squares', async () => {
    for (const { code, out, err } of [...others, said]) {
      expect(err).not.toMatch(/error/i);
      expect(code).toBe(0);
      expect(out).toMatch(/Going on with \d squares/);
      expect(out).toContain('4 of 4 squares done');
    }
    for (const jobs of ['one', 'two'])
      expect((await readdir(at(jobs))).filter((file) => file.endsWith('.pampero')).length).toBeGreaterThan(0);
    // Nothing of what the machines told each other is left but that the squares are done.
    expect((await readdir(at('out', 'edges'))).filter((file) => file.endsWith('.marks'))).toEqual([]);
    const phases = await Promise.all(names.map(async (name) => JSON.parse(await readFile(at('out', 'squares', `${name}.json`), 'utf8')) as { phase: string; by: string })); // prettier-ignore
    expect(phases.map(({ phase }) => phase)).toEqual(['done', 'done', 'done', 'done']);
    expect(new Set(phases.map(({ by }) => by)).size).toBe(2);
  });

  test('every square has its files; pieces of the input are gone', async () => {
    for (const name of names) {
      const files = await readdir(at('out', name));
      for (const ending of ['.laz', '.dxf', '.tif', '.xml', 'SHA256SUMS.txt'])
        expect(files.some((file) => file.endsWith(ending))).toBe(true);
    }
    expect(await readdir(at('out'))).not.toContain('pieces');
  });

  test('every point leaves once, in the square that it belongs to', async () => {
    const left: string[] = [];
    for (const name of names) left.push(...(await pointsIn(at('out', name, `points, ${name}.laz`))));
    const given = [...(await pointsIn(at('west.las'))), ...(await pointsIn(at('east.laz')))];
    expect(left.sort()).toEqual(given.sort());
  });

  /** What is stored in the jobs of two squares, and where their points lie with which classes. */
  const opened = async (name: string) => {
    const { by } = JSON.parse(await readFile(at('out', 'squares', `${name}.json`), 'utf8')) as { by: string };
    for (const jobs of [at('one'), at('two'), at('out', 'jobs')]) {
      if ((await machineIn(jobs))!.name !== by) continue;
      const file = (await readdir(jobs)).find((each) => each.startsWith(name.replace('_', '-')) && each.endsWith('.pampero')); // prettier-ignore
      return openReader(join(jobs, file!));
    }
    throw new Error(`nobody has ${name}`);
  };

  test('a point has one class, whichever square has it', async () => {
    const classOf = new Map<string, number>();
    let shared = 0;
    for (const name of names) {
      const { models, close } = await opened(name);
      for (const { id } of await listClouds(models)) {
        const facts = await readCloudFacts(models, id);
        for (const node of await listStoredNodes(models, id)) {
          const points = await readNodePoints(models, node, facts);
          for (let i = 0; i < points.count; i++) {
            const key = `${points.x[i]} ${points.y[i]} ${points.z[i]} ${points.gpsTime![i]} ${points.pointSourceId[i]}`;
            const mark = points.classification[i]! * 256 + points.flags[i]!;
            if (classOf.has(key)) {
              shared++;
              expect(mark).toBe(classOf.get(key));
            } else classOf.set(key, mark);
          }
        }
      }
      await close();
    }
    expect(shared).toBeGreaterThan(20_000);
    expect(new Set(classOf.values()).size).toBeGreaterThan(1);
  });

  test('surfaces meet along all edges', async () => {
    const [head, ...rows] = (await readFile(at('out', 'seams.csv'), 'utf8')).trim().split(/\r?\n/);
    expect(head).toContain('worst difference');
    expect(rows.length).toBe(4);
    for (const row of rows) {
      const [shared, alone, differing, worst] = row.split(',').slice(4).map(Number) as [number, number, number, number];
      expect(shared).toBeGreaterThan(SIDE - 3);
      expect([alone < 2, differing, worst]).toEqual([true, 0, 0]);
    }
  });

  test('the squares leave as a map', async () => {
    const { features } = JSON.parse(await readFile(at('out', 'squares.geojson'), 'utf8')) as { features: { properties: unknown }[] }; // prettier-ignore
    expect(features.map(({ properties }) => properties)).toEqual(
      names.map((square) => ({ square, points: expect.any(Number), state: 'done', edges: 2, worst_difference: 0 })),
    );
  });

  test('contours go on where they end at an edge', async () => {
    /** Ends of contours on the edge of easting 5 512 050, by square: northing and elevation. */
    const ends = async (name: string): Promise<string[]> => {
      const { models, close } = await opened(name);
      const [contours] = (await listProducts(models)).filter(isKind('contours'));
      const { arrays, facts } = unpackArrays(await readProductBlob(models, contours!.id, 'lines'));
      await close();
      const { level, starts, easting, northing, isClosed } = arrays as Record<string, Float64Array>;
      const origin = (facts as { origin: [number, number] }).origin;
      const found: string[] = [];
      for (let l = 0; l < level!.length; l++) {
        if (isClosed![l] === 1) continue;
        for (const v of [starts![l]!, starts![l + 1]! - 1])
          if (Math.abs(easting![v]! + origin[0] - BASE[0] - SIDE) < 1e-6)
            found.push(`${level![l]!.toFixed(3)} at ${(northing![v]! + origin[1]).toFixed(4)}`);
      }
      return found.sort();
    };
    for (const [west, east] of [
      [0, 1],
      [2, 3],
    ] as const) {
      // prettier-ignore
      const here = await ends(names[west]!);
      expect(here.length).toBeGreaterThan(1);
      expect(await ends(names[east]!)).toEqual(here);
    }
  });

  test('grids abut: GDAL puts them together without a gap', async () => {
    const grids: string[] = [];
    for (const name of names)
      grids.push(
        at(
          'out',
          name,
          (await readdir(at('out', name))).find((file) => file.endsWith('.tif'))!,
        ),
      );
    execFileSync('gdalbuildvrt', ['-q', at('all.vrt'), ...grids]);
    const { size, geoTransform } = JSON.parse(execFileSync('gdalinfo', ['-json', at('all.vrt')], { encoding: 'utf8' })) as { size: number[]; geoTransform: number[] }; // prettier-ignore
    expect(size).toEqual([LAND, LAND]);
    expect(geoTransform).toEqual([BASE[0], 1, 0, BASE[1] + LAND, 0, -1]);
    execFileSync('gdal_translate', ['-q', '-of', 'AAIGrid', at('all.vrt'), at('all.asc')]);
    const lines = (await readFile(at('all.asc'), 'utf8')).trim().split('\n').slice(-LAND);
    const rows = lines.map((line) => line.trim().split(/\s+/).map(Number));
    // The land along the edges is there in every cell, and as even as elsewhere: no cell stands out from its neighbours.
    for (let k = 5; k < LAND - 5; k++)
      for (const [a, b] of [
        [rows[k]![49]!, rows[k]![50]!],
        [rows[49]![k]!, rows[50]![k]!],
      ] as const) {
        // prettier-ignore
        expect(a).toBeGreaterThan(30);
        expect(Math.abs(a - b)).toBeLessThan(0.6);
      }
  });

  test('another side in the same folder is refused, and so are words that mean nothing', async () => {
    const args = (side: string, ...more: string[]): string[] => [bin, 'site', 'square-to-contours', '--side', side, '--in', at('east.laz'), '--out', at('out'), ...more]; // prettier-ignore
    const told = (given: string[]): Promise<Ended> =>
      new Promise(
        (resolve) =>
        execFile(process.execPath, given, { env }, (error, out, err) => resolve({ code: error ? Number(error.code) : 0, out, err })), // prettier-ignore
      );
    expect(await told(args('60'))).toMatchObject({ code: 2, err: expect.stringContaining('Choose another folder') });
    expect(await told(args('wide'))).toMatchObject({ code: 2, err: expect.stringContaining('--side takes a length') });
    expect(await site('out', '--without', 'nowhere')).toMatchObject({ code: 2, out: expect.stringContaining('no square nowhere') }); // prettier-ignore
  });
});
