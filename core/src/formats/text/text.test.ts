import { describe, expect, test } from 'vitest';
import { PamperoError, seededRandom } from '../../task/index.js';
import { bufferSource } from '../byte-source.js';
import { FormatError } from '../format-error.js';
import type { LoosePoints } from '../loose-points.js';
import { openPly } from '../ply/index.js';
import { guessTextLayout, readTextPoints, type TextLayout, type TextReport } from './index.js';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

async function read(text: string, layout: TextLayout, report?: TextReport): Promise<number[][]> {
  const rows: number[][] = [];
  for await (const batch of readTextPoints(bufferSource('points.txt', bytes(text)), layout, report))
    rows.push(...rowsOf(batch));
  return rows;
}

function rowsOf(batch: LoosePoints): number[][] {
  return Array.from({ length: batch.count }, (_, i) =>
    [
      batch.easting,
      batch.northing,
      batch.elevation,
      batch.intensity,
      batch.red,
      batch.green,
      batch.blue,
      batch.classification,
    ].flatMap((column) => (column ? [column[i]!] : [])),
  );
}

describe('the layout of a text file is guessed', () => {
  test.each([
    ['5512345.678 6150123.456 31.250\n1 2 3', ' ', false, 0, ['easting', 'northing', 'elevation']],
    ['x,y,z,intensity\n1.5,2.5,3.5,700\n4,5,6,8', ',', false, 1, ['easting', 'northing', 'elevation', 'intensity']],
    ['Norte;Este;Cota\n6150123,456;5512345,678;31,25\n1,0;2,0;3,0', ';', true, 1, ['northing', 'easting', 'elevation']],
    [
      '3\n1.0 2.0 3.0 -12 255 0 10\n1.0 2.0 3.5 -9 255 0 10',
      ' ',
      false,
      1,
      ['easting', 'northing', 'elevation', 'intensity', 'red', 'green', 'blue'],
    ],
    [
      '# made up\n//X\tY\tZ\tR\tG\tB\n1.1\t2.2\t3.3\t10\t20\t30',
      '\t',
      false,
      2,
      ['easting', 'northing', 'elevation', 'red', 'green', 'blue'],
    ],
  ] as const)('%j', (text, delimiter, hasDecimalComma, skippedLines, columns) => {
    expect(guessTextLayout(text.split('\n'))).toEqual({ delimiter, hasDecimalComma, skippedLines, columns });
  });

  test('prose is no cloud', () =>
    expect(guessTextLayout(['Dear surveyor,', 'please find the points attached.'])).toBeUndefined());
});

describe('points from text', () => {
  const plain: TextLayout = {
    delimiter: ' ',
    hasDecimalComma: false,
    skippedLines: 0,
    columns: ['easting', 'northing', 'elevation'],
  };

  test('are read to the last digit a double holds, exponents and signs included', async () => {
    expect(await read('5512345.678 6150123.456 -31.250\r\n  1e3\t+2.5E-2   .5\n', plain)).toEqual([
      [5512345.678, 6150123.456, -31.25],
      [1000, 0.025, 0.5],
    ]);
  });

  test('with decimal commas, colours of 8 bits times 257', async () => {
    const layout: TextLayout = {
      delimiter: ';',
      hasDecimalComma: true,
      skippedLines: 1,
      columns: ['northing', 'easting', 'elevation', 'red', 'green', 'blue'],
    };
    expect(await read('N;E;Z;R;G;B\n1,5; 2,5;3;255;0;1', layout)).toEqual([[2.5, 1.5, 3, 65_535, 0, 257]]);
  });

  test('lines that are no points are counted, with the number of the first', async () => {
    const report: TextReport = { skippedLines: 0, firstSkipped: undefined };
    expect(await read('1 2 3\n\n1 2\n4 five 6\n7 8 9', plain, report)).toHaveLength(2);
    expect(report).toEqual({ skippedLines: 2, firstSkipped: 3 });
  });

  test('ten thousand random numbers are read as JavaScript reads them', async () => {
    const random = seededRandom(6);
    const rows = Array.from({ length: 3400 }, () =>
      Array.from({ length: 3 }, () =>
        ((random() - 0.5) * 10 ** Math.floor(random() * 9)).toFixed(Math.floor(random() * 7)),
      ),
    );
    expect(await read(rows.map((row) => row.join(' ')).join('\n'), plain)).toEqual(rows.map((row) => row.map(Number)));
  });

  test('a layout without elevation, or a file without lines, is refused', async () => {
    await expect(read('1 2', { ...plain, columns: ['easting', 'northing'] })).rejects.toThrow(/elevation/);
    await expect(read('x'.repeat(5_000_000), plain)).rejects.toThrow(/not a text file/);
  });
});

