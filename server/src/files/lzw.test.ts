import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from 'vitest';
import { seededRandom } from '@pampero/core/task';
import { readGeoTiffGrid } from './geotiff-grid.js';
import { decodeLzw } from './lzw.js';

const folder = mkdtempSync(join(tmpdir(), 'pampero-tiff-'));
afterAll(() => rmSync(folder, { recursive: true }));

/** An ASCII grid that GDAL turns into a GeoTIFF. */
function tiff(
  columns: number,
  rows: number,
  value: (column: number, row: number) => number,
  ...options: string[]
): string {
  const lines = Array.from({ length: rows }, (_, row) =>
    Array.from({ length: columns }, (__, column) => value(column, row)).join(' '),
  );
  writeFileSync(
    join(folder, 'a.asc'),
    `ncols ${columns}\nnrows ${rows}\nxllcorner 1000\nyllcorner 2000\ncellsize 1\n${lines.join('\n')}\n`,
  );
  execFileSync('gdal_translate', [
    '-q',
    '-ot',
    'Float32',
    ...options.flatMap((each) => ['-co', each]),
    join(folder, 'a.asc'),
    join(folder, 'a.tif'),
  ]);
  return join(folder, 'a.tif');
}
const METRES = { unit: 'metre', epsg: undefined } as const;

describe('LZW', () => {
  test('decodes the worked example of TIFF 6.0, section 13', () => {
    // Codes of 9 bits: clear, 7, 258, 8, 8, 258, 6, end; the characters are 7 7 7 8 8 7 7 6 6 but for the last, which is once here.
    const bits = [256, 7, 258, 8, 8, 258, 6, 6, 257].map((code) => code.toString(2).padStart(9, '0')).join('');
    const bytes = Uint8Array.from(bits.padEnd(Math.ceil(bits.length / 8) * 8, '0').match(/.{8}/g)!, (byte) =>
      parseInt(byte, 2),
    );
    expect([...decodeLzw(bytes)]).toEqual([7, 7, 7, 8, 8, 7, 7, 6, 6]);
  });

  test.each([
    ['noise', (c: number, r: number) => Math.round(1e4 * Math.abs(Math.sin(c * 12.9898 + r * 78.233))) / 100],
    ['a slope', (c: number, r: number) => 30 + c / 8 + r / 16],
    ['one value all over', () => 7.5],
  ])('what GDAL compresses comes back cell for cell: %s', async (_, value) => {
    for (const options of [
      ['COMPRESS=LZW'],
      ['COMPRESS=LZW', 'TILED=YES'],
      ['COMPRESS=LZW', 'PREDICTOR=3'],
      ['COMPRESS=DEFLATE'],
      ['COMPRESS=PACKBITS'],
    ]) {
      const { values, frame } = await readGeoTiffGrid(tiff(300, 200, value, ...options), 'a.tif', METRES);
      expect([frame.columns, frame.rows]).toEqual([300, 200]);
      for (let row = 0; row < 200; row += 7)
        for (let column = 0; column < 300; column += 11)
          expect(values[(199 - row) * 300 + column], options.join()).toBeCloseTo(value(column, row), 3);
    }
  });

  test('damaged codes end, in words or short, and never take more room than their table allows', () => {
    for (let seed = 1; seed <= 3000; seed++) {
      const random = seededRandom(seed);
      const bytes = Uint8Array.from({ length: 200 }, () => Math.floor(random() * 256));
      bytes[0] = 0x80; // begins with a clear code, as all do
      try {
        expect(decodeLzw(bytes).length).toBeLessThan(200 * 4096);
      } catch (error) {
        expect((error as Error).message).toMatch(/LZW code/);
      }
    }
  });
});

describe('a GeoTIFF', () => {
  test('of four million cells in one strip is decoded once', { timeout: 60_000 }, async () => {
    const path = tiff(2000, 2000, (c, r) => ((c * 7 + r * 13) % 97) / 4, 'COMPRESS=DEFLATE', 'BLOCKYSIZE=2000');
    const begun = performance.now();
    const { values } = await readGeoTiffGrid(path, 'a.tif', METRES);
    expect(performance.now() - begun).toBeLessThan(8000);
    expect(values[0]).toBeCloseTo(((1999 * 13) % 97) / 4, 4);
  });

  test('compressed as a picture is refused, and so is one that is cut short', async () => {
    const path = tiff(64, 64, (c) => c, 'COMPRESS=LZW');
    const whole = execFileSync('cat', [path]);
    writeFileSync(join(folder, 'short.tif'), whole.subarray(0, whole.length - 300));
    await expect(readGeoTiffGrid(join(folder, 'short.tif'), 'short.tif', METRES)).rejects.toThrow(
      /breaks off|beyond its end/,
    );
    const jpeg = Buffer.from(whole);
    // The directory's entry of tag 259, compression, becomes 7.
    for (let at = 0; at + 12 < jpeg.length; at++)
      if (jpeg.readUInt16LE(at) === 259 && jpeg.readUInt16LE(at + 2) === 3 && jpeg.readUInt16LE(at + 8) === 5)
        jpeg.writeUInt16LE(7, at + 8);
    writeFileSync(join(folder, 'jpeg.tif'), jpeg);
    await expect(readGeoTiffGrid(join(folder, 'jpeg.tif'), 'jpeg.tif', METRES)).rejects.toThrow(
      /compressed as number 7/,
    );
  });
});
