import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { beforeAll, describe, expect, test } from 'vitest';
import { PamperoError, seededRandom } from '../../task/index.js';
import { bufferSink, bufferSource } from '../byte-source.js';
import type { LoosePoints } from '../loose-points.js';
import { QUANTISATION, randomPoints } from '../las/las.fixture.js';
import { POINT_FORMATS, pointColumnsOf } from '../las/index.js';
import { crc32c } from './crc32c.js';
import { handmadeE57 } from './e57.fixture.js';
import { scansApart } from './scans-apart.js';
import { openE57 } from './e57-reader.js';
import { writeE57 } from './e57-writer.js';

let convertE57: (bytes: Uint8Array, format: string) => string;
/** The web-e57 library, which knows nothing of our code; it is made for bundlers, so its WebAssembly is started by hand. */
beforeAll(async () => {
  const folder = dirname(createRequire(import.meta.url).resolve('web-e57'));
  const glue = (await import(/* @vite-ignore */ join(folder, 'e57_bg.js'))) as {
    convertE57: typeof convertE57;
    __wbg_set_wasm(exports: WebAssembly.Exports): void;
  };
  const { instance } = await WebAssembly.instantiate(readFileSync(join(folder, 'e57_bg.wasm')), {
    './e57_bg.js': glue as unknown as WebAssembly.ModuleImports,
  });
  glue.__wbg_set_wasm(instance.exports);
  convertE57 = glue.convertE57;
});

async function readAll(bytes: Uint8Array): Promise<{ points: LoosePoints[]; warnings: readonly { code: string }[] }> {
  const file = await openE57(bufferSource('scan.e57', bytes));
  const points: LoosePoints[] = [];
  for await (const batch of file.batches()) points.push(batch);
  return { points, warnings: file.warnings };
}
const flat = (batches: readonly LoosePoints[], column: 'easting' | 'northing' | 'elevation'): number[] =>
  batches.flatMap((batch) => [...batch[column]]);

test('CRC-32C of the known texts (RFC 3720, appendix B.4)', () => {
  expect(crc32c(new Uint8Array(32))).toBe(0x8a91_36aa);
  expect(crc32c(new Uint8Array(32).fill(255))).toBe(0x62a8_ab43);
  expect(crc32c(Uint8Array.from({ length: 32 }, (_, i) => i))).toBe(0x46dd_794e);
});

describe('files we write', () => {
  async function written(pointFormat: number, count: number) {
    const points = randomPoints(pointFormat, count);
    const sink = bufferSink();
    await writeE57(sink, [points], {
      name: 'Bank & canal',
      quantisation: QUANTISATION,
      columns: pointColumnsOf(POINT_FORMATS[pointFormat]!, POINT_FORMATS[pointFormat]!.length),
      isStandardGpsTime: true,
      wkt: 'PROJCS["made up",UNIT["metre",1],AUTHORITY["EPSG","5347"]]',
    });
    return { points, bytes: sink.bytes() };
  }

  test('web-e57 reads every point of them, with its colour', async () => {
    const { points, bytes } = await written(7, 5000);
    const lines = convertE57(bytes, 'XYZ').trim().split('\n');
    const rows = lines.map((line) => line.trim().split(/\s+/).map(Number)).filter((row) => row.length >= 3);
    expect(rows).toHaveLength(5000);
    for (let i = 0; i < 5000; i += 13) {
      expect(rows[i]![0]).toBeCloseTo(points.x[i]! * 0.001 + 5_512_000, 3);
      expect(rows[i]![1]).toBeCloseTo(points.y[i]! * 0.001 + 6_150_000, 3);
      expect(rows[i]![2]).toBeCloseTo(points.z[i]! * 0.01, 2);
    }
  });

  test('we read them back bit for bit: coordinates, intensity, colours, returns, times, classes', async () => {
    const { points, bytes } = await written(7, 4000);
    for (let i = 0; i < 4000; i++) points.returns[i] = 0x21;
    const { points: read, warnings } = await readAll(bytes);
    expect(warnings).toEqual([]);
    const easting = flat(read, 'easting');
    expect(easting).toHaveLength(4000);
    let at = 0;
    for (const batch of read)
      for (let i = 0; i < batch.count; i++, at++) {
        expect(batch.easting[i]).toBeCloseTo(points.x[at]! * 0.001 + 5_512_000, 6);
        expect([batch.intensity![i], batch.red![i], batch.blue![i], batch.classification![i]]).toEqual([
          points.intensity[at],
          points.red![at],
          points.blue![at],
          points.classification[at],
        ]);
        expect(batch.gpsTime![i]).toBeCloseTo(points.gpsTime![at]!, 6);
      }
    const file = await openE57(bufferSource('x.e57', bytes));
    expect(file.crs?.epsg).toBe(5347);
    expect(file.scans[0]!.name).toBe('Bank & canal');
  });
});

