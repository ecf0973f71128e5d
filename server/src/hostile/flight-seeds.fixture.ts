import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { deflateSync } from 'node:zlib';
import { writeGeoTiff } from '@pampero/core/formats/geotiff';
import { strToU8, zipSync } from 'fflate';
import sharp from 'sharp';
import { QUANTISATION } from '../server.fixture.js';
import { scanAsLas } from '../scan-as-las.fixture.js';
import type { Seed } from './seed.fixture.js';

const [E, N] = QUANTISATION.offset;

/** A trajectory of a few records, as text. */
const WAY = [
  'time,east,north,height,roll,pitch,heading',
  ...Array.from({ length: 12 }, (_, k) => `${100 + k / 4},${E + 20 + 2 * k},${N + 30},120,${k % 3},0.5,90`),
  '',
].join('\n');

/** The same as binary records. */
function wayInBinary(): Uint8Array {
  const bytes = Buffer.alloc(12 * 56);
  for (let k = 0; k < 12; k++)
    [100 + k / 4, E + 20 + 2 * k, N + 30, 120, k % 3, 0.5, 90].forEach((value, j) =>
      bytes.writeDoubleLE(value, 56 * k + 8 * j),
    );
  return bytes;
}

/** A raw scan that goes with it. */
function scan() {
  const count = 60;
  const of = (value: (i: number) => number): Float64Array => Float64Array.from({ length: count }, (_, i) => value(i));
  return {
    count,
    time: of((i) => 100.1 + i * 0.04),
    range: of((i) => 90 + (i % 7)),
    across: of((i) => ((i % 11) - 5) / 10),
    intensity: Uint16Array.from({ length: count }, (_, i) => 100 + i),
    returns: new Uint8Array(count).fill(0x11),
    strip: new Uint16Array(count),
  };
}

/** Files of flights and pictures: trajectories, raw scans, pictures, photographs with their list. */
export async function flightSeeds(): Promise<[string, Seed[]][]> {
  const trajectory: Seed = { fileName: 'way.csv', operation: 'import-trajectory', bytes: strToU8(WAY), isText: true };
  const raw = scan();
  const rows = Array.from(raw.time, (time, i) => `${time.toFixed(4)},${raw.range[i]},${raw.across[i]! * 57},${100 + i},1,1,1`); // prettier-ignore
  const pixels = new Uint8Array(3 * 48 * 48).map((_, k) => (k * 37) % 251);
  const frame = { east: E, north: N, cell: 1, columns: 48, rows: 48 };
  const tiff = writeGeoTiff(pixels, frame, { epsg: 5347, deflate: (bytes) => deflateSync(bytes) });
  const image = sharp(pixels, { raw: { width: 48, height: 48, channels: 3 } });
  const [jpeg, png] = await Promise.all([image.clone().jpeg().toBuffer(), image.clone().png().toBuffer()]);
  const world = strToU8(`1\n0\n0\n-1\n${E}\n${N + 48}\n`);
  const picture = (fileName: string, bytes: Uint8Array): Seed => ({
    fileName,
    operation: 'import-picture',
    bytes,
    isText: false,
  });
  const list = strToU8(`file,east,north,height,omega,phi,kappa\na.tif,${E + 20},${N + 20},120,0,0,0\n`);
  const camera = { focalLength: 8, pixelSize: 12 };
  const onTrajectory = { before: trajectory, parameters: { trajectory: 1 } };
  return [
    [
      'trajectory',
      [
        trajectory,
        {
          fileName: 'way.bin',
          operation: 'import-trajectory',
          parameters: { format: 'binary' },
          bytes: wayInBinary(),
          isText: false,
        },
      ],
    ],
    [
      'scan',
      [
        {
          ...onTrajectory,
          fileName: 'scan.csv',
          operation: 'georeference-scan',
          bytes: strToU8(['time,range,across,intensity,return,returns,strip', ...rows, ''].join('\n')),
          isText: true,
        },
        {
          ...onTrajectory,
          fileName: 'scan.las',
          operation: 'georeference-scan',
          bytes: await scanAsLas(raw),
          isText: false,
        },
      ],
    ],
    [
      'picture',
      [
        picture('a.tif', tiff),
        picture('b.zip', zipSync({ 'b.jpg': jpeg, 'b.jgw': world }, { level: 0 })),
        picture('c.zip', zipSync({ 'c.png': png, 'c.pgw': world })),
      ],
    ],
    [
      'photographs',
      [
        {
          fileName: 'a.zip',
          operation: 'import-photographs',
          parameters: camera,
          bytes: zipSync({ 'a.tif': tiff, 'list.csv': list }, { level: 0 }),
          isText: false,
        },
      ],
    ],
  ];
}

/** Lines in the formats that GDAL writes, and a list of codes. */
export function tableSeeds(lines: Uint8Array): [string, Seed[]][] {
  const folder = mkdtempSync(join(tmpdir(), 'pampero-lines-'));
  try {
    const at = (name: string): string => join(folder, name);
    writeFileSync(at('lines.geojson'), lines);
    const convert = (name: string, ...more: string[]): void =>
      void execFileSync('ogr2ogr', ['-q', ...more, at(name), at('lines.geojson')], { stdio: 'ignore' });
    convert('lines.gpkg', '-f', 'GPKG');
    convert('lines.shp', '-f', 'ESRI Shapefile', '-dim', 'XYZ', '-nlt', 'LINESTRINGZ');
    const parts = readdirSync(folder).filter((name) => /\.(shp|shx|dbf|prj)$/.test(name));
    const zipped = zipSync(Object.fromEntries(parts.map((name) => [name, new Uint8Array(readFileSync(at(name)))])), {
      level: 0,
    });
    const line = (fileName: string, bytes: Uint8Array): Seed => ({
      fileName,
      operation: 'import-lines',
      parameters: { role: 'breakline' },
      bytes,
      isText: false,
    });
    const codes = [
      'code,meaning,use,colour,style,layer',
      ...['EDGE', 'KERB', 'BANK'].map((code) => `${code},A line,hard breakline,#aa3300,solid,${code}`),
      '',
    ];
    return [
      ['shp', [line('a.zip', zipped), line('a.shp', readFileSync(at('lines.shp')))]],
      ['gpkg', [line('a.gpkg', readFileSync(at('lines.gpkg')))]],
      ['codes', [{ fileName: 'codes.csv', operation: 'import-codes', bytes: strToU8(codes.join('\n')), isText: true }]],
    ];
  } finally {
    rmSync(folder, { recursive: true });
  }
}
