import { describe, expect, test } from 'vitest';
import { PamperoError } from '../task/index.js';
import { newPointBatch, type PointBatch } from '../cloud/index.js';
import { readAsciiGrid } from './ascii-grid/index.js';
import { bufferSink, bufferSource } from './byte-source.js';
import { crc32c } from './e57/crc32c.js';
import { openE57, writeE57 } from './e57/index.js';
import { openLas, writeLas } from './las/index.js';
import { readGeoJsonLines } from './lines/index.js';
import { escapeXml } from './xml-text.js';

/*
 * Files whose counts promise more than their bytes can hold: LAS and LAZ after the ASPRS LAS 1.4 R15 and LASzip 3.4 layouts, E57 after
 * ASTM E2807. They have to be refused before anything is made room for.
 */

async function refused(work: () => unknown): Promise<PamperoError> {
  try {
    await work();
  } catch (error) {
    expect(error).toBeInstanceOf(PamperoError);
    return error as PamperoError;
  }
  throw new Error('It was taken.');
}

const COLUMNS = { gpsTime: true, rgb: false, nearInfrared: false, wavePacket: false, extraBytesLength: 0 };

function points(count: number): PointBatch {
  const batch = newPointBatch(count, COLUMNS);
  for (let i = 0; i < count; i++) {
    batch.x[i] = i * 7;
    batch.y[i] = i * 3;
    batch.returns[i] = 0x11;
  }
  return batch;
}
const QUANTISATION = { scale: [0.01, 0.01, 0.01], offset: [0, 0, 0] } as const;

async function laz(): Promise<Uint8Array> {
  const sink = bufferSink();
  await writeLas(sink, [points(500)], {
    version: '1.4',
    pointFormat: 6,
    quantisation: QUANTISATION,
    isCompressed: true,
  });
  return sink.bytes();
}

describe('LAZ', () => {
  test('is what it should be before it is damaged', async () => {
    expect((await openLas(bufferSource('a.laz', await laz()))).chunks).toHaveLength(1);
  });

  test('a chunk of a hundred million points in some kilobytes is not believed', async () => {
    const bytes = await laz();
    const view = new DataView(bytes.buffer);
    // The chunk size of the LASzip record, and the header's two counts.
    const record = bytes.findIndex((_, i) => String.fromCharCode(...bytes.subarray(i, i + 14)) === 'laszip encoded');
    view.setUint32(record - 2 + 54 + 12, 100_000_000, true);
    view.setUint32(107, 100_000_000, true);
    view.setBigUint64(247, 100_000_000n, true);
    const { code, what } = await refused(() => openLas(bufferSource('a.laz', bytes)));
    expect([code, what]).toEqual([
      'chunk-table-wrong',
      expect.stringMatching(/100000000 points in \d+ bytes, which cannot be/),
    ]);
  });

  test('items that do not make up the record are not believed', async () => {
    const bytes = await laz();
    const record = bytes.findIndex((_, i) => String.fromCharCode(...bytes.subarray(i, i + 14)) === 'laszip encoded');
    const items = record - 2 + 54 + 34;
    new DataView(bytes.buffer).setUint16(items + 2, 60_000, true);
    expect((await refused(() => openLas(bufferSource('a.laz', bytes)))).what).toMatch(
      /make up 60000 bytes a point, the header says 30/,
    );
    new DataView(bytes.buffer).setUint16(items - 2, 9000, true);
    expect((await refused(() => openLas(bufferSource('a.laz', bytes)))).what).toMatch(
      /counts 9000 items, and ends after 1/,
    );
  });
});