describe('files of others', () => {
  const spread = (count: number, bits: number, seed: number): number[] => {
    const random = seededRandom(seed);
    return Array.from({ length: count }, () => Math.floor(random() * 2 ** bits));
  };

  test('values packed into 13, 21 and 45 bits, cut anywhere between packets, agree with web-e57', async () => {
    const [x, y, z] = [spread(700, 13, 1), spread(700, 21, 2), spread(700, 45, 3)];
    const bytes = await handmadeE57(
      [
        {
          fields: [
            {
              name: 'cartesianX',
              bits: 13,
              values: x,
              xml: 'type="ScaledInteger" minimum="0" maximum="8191" scale="0.01" offset="100"',
            },
            {
              name: 'cartesianY',
              bits: 21,
              values: y,
              xml: 'type="ScaledInteger" minimum="-1000" maximum="2096151" scale="0.001" offset="0"',
            },
            {
              name: 'cartesianZ',
              bits: 45,
              values: z,
              xml: `type="ScaledInteger" minimum="0" maximum="${2 ** 45 - 1}" scale="1e-9" offset="0"`,
            },
          ],
        },
      ],
      5,
    );
    const { points } = await readAll(bytes);
    const [east, north, up] = [flat(points, 'easting'), flat(points, 'northing'), flat(points, 'elevation')];
    expect(east).toEqual(x.map((v) => v * 0.01 + 100));
    expect(north).toEqual(y.map((v) => (v - 1000) * 0.001));
    expect(up).toEqual(z.map((v) => v * 1e-9));
    const rows = convertE57(bytes, 'XYZ')
      .trim()
      .split('\n')
      .map((line) => line.trim().split(/\s+/).map(Number));
    expect(rows).toHaveLength(700);
    rows.forEach((row, i) => {
      expect(row[0]).toBeCloseTo(east[i]!, 3);
      expect(row[1]).toBeCloseTo(north[i]!, 3);
      expect(row[2]).toBeCloseTo(up[i]!, 3);
    });
  });

  test('spherical points, turned and moved by the pose, are where trigonometry puts them', async () => {
    // A quarter turn about the vertical (w = z = √½), then a move: x becomes y.
    const h = Math.SQRT1_2;
    const bytes = await handmadeE57([
      {
        extra: `<name type="String">Corner</name><pose type="Structure"><rotation type="Structure"><w type="Float">${h}</w><x type="Float"/><y type="Float"/><z type="Float">${h}</z></rotation><translation type="Structure"><x type="Float">5512000</x><y type="Float">6150000</y><z type="Float">20</z></translation></pose>`,
        fields: [
          { name: 'sphericalRange', values: [10, 10, 5], xml: 'type="Float"' },
          { name: 'sphericalAzimuth', values: [0, Math.PI / 2, 0], xml: 'type="Float"' },
          { name: 'sphericalElevation', values: [0, 0, Math.PI / 2], xml: 'type="Float"' },
          { name: 'sphericalInvalidState', bits: 2, values: [0, 0, 0], xml: 'type="Integer" minimum="0" maximum="2"' },
        ],
      },
    ]);
    const { points } = await readAll(bytes);
    const expected = [
      [5_512_000, 6_150_010, 20],
      [5_511_990, 6_150_000, 20],
      [5_512_000, 6_150_000, 25],
    ];
    expected.forEach(([east, north, up], i) => {
      expect(flat(points, 'easting')[i]).toBeCloseTo(east!, 6);
      expect(flat(points, 'northing')[i]).toBeCloseTo(north!, 6);
      expect(flat(points, 'elevation')[i]).toBeCloseTo(up!, 6);
    });
  });

  test('several scans become strips; invalid points are left out and told; a constant field has no bytes', async () => {
    const scan = (invalid: number[]) => ({
      fields: [
        { name: 'cartesianX', values: [1, 2, 3], xml: 'type="Float"' },
        { name: 'cartesianY', values: [4, 5, 6], xml: 'type="Float"' },
        { name: 'cartesianZ', values: [7, 8, 9], xml: 'type="Float"' },
        { name: 'intensity', bits: 0, values: [0, 0, 0], xml: 'type="Integer" minimum="7" maximum="7"' },
        { name: 'cartesianInvalidState', bits: 2, values: invalid, xml: 'type="Integer" minimum="0" maximum="2"' },
      ],
    });
    const { points, warnings } = await readAll(await handmadeE57([scan([0, 2, 0]), scan([0, 0, 0])], 1));
    expect(points.map((p) => [...p.easting])).toEqual([
      [1, 3],
      [1, 2, 3],
    ]);
    expect(points.map((p) => p.pointSourceId![0])).toEqual([1, 2]);
    expect(warnings.map((w) => w.code)).toEqual(['points-invalid']);
  });
});

