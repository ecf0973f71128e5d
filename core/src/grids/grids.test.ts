import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { deflateSync } from 'node:zlib';
import { afterAll, describe, expect, test } from 'vitest';
import { gridToAscii, gridToXyz } from '../formats/ascii-grid/index.js';
import { writeGeoTiff } from '../formats/geotiff/index.js';
import { aspect, fillGaps, gridFromPoints, hillshade, slope } from './index.js';

const FRAME = { east: 500_000, north: 6_100_000, cell: 2, columns: 70, rows: 50 };
const hills = Float32Array.from(
  { length: FRAME.columns * FRAME.rows },
  (_, i) => 100 + 8 * Math.sin((i % 70) / 7) + 6 * Math.cos(Math.floor(i / 70) / 5),
);
const folder = mkdtempSync(join(tmpdir(), 'pampero-grids-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** A grid that GDAL wrote, as text, back in our order. */
function readAscii(path: string): Float32Array {
  const lines = readFileSync(path, 'latin1').trim().split('\n');
  const rows = lines.filter((line) => !/^[a-z]/i.test(line)).map((line) => line.trim().split(/\s+/).map(Number));
  return Float32Array.from(rows.reverse().flat());
}

describe('a grid from points', () => {
  const [e, n, z] = [[1, 1.5, 3, 3.2, 3.6, 9], [1, 1, 1, 1.4, 0.4, 9], [5, 7, 1, 2, 9, 4]].map((list) => Float64Array.from(list)) as [Float64Array, Float64Array, Float64Array]; // prettier-ignore
  const frame = { east: 0, north: 0, cell: 2, columns: 2, rows: 1 };
  test.each([
    ['lowest', [5, 1]],
    ['highest', [7, 9]],
    ['mean', [6, 4]],
    ['median', [6, 2]],
    ['count', [2, 3]],
  ] as const)('%s', (method, expected) => {
    expect([...gridFromPoints(e, n, z, frame, method)]).toEqual(expected);
  });

  test('by inverse distance a plane keeps its level, and a point on the centre says it all', () => {
    expect([...gridFromPoints(e, n, new Float64Array(6).fill(3), frame, 'nearest-weighted')]).toEqual([3, 3]);
    expect(gridFromPoints(e, n, z, frame, 'nearest-weighted')[1]).toBe(1);
  });

  test('gaps are filled from about them, never further than the reach', () => {
    const values = new Float32Array(9 * 9).fill(2);
    for (let row = 2; row < 7; row++) for (let column = 2; column < 7; column++) values[row * 9 + column] = NaN;
    const near = fillGaps(values, 9, 9, 2);
    expect(near[4 * 9 + 4]).toBeNaN();
    expect(near[2 * 9 + 2]).toBe(2);
    expect(fillGaps(values, 9, 9, 5).every((v) => v === 2)).toBe(true);
  });
});

describe('shading, against known planes', () => {
  const plane = Float32Array.from({ length: 25 }, (_, i) => (i % 5) * 2);
  test('a plane that rises 1 : 1 to the east slopes by 45 degrees and faces west', () => {
    expect(slope(plane, 5, 5, 2)[12]).toBeCloseTo(45, 5);
    expect(aspect(plane, 5, 5, 2)[12]).toBeCloseTo(270, 5);
  });
  test('level ground takes the sine of the sun; none at the rim', () => {
    const shade = hillshade(new Float32Array(25), 5, 5, 2, { azimuth: 315, altitude: 45 });
    expect(shade[12]).toBe(Math.round(1 + 254 * Math.sin(Math.PI / 4)));
    expect(shade[0]).toBe(0);
  });
});

describe('against GDAL', () => {
  const path = join(folder, 'hills.tif');
  writeFileSync(
    path,
    writeGeoTiff(hills, FRAME, { epsg: 5347, verticalUnit: 9001, description: 'hills', deflate: deflateSync }),
  );
  const dem = (...args: string[]): Float32Array => {
    const out = join(folder, `${args[0]}.asc`);
    const raw = join(folder, `${args[0]}.tif`);
    execFileSync('/usr/bin/gdaldem', [args[0]!, path, raw, ...args.slice(1)]);
    execFileSync('/usr/bin/gdal_translate', ['-q', '-of', 'AAIGrid', raw, out]);
    return readAscii(out);
  };

  test('GeoTIFF is read as it was written: size, place, system, no-data, values', () => {
    const holed = Float32Array.from(hills);
    holed[70 * 49] = NaN; // the north-west corner
    const file = join(folder, 'holed.tif');
    writeFileSync(file, writeGeoTiff(holed, FRAME, { epsg: 5347, deflate: deflateSync }));
    const info = JSON.parse(execFileSync('/usr/bin/gdalinfo', ['-json', file]).toString()) as {
      size: number[];
      geoTransform: number[];
      bands: { noDataValue: number; block: number[] }[];
      coordinateSystem: { wkt: string };
    };
    expect(info.size).toEqual([70, 50]);
    expect(info.geoTransform).toEqual([500_000, 2, 0, 6_100_100, 0, -2]);
    expect(info.bands[0]).toMatchObject({ noDataValue: -9999, block: [256, 256] });
    expect(info.coordinateSystem.wkt).toContain('5347');
    const back = join(folder, 'back.asc');
    execFileSync('/usr/bin/gdal_translate', ['-q', '-of', 'AAIGrid', '-co', 'SIGNIFICANT_DIGITS=9', file, back]);
    const values = readAscii(back);
    expect(values[70 * 49]).toBe(-9999);
    for (let i = 0; i < values.length; i += 37) if (i !== 70 * 49) expect(values[i]).toBeCloseTo(hills[i]!, 4);
  });

  test('the ASCII grid and the XYZ grid are read by GDAL with the same values', () => {
    const asc = join(folder, 'text.asc');
    writeFileSync(asc, [...gridToAscii(hills, FRAME)].join(''));
    const xyz = join(folder, 'text.xyz');
    writeFileSync(xyz, [...gridToXyz(hills, FRAME)].join(''));
    for (const file of [asc, xyz]) {
      const info = JSON.parse(execFileSync('/usr/bin/gdalinfo', ['-json', '-stats', file]).toString()) as {
        size: number[];
        geoTransform: number[];
        bands: { minimum: number; maximum: number }[];
      };
      expect(info.size).toEqual([70, 50]);
      expect(info.geoTransform[0]).toBeCloseTo(500_000, 6);
      expect(info.bands[0]!.minimum).toBeCloseTo(Math.min(...hills), 2);
      expect(info.bands[0]!.maximum).toBeCloseTo(Math.max(...hills), 2);
    }
  });

  test('slope, aspect and hillshade as gdaldem computes them', () => {
    const own = { slope: slope(hills, 70, 50, 2), aspect: aspect(hills, 70, 50, 2) };
    for (const what of ['slope', 'aspect'] as const) {
      const theirs = dem(what);
      for (let row = 1; row < 49; row++)
        for (let column = 1; column < 69; column++)
          expect(own[what][row * 70 + column]!).toBeCloseTo(theirs[row * 70 + column]!, 1);
    }
    const shade = hillshade(hills, 70, 50, 2, { azimuth: 315, altitude: 45 });
    const theirs = dem('hillshade', '-az', '315', '-alt', '45');
    for (let row = 1; row < 49; row++)
      for (let column = 1; column < 69; column++)
        expect(Math.abs(shade[row * 70 + column]! - theirs[row * 70 + column]!)).toBeLessThanOrEqual(1);
  });
});