describe('E57', () => {
  const scan = async (): Promise<Uint8Array> => {
    const sink = bufferSink();
    const options = { name: 'hall', quantisation: QUANTISATION, columns: COLUMNS, isStandardGpsTime: false };

    const batches = (async function* () {
      yield points(300);
    })();
    await writeE57(sink, batches, options);
    return sink.bytes();
  };
  /** Text of the XML changed for another of the same length, and the pages' checksums with it. */
  const changed = (bytes: Uint8Array, from: RegExp, to: (found: string) => string): Uint8Array => {
    const out = Buffer.from(bytes);
    const text = out.toString('latin1');
    const found = from.exec(text)!;
    out.write(to(found[0]).padEnd(found[0].length).slice(0, found[0].length), found.index, 'latin1');
    for (let at = 0; at + 1024 <= out.length; at += 1024)
      out.writeUInt32BE(crc32c(out.subarray(at, at + 1020)), at + 1020);
    return new Uint8Array(out);
  };

  test('a count of records that the file has no room for is refused before anything is read', async () => {
    const whole = await scan();
    expect((await openE57(bufferSource('a.e57', whole))).pointCount).toBe(300);
    const lying = changed(whole, /recordCount="300"/, () => 'recordCount="3e8"');
    const { code, what } = await refused(() => openE57(bufferSource('a.e57', lying)));
    expect([code, what]).toEqual([
      'record-length-wrong',
      expect.stringMatching(/300000000 points of \d+ bits each are stated/),
    ]);
  });

  test('points are handed on in portions', async () => {
    const file = await openE57(bufferSource('a.e57', await scan()));
    let count = 0;
    for await (const batch of file.batches()) count += batch.count;
    expect(count).toBe(300);
  });
});

describe('an ASCII grid', () => {
  const grid = (head: string): string => `${head}\nxllcorner 0\nyllcorner 0\ncellsize 1\n1 2\n3 4\n`;
  test('with a size that cannot be is refused, and not made room for', async () => {
    expect(readAsciiGrid(grid('ncols 2\nnrows 2'), 'a.asc').values).toHaveLength(4);
    for (const [head, what] of [
      ['ncols 1000000000\nnrows 2', /at most 100000000 can be kept/],
      ['ncols 9000\nnrows 9000', /more than the text has room for/],
      ['ncols -2\nnrows -2', /are no counts/],
      ['ncols 2.5\nnrows 2', /are no counts/],
      ['ncols 1e308\nnrows 1e308', /at most|no counts/],
    ] as const)
      expect((await refused(() => readAsciiGrid(grid(head), 'a.asc'))).what, head).toMatch(what);
  });
});

describe('GeoJSON', () => {
  test('null, features without geometry, coordinates that are none: in words, after RFC 7946', async () => {
    const deep = (depth: number): unknown =>
      depth === 0 ? null : { type: 'GeometryCollection', geometries: [deep(depth - 1)] };
    for (const [given, what] of [
      [null, /holds no lines/],
      [5, /holds no lines/],
      [
        { type: 'FeatureCollection', features: [null, { type: 'Feature', geometry: null, properties: null }] },
        /holds no lines/,
      ],
      [{ type: 'FeatureCollection', features: {} }, /no list of coordinates/],
      [{ type: 'MultiLineString' }, /a MultiLineString has no list of coordinates/],
      [{ type: 'MultiPolygon', coordinates: [null] }, /a MultiPolygon has no list/],
      [{ type: 'LineString', coordinates: [[0, 0]] }, /a line has one vertex/],
      [{ type: 'LineString' }, /a line has no vertices/],
      [
        {
          type: 'LineString',
          coordinates: [
            [0, 'x'],
            [1, 1],
          ],
        },
        /vertex 1 of a line is/,
      ],
      [deep(80), /more than 50 deep/],
    ] as const)
      expect(
        (await refused(() => readGeoJsonLines(JSON.stringify(given), 'a.geojson'))).what,
        JSON.stringify(given),
      ).toMatch(what);
  });
});

test('text goes into XML as text: markup, and characters that XML 1.0 has none for', () => {
  expect(escapeXml(`<a href="x">'&\u0000\u0008\ufffe\ud800 ñ 😀</a>`)).toBe(
    '&lt;a href=&quot;x&quot;&gt;&apos;&amp; ñ 😀&lt;/a&gt;',
  );
});