describe('scans that lie apart', () => {
  const scan = (name: string, east: number) => ({
    extra: `<name type="String">${name}</name><pose type="Structure"><translation type="Structure"><x type="Float">${east}</x><y type="Float">6150000</y><z type="Float">20</z></translation></pose>`,
    fields: ['cartesianX', 'cartesianY', 'cartesianZ'].map((field) => ({ name: field, values: [1, 2, 3], xml: 'type="Float"' })), // prettier-ignore
  });
  const three = () => handmadeE57([scan('A', 5_512_000), scan('B', 5_512_040), scan('C', 4_512_000)], 1);

  test('are told by their first points; the middle is that of most', async () => {
    const file = await openE57(bufferSource('site.e57', await three()));
    const places = await file.firstPoints();
    expect(places.map((place) => place![0])).toEqual([5_512_001, 5_512_041, 4_512_001]);
    expect(scansApart(places)).toEqual([{ number: 3, distance: expect.closeTo(1e6, -2) as number }]);
    expect(scansApart([[0, 0, 0], undefined, [500, 0, 0]])).toEqual([]);
    expect(scansApart([[0, 0, 0]])).toEqual([]);
  });

  test('are left out by their numbers; the others keep theirs', async () => {
    const file = await openE57(bufferSource('site.e57', await three()), { leaveOut: [1, 3] });
    expect(file.pointCount).toBe(3);
    const points: LoosePoints[] = [];
    for await (const batch of file.batches()) points.push(batch);
    expect(points.map(({ pointSourceId, easting }) => [pointSourceId![0], easting[0]])).toEqual([[2, 5_512_041]]);
    const open = async (leaveOut: number[]) => openE57(bufferSource('site.e57', await three()), { leaveOut });
    await expect(open([4])).rejects.toThrow(/no scan 4; the file has 3/);
    await expect(open([1, 2, 3])).rejects.toThrow(/All 3 scans are left out/);
  });
});

describe('damage', () => {
  const good = (): Promise<Uint8Array> =>
    handmadeE57(
      [1, 2].map((seed) => ({
        fields: ['cartesianX', 'cartesianY', 'cartesianZ'].map((name, k) => ({
          name,
          bits: 20,
          values: Array.from({ length: 900 }, (_, i) => (i * 97 * (k + seed)) % 2 ** 20),
          xml: 'type="ScaledInteger" minimum="0" maximum="1048575" scale="0.001" offset="0"',
        })),
      })),
    );

  test('a bent page is named with its checksum', async () => {
    const bytes = await good();
    bytes[300]! ^= 4;
    await expect(readAll(bytes)).rejects.toMatchObject({
      code: 'checksum-wrong',
      where: expect.stringContaining('page 1') as string,
    });
  });

  test('where a later scan is damaged, the earlier ones are offered with a warning', async () => {
    const bytes = await good();
    bytes[1024 * 10 + 5]! ^= 1;
    const { points, warnings } = await readAll(bytes);
    expect(points.reduce((sum, p) => sum + p.count, 0)).toBeGreaterThanOrEqual(900);
    expect(warnings.map((w) => w.code)).toEqual(['scan-damaged']);
  });

  test('1 500 files bent or cut anywhere: a typed error or the points, never anything else', async () => {
    const bytes = await good();
    const random = seededRandom(57);
    let refused = 0;
    for (let k = 0; k < 1500; k++) {
      const bent = bytes.slice(0, random() < 0.4 ? Math.floor(random() * bytes.length) : bytes.length);
      // Checksums are made good again in half the cases, so that what lies behind them is reached too.
      for (let flips = 0; flips < 3 && bent.length > 0; flips++)
        bent[Math.floor(random() * Math.min(bent.length, random() < 0.5 ? 200 : bent.length))] = Math.floor(
          random() * 256,
        );
      if (random() < 0.5)
        for (let page = 0; (page + 1) * 1024 <= bent.length; page++)
          new DataView(bent.buffer).setUint32(
            page * 1024 + 1020,
            crc32c(bent.subarray(page * 1024, page * 1024 + 1020)),
          );
      try {
        await readAll(bent);
      } catch (error) {
        expect(error).toBeInstanceOf(PamperoError);
        refused++;
      }
    }
    expect(refused).toBeGreaterThan(500);
  }, 60_000);
});