describe('PLY', () => {
  const header = (format: string, count: number): string =>
    `ply\nformat ${format} 1.0\ncomment made up\nelement vertex ${count}\nproperty double x\nproperty double y\nproperty float z\nproperty uchar red\nproperty uchar green\nproperty uchar blue\nelement face 0\nproperty list uchar int vertex_indices\nend_header\n`;
  const points = [
    [5_512_345.678, 6_150_123.456, 31.25, 255, 128, 0],
    [1, 2, 3, 4, 5, 6],
  ];
  const wanted = points.map(([x, y, z, r, g, b]) => [x, y, z, r! * 257, g! * 257, b! * 257]);

  function binary(isLittle: boolean): Uint8Array {
    const head = bytes(header(isLittle ? 'binary_little_endian' : 'binary_big_endian', 2));
    const file = new Uint8Array(head.length + 46);
    file.set(head);
    const view = new DataView(file.buffer, head.length);
    points.forEach(([x, y, z, ...rgb], i) => {
      view.setFloat64(i * 23, x!, isLittle);
      view.setFloat64(i * 23 + 8, y!, isLittle);
      view.setFloat32(i * 23 + 16, z!, isLittle);
      rgb.forEach((c, k) => view.setUint8(i * 23 + 20 + k, c));
    });
    return file;
  }

  const readPly = async (file: Uint8Array): Promise<number[][]> => {
    const rows: number[][] = [];
    for await (const batch of (await openPly(bufferSource('cloud.ply', file))).batches()) rows.push(...rowsOf(batch));
    return rows;
  };

  test('binary of both byte orders and ASCII give the same points', async () => {
    expect(await readPly(binary(true))).toEqual(wanted);
    expect(await readPly(binary(false))).toEqual(wanted);
    expect(await readPly(bytes(header('ascii', 2) + points.map((p) => p.join(' ')).join('\n') + '\n'))).toEqual(wanted);
  });

  test('cut short, those that are there come with a warning', async () => {
    const ply = await openPly(bufferSource('cut.ply', binary(true).slice(0, -5)));
    expect([ply.pointCount, ply.warnings.map((w) => w.code)]).toEqual([1, ['file-cut-short']]);
  });

  test('1 000 damaged files, seeded: a typed error or points, never a crash', async () => {
    const random = seededRandom(91);
    const good = binary(true);
    for (let k = 0; k < 1000; k++) {
      const bent = good.slice(0, random() < 0.4 ? Math.floor(random() * good.length) : good.length);
      for (let flips = Math.floor(random() * 6); flips > 0; flips--)
        bent[Math.floor(random() * bent.length)] = Math.floor(random() * 256);
      try {
        expect((await readPly(bent)).length).toBeLessThan(40);
      } catch (error) {
        expect(error).toBeInstanceOf(FormatError);
      }
    }
  });
});

test('1 500 texts bent anywhere, guessed and read: points, nothing, or a typed error', async () => {
  const good =
    'este norte cota\n' +
    Array.from({ length: 40 }, (_, i) => `${5512000 + i * 0.25} ${6150000 - i} ${20 + i / 7}`).join('\n');
  const random = seededRandom(77);
  for (let k = 0; k < 1500; k++) {
    const bytes = Buffer.from(good.slice(0, random() < 0.4 ? Math.floor(random() * good.length) : good.length));
    for (let f = 0; f < 5 && bytes.length > 0; f++)
      bytes[Math.floor(random() * bytes.length)] = Math.floor(random() * 256);
    const layout = guessTextLayout(bytes.toString('latin1').split(/\r?\n/));
    if (!layout) continue;
    try {
      for await (const batch of readTextPoints(bufferSource('bent.txt', bytes), layout))
        for (const column of [batch.easting, batch.northing, batch.elevation])
          expect(column.every(Number.isFinite)).toBe(true);
    } catch (error) {
      expect(error).toBeInstanceOf(PamperoError);
    }
  }
});

test('intensities from -2048, as PTS has them, and from 0 to 1 are brought to 16 bits; colours are settled by the first lines', async () => {
  const read = async (text: string) => {
    const layout = guessTextLayout(text.split('\n'))!;
    for await (const batch of readTextPoints(bufferSource('x.pts', Buffer.from(text)), layout)) return batch;
    throw new Error('no points');
  };
  expect([...(await read('1 2 3 -2048 0 0 255\n1 2 3 2047 1 2 3\n')).intensity!]).toEqual([0, 65_520]);
  expect([...(await read('1 2 3 0.5\n1 2 3 1\n')).intensity!]).toEqual([32_768, 65_535]);
  expect([...(await read('1 2 3 7 0 0 255\n')).blue!]).toEqual([65_535]);
});
