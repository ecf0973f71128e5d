import { createLazPerf, type LazPerf } from 'laz-perf';
import { beforeAll, describe, expect, test } from 'vitest';
import { seededRandom } from '../../task/index.js';
import { randomPoints } from '../las/las.fixture.js';
import { encodePoints } from '../las/point-record.js';
import { POINT_FORMATS } from '../las/point-format.js';
import { ArithmeticDecoder, IntegerDecoder } from './arithmetic-decoder.js';
import { ArithmeticEncoder, IntegerEncoder } from './arithmetic-encoder.js';
import { encodeLayeredLazChunk } from './laz-layered-encoder.js';
import { encodeLazChunk } from './laz-point-encoder.js';

let lazPerf: LazPerf;
beforeAll(async () => {
  lazPerf = await createLazPerf();
});

/** Decodes with laz-perf, a library that knows nothing of our encoder. */
function decodeWithLazPerf(chunk: Uint8Array, pointFormat: number, recordLength: number, count: number): Uint8Array {
  const at = lazPerf._malloc(chunk.length);
  const point = lazPerf._malloc(recordLength);
  const decoder = new lazPerf.ChunkDecoder();
  lazPerf.HEAPU8.set(chunk, at);
  decoder.open(pointFormat, recordLength, at);
  const records = new Uint8Array(count * recordLength);
  for (let i = 0; i < count; i++) {
    decoder.getPoint(point);
    records.set(lazPerf.HEAPU8.subarray(point, point + recordLength), i * recordLength);
  }
  decoder.delete();
  lazPerf._free(point);
  lazPerf._free(at);
  return records;
}

function records(
  pointFormat: number,
  count: number,
  shape?: (points: ReturnType<typeof randomPoints>) => void,
  extraBytesLength = 0,
): Uint8Array {
  const format = POINT_FORMATS[pointFormat]!;
  const points = randomPoints(pointFormat, count, { seed: 5, extraBytesLength });
  // Beside colours and extra bytes all points of a chunk are of one scanner channel; of format 6 alone they may be of any.
  if (pointFormat > 6 || extraBytesLength > 0) for (let i = 0; i < count; i++) points.flags[i]! &= 0xcf;
  shape?.(points);
  const length = format.length + extraBytesLength;
  const bytes = new Uint8Array(count * length);
  encodePoints(points, format, length, bytes);
  return bytes;
}

function encode(bytes: Uint8Array, pointFormat: number, extraBytesLength = 0): Uint8Array {
  const format = POINT_FORMATS[pointFormat]!;
  const parts = {
    ...(format.rgbAt !== undefined && { rgbAt: format.rgbAt }),
    ...(extraBytesLength > 0 && { extraBytesAt: format.length }),
  };
  const length = format.length + extraBytesLength;
  return format.isExtended
    ? encodeLayeredLazChunk(bytes, length, { ...parts, hasNearInfrared: format.nearInfraredAt !== undefined })
    : encodeLazChunk(bytes, length, {
        ...parts,
        ...(format.gpsTimeAt !== undefined && { gpsTimeAt: format.gpsTimeAt }),
      });
}

describe('compressed chunks', () => {
  for (const pointFormat of [0, 1, 2, 3, 6, 7, 8]) {
    const format = POINT_FORMATS[pointFormat]!;

    test(`format ${pointFormat}: wild points are decoded by laz-perf bit for bit`, () => {
      const bytes = records(pointFormat, 3000);
      const decoded = decodeWithLazPerf(encode(bytes, pointFormat), pointFormat, format.length, 3000);
      expect(Buffer.compare(decoded, bytes)).toBe(0);
    });

    test(`format ${pointFormat}: extra bytes too`, () => {
      const bytes = records(pointFormat, 500, undefined, 3);
      const coded = encode(bytes, pointFormat, 3);
      const decoded = decodeWithLazPerf(coded, pointFormat, format.length + 3, 500);
      expect(Buffer.compare(decoded, bytes)).toBe(0);
    });

    test(`format ${pointFormat}: a scan is decoded bit for bit and is less than half as long`, () => {
      const random = seededRandom(8);
      const bytes = records(pointFormat, 20_000, (points) => {
        for (let i = 0; i < points.count; i++) {
          points.x[i] = i * 40 + Math.floor(random() * 9);
          points.y[i] = Math.floor(i / 200) * 50 + Math.floor(random() * 9);
          points.z[i] = 3000 + Math.floor(random() * 20);
          points.intensity[i] = 500 + Math.floor(random() * 50);
          points.returns[i] = i % 7 === 0 ? 0x21 : 0x11;
          points.flags[i] = 0;
          points.classification[i] = 1;
          points.userData[i] = 0;
          points.pointSourceId[i] = 3;
          points.scanAngle[i] = 0;
          if (points.gpsTime)
            points.gpsTime[i] = i % 5000 === 0 ? 9e7 + i * 3 : points.gpsTime[i - 1]! + (i % 11 === 0 ? 0 : 4e-6);
          if (points.red) for (const c of [points.red, points.green!, points.blue!]) c[i] = 0x4000 + (i % 300);
        }
      });
      const chunk = encode(bytes, pointFormat);
      expect(Buffer.compare(decodeWithLazPerf(chunk, pointFormat, format.length, 20_000), bytes)).toBe(0);
      expect(chunk.length).toBeLessThan(bytes.length / 2);
    });
  }

  test('a chunk of one point is that point', () => {
    const bytes = records(1, 1);
    expect(decodeWithLazPerf(encodeLazChunk(bytes, 28, { gpsTimeAt: 20 }), 1, 28, 1)).toEqual(bytes);
  });
});

test('integers come back as they were coded, whatever was predicted', () => {
  const random = seededRandom(44);
  const numbers = Array.from({ length: 4000 }, () => Math.floor(random() * 2 ** Math.floor(random() * 33)));
  const encoder = new ArithmeticEncoder();
  const integers = new IntegerEncoder(encoder, 32, 2);
  numbers.forEach((value, i) => integers.put(numbers[i - 1] ?? 0, value, i & 1));
  const decoded = new IntegerDecoder(new ArithmeticDecoder(encoder.finish(), 'test'), 2);
  expect(numbers.map((_, i) => decoded.next(numbers[i - 1] ?? 0, i & 1))).toEqual(numbers);
});

test('coded bytes that end early are an error, not a loop', () => {
  const integers = new IntegerDecoder(new ArithmeticDecoder(Uint8Array.of(1, 2, 3, 4, 5), 'test'), 1);
  expect(() => {
    for (let i = 0; i < 1000; i++) integers.next(0, 0);
  }).toThrow(/end after 5/);
});
