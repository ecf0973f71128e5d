import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeGtx } from '@pampero/core/geodesy';
import { fieldWithShed, lasBytes, type ApiClient } from '../server.fixture.js';
import { gatherPoints } from '@pampero/core/cloud';
import { flightSeeds, tableSeeds } from './flight-seeds.fixture.js';
import type { Seed } from './seed.fixture.js';

const TIFF_KINDS: Readonly<Record<string, readonly string[]>> = {
  'tiled-lzw.tif': ['-co', 'TILED=YES', '-co', 'BLOCKXSIZE=16', '-co', 'BLOCKYSIZE=16', '-co', 'COMPRESS=LZW'],
  'strips.tif': ['-co', 'BLOCKYSIZE=4'],
  'big.tif': ['-co', 'BIGTIFF=YES', '-co', 'COMPRESS=DEFLATE', '-co', 'PREDICTOR=3'],
};

/** One or more small files of every format that comes in, made by the program itself or by GDAL. */
export async function seeds(api: ApiClient): Promise<Map<string, Seed[]>> {
  const text = (of: string): Uint8Array => new TextEncoder().encode(of);
  const jobId = (await api.newJob('Seeds')).id;
  const all = fieldWithShed();
  const few = gatherPoints(
    all,
    Uint32Array.from({ length: 700 }, (_, k) => k * 15),
  );
  await api.import(jobId, await lasBytes(few));
  const cloudId = (await api.read(jobId)).clouds[0]!.id;
  await api.operate(jobId, 'build-surface', { clouds: [cloudId], classes: [1], maximumEdge: 20 });
  const surface = await api.newest(jobId, 'surface');
  await api.operate(jobId, 'draw-contours', { on: 'surface', surfaceId: surface.id, interval: 0.5 });
  await api.operate(jobId, 'make-grid', { method: 'tin', surfaceId: surface.id, cell: 2 });
  const grid = await api.newest(jobId, 'grid');
  const contours = await api.newest(jobId, 'contours');
  const points = async (query: string): Promise<Uint8Array> => {
    const { status, body } = await api.raw(`/jobs/${jobId}/clouds/${cloudId}/points?${query}`);
    if (status !== 200) throw new Error(Buffer.from(body).toString());
    return body;
  };
  const cloud = async (fileName: string, query: string, isText = false): Promise<Seed> => ({
    fileName,
    operation: 'import-cloud',
    bytes: await points(query),
    isText,
  });
  const elevations = await api.file(jobId, grid.id, 'tif');
  const folder = mkdtempSync(join(tmpdir(), 'pampero-seeds-'));
  writeFileSync(join(folder, 'grid.tif'), elevations);
  const tiffs = Object.entries(TIFF_KINDS).map(([fileName, options]): Seed => {
    const path = join(folder, fileName);
    execFileSync('gdal_translate', ['-q', ...options, join(folder, 'grid.tif'), path]);
    return { fileName, operation: 'import-grid', bytes: readFileSync(path), isText: false };
  });
  rmSync(folder, { recursive: true });
  const list = Array.from({ length: 12 }, (_, k) => `P${k},${6_150_000 + k},${5_512_000 + 2 * k},${30 + k / 10},edge`);
  const values = [0, 0.5, 1, 1.5, 2, 2.5].map((v) => `${v} ${v + 1} ${v / 3} 0.5`);
  const linesOut = await api.file(jobId, contours.id, 'geojson');
  return new Map<string, Seed[]>([
    ...(await flightSeeds()),
    ...tableSeeds(linesOut),
    ['las', [await cloud('a.las', 'format=las'), await cloud('b.las', 'format=las&version=1.2')]],
    ['laz', [await cloud('a.laz', 'format=laz'), await cloud('b.laz', 'format=laz&version=1.2')]],
    ['copc', [await cloud('a.copc.laz', 'format=copc')]],
    ['e57', [await cloud('a.e57', 'format=e57')]],
    ['ply', [await cloud('a.ply', 'format=ply')]],
    ['text', [await cloud('a.xyz', 'format=xyz', true), await cloud('a.csv', 'format=csv', true)]],
    [
      'ptx',
      [
        {
          fileName: 'a.ptx',
          operation: 'import-cloud',
          bytes: text(
            [
              '2',
              '3',
              '0 0 0',
              '1 0 0',
              '0 1 0',
              '0 0 1',
              '1 0 0 0',
              '0 1 0 0',
              '0 0 1 0',
              '5512000 6150000 20 1',
              ...values,
              '',
            ].join('\n'),
          ),
          isText: true,
        },
      ],
    ],
    [
      'list',
      [
        {
          fileName: 'a.csv',
          operation: 'import-control',
          parameters: { order: 'PNEZD', role: 'check' },
          bytes: text(list.join('\n')),
          isText: true,
        },
      ],
    ],
    [
      'lines',
      [
        {
          fileName: 'a.geojson',
          operation: 'import-lines',
          parameters: { format: 'geojson', role: 'breakline' },
          bytes: linesOut,
          isText: true,
        },
        {
          fileName: 'b.csv',
          operation: 'import-lines',
          parameters: { format: 'list', order: 'PNEZD', role: 'breakline' },
          bytes: text(list.join('\n')),
          isText: true,
        },
      ],
    ],
    [
      'dxf',
      [
        {
          fileName: 'a.dxf',
          operation: 'import-lines',
          parameters: { format: 'dxf', role: 'breakline' },
          bytes: await api.file(jobId, contours.id, 'dxf'),
          isText: true,
        },
        {
          fileName: 'b.dxf',
          operation: 'import-surface',
          bytes: await api.file(jobId, surface.id, 'dxf'),
          isText: true,
        },
      ],
    ],
    [
      'landxml',
      [
        {
          fileName: 'a.xml',
          operation: 'import-surface',
          bytes: await api.file(jobId, surface.id, 'landxml'),
          isText: true,
        },
      ],
    ],
    [
      'asc',
      [{ fileName: 'a.asc', operation: 'import-grid', bytes: await api.file(jobId, grid.id, 'asc'), isText: true }],
    ],
    ['tif', [{ fileName: 'a.tif', operation: 'import-grid', bytes: elevations, isText: false }, ...tiffs]],
    [
      'gtx',
      [
        {
          fileName: 'a.gtx',
          operation: 'geoid',
          bytes: writeGtx({
            south: -36,
            west: -65,
            latitudeStep: 0.5,
            longitudeStep: 0.5,
            rows: 6,
            columns: 8,
            values: new Float32Array(48).fill(17),
          }),
          isText: false,
        },
      ],
    ],
    [
      'job',
      [
        {
          fileName: 'a.pampero',
          operation: 'restore',
          bytes: (await api.raw(`/jobs/${jobId}/file`)).body,
          isText: false,
        },
      ],
    ],
  ]);
}
