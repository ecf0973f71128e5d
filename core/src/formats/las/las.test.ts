import { describe, expect, test } from 'vitest';
import { load } from '@loaders.gl/core';
import { LASLoader } from '@loaders.gl/las';
import { Las } from 'copc';
import { createLazPerf } from 'laz-perf';
import { columnsOf, type PointBatch } from '../../cloud/index.js';
import { seededRandom } from '../../task/index.js';
import { bufferSource } from '../byte-source.js';
import { FormatError } from '../format-error.js';
import { lasFile, QUANTISATION, randomPoints } from './las.fixture.js';
import { openLas, writeLas } from './index.js';
import { POINT_FORMATS } from './point-format.js';

const open = (bytes: Uint8Array) => openLas(bufferSource('test.las', bytes));

async function allPoints(bytes: Uint8Array, batchPoints = 1000): Promise<PointBatch[]> {
  const las = await open(bytes);
  const batches: PointBatch[] = [];
  for await (const batch of las.batches({ batchPoints })) batches.push(batch);
  return batches;
}

const refuses = async (bytes: Uint8Array): Promise<FormatError> => {
  const error = await open(bytes).then(
    () => undefined,
    (e: unknown) => e,
  );
  expect(error).toBeInstanceOf(FormatError);
  return error as FormatError;
};

describe('point formats', () => {
  test('record lengths are those of the standard: 20, 28, 26, 34, 57, 63, 30, 36, 38, 59, 67', () => {
    // ASPRS LAS Specification 1.4 R15, tables 7 to 24: sums of the fields of formats 0 to 10.
    expect(POINT_FORMATS.map((format) => format.length)).toEqual([20, 28, 26, 34, 57, 63, 30, 36, 38, 59, 67]);
  });

  for (const format of POINT_FORMATS) {
    test(`format ${format.id} comes back bit for bit, extra bytes included, whatever the batch size`, async () => {
      const points = randomPoints(format.id, 257, { extraBytesLength: 5 });
      const bytes = await lasFile(points, { pointFormat: format.id, extraBytesLength: 5 });
      const read = await allPoints(bytes, 100);
      expect(read.map((batch) => batch.count)).toEqual([100, 100, 57]);
      for (const { name, values } of columnsOf(points)) {
        const joined = read.flatMap((batch) => Array.from(batch[name]! as Uint8Array));
        expect(joined, name).toEqual(Array.from(values as Uint8Array));
      }
      // And the file itself: writing what was read gives the same bytes.
      const las = await open(bytes);
      const [whole] = await allPoints(bytes, 1000);
      expect(
        await lasFile(whole!, { pointFormat: format.id, extraBytesLength: 5, quantisation: las.quantisation }),
      ).toEqual(bytes);
    });
  }

  for (const [version, formats] of [
    ['1.2', [0, 1, 2, 3]],
    ['1.4', [6, 7, 8]],
  ] as const) {
    test(`LAS ${version} files are read equal by loaders.gl`, async () => {
      for (const pointFormat of formats) {
        const points = randomPoints(pointFormat, 50);
        const bytes = await lasFile(points, { pointFormat, version });
        if (pointFormat > 5) continue; // loaders.gl reads formats 0 to 3 unpacked; 6 to 8 are held against copc below
        const mesh = (await load(bytes.slice().buffer, LASLoader, { las: { skip: 1 }, worker: false })) as unknown as {
          header?: { vertexCount: number };
          attributes: {
            POSITION: { value: Float32Array };
            classification: { value: Uint8Array };
            intensity: { value: Uint16Array };
          };
        };
        expect(mesh.attributes.POSITION.value.length).toBe(150);
        // It gives the whole class byte: class in the low five bits, flags above.
        expect(Array.from(mesh.attributes.classification.value, (byte) => byte & 31)).toEqual(
          Array.from(points.classification),
        );
        expect(Array.from(mesh.attributes.intensity.value)).toEqual(Array.from(points.intensity));
        const { scale, offset } = QUANTISATION;
        for (let i = 0; i < 50; i++) {
          // Single precision at 8 million: half a unit.
          expect(
            Math.abs(mesh.attributes.POSITION.value[3 * i]! - (points.x[i]! * scale[0] + offset[0])),
          ).toBeLessThanOrEqual(1);
        }
      }
    });
  }

  for (const pointFormat of [0, 1, 2, 3, 6, 7, 8]) {
    test(`format ${pointFormat} is read equal by the copc library's LAS reader`, async () => {
      const points = randomPoints(pointFormat, 40, { seed: 21 });
      const bytes = await lasFile(points, { pointFormat, version: pointFormat < 6 ? '1.2' : '1.4' });
      const header = Las.Header.parse(bytes);
      expect(header.pointCount).toBe(40);
      expect(header.pointDataRecordFormat).toBe(pointFormat);
      const data = bytes.subarray(header.pointDataOffset);
      const view = Las.View.create(data, header);
      const column = (name: string): number[] => Array.from({ length: 40 }, (_, i) => view.getter(name)(i));
      const { scale, offset } = QUANTISATION;
      const near = (got: number[], want: Int32Array, axis: 0 | 1 | 2): void => {
        for (let i = 0; i < 40; i++) expect(got[i]).toBeCloseTo(want[i]! * scale[axis] + offset[axis], 6);
      };
      near(column('X'), points.x, 0);
      near(column('Y'), points.y, 1);
      near(column('Z'), points.z, 2);
      expect(column('Intensity')).toEqual(Array.from(points.intensity));
      // It turns the older class 12 into its overlap flag.
      expect(column('Classification')).toEqual(
        Array.from(points.classification, (code) => (pointFormat < 6 && code === 12 ? 0 : code)),
      );
      expect(column('ReturnNumber')).toEqual(Array.from(points.returns, (r) => r & 15));
      expect(column('NumberOfReturns')).toEqual(Array.from(points.returns, (r) => r >> 4));
      expect(column('PointSourceId')).toEqual(Array.from(points.pointSourceId));
      if (points.gpsTime) expect(column('GpsTime')).toEqual(Array.from(points.gpsTime));
      if (points.red) expect(column('Red')).toEqual(Array.from(points.red));
      if (points.nearInfrared) expect(column('Infrared')).toEqual(Array.from(points.nearInfrared));
    });
  }

  test('the older class byte gives a 5-bit class and the flags synthetic, key-point, withheld', async () => {
    const points = randomPoints(0, 1);
    points.classification[0] = 2;
    points.flags[0] = 0;
    const bytes = await lasFile(points, { pointFormat: 0, version: '1.2' });
    const at = (await open(bytes)).header.pointDataOffset + 15;
    bytes[at] = 0b1010_0010; // withheld, synthetic, class 2: LAS 1.4 R15, table 8
    const [batch] = await allPoints(bytes);
    expect(batch!.classification[0]).toBe(2);
    expect(batch!.flags[0]! & 7).toBe(0b101);
  });

  test('classes 8 and 12 of the older formats become key-point and overlap flags in format 6', async () => {
    const points = randomPoints(0, 2);
    points.classification.set([8, 12]);
    points.flags.fill(0);
    const [batch] = await allPoints(await lasFile({ ...points, gpsTime: new Float64Array(2) }, { pointFormat: 6 }));
    expect(Array.from(batch!.classification)).toEqual([2, 1]);
    expect(Array.from(batch!.flags)).toEqual([2, 8]);
  });

  test('class 64 does not fit in point formats 0 to 5, and the error says which do', async () => {
    const points = randomPoints(1, 3);
    points.classification[2] = 64;
    await expect(lasFile(points, { pointFormat: 1, version: '1.2' })).rejects.toThrow(
      /Class 64 does not fit.*point format 6, 7 or 8/,
    );
  });

  test('LAS 1.2 has no point format 6', async () => {
    await expect(lasFile(randomPoints(6, 1), { pointFormat: 6, version: '1.2' })).rejects.toMatchObject({
      code: 'point-format-unknown',
    });
  });
});

describe('compressed files (LAZ)', () => {
  test.each([
    [1, 0],
    [3, 0],
    [3, 4],
    [6, 0],
    [7, 0],
    [8, 5],
  ])(
    'a file of format %i with %i extra bytes is read whole by laz-perf, and its chunks are found by its table',
    async (pointFormat, extraBytesLength) => {
      const points = randomPoints(pointFormat, 120_001, { extraBytesLength });
      if (pointFormat > 6) points.flags.forEach((flags, i) => (points.flags[i] = flags & 0xcf));
      const version = pointFormat < 4 ? '1.2' : '1.4';
      const open = await lasFile(points, { pointFormat, extraBytesLength, version });
      const packed = await lasFile(points, { pointFormat, extraBytesLength, version, isCompressed: true });
      const las = await openLas(bufferSource('packed.laz', packed));
      expect(las.warnings).toEqual([]);
      expect(las.chunks!.map((chunk) => chunk.count)).toEqual([50_000, 50_000, 20_001]);
      const { recordLength, pointDataOffset } = (await openLas(bufferSource('open.las', open))).header;

      const lazPerf = await createLazPerf();
      const at = lazPerf._malloc(packed.length);
      const point = lazPerf._malloc(recordLength);
      lazPerf.HEAPU8.set(packed, at);
      const reader = new lazPerf.LASZip();
      reader.open(at, packed.length);
      expect(reader.getCount()).toBe(120_001);
      let differing = 0;
      for (let i = 0; i < 120_001; i++) {
        reader.getPoint(point);
        const from = pointDataOffset + i * recordLength;
        for (let b = 0; b < recordLength; b++) if (lazPerf.HEAPU8[point + b] !== open[from + b]) differing++;
      }
      expect(differing).toBe(0);
      reader.delete();
    },
  );

  test('a damaged chunk table is a typed error, wherever it is bent', async () => {
    const packed = await lasFile(randomPoints(1, 400), { pointFormat: 1, version: '1.2', isCompressed: true });
    const random = seededRandom(3);
    const tableStart = (await openLas(bufferSource('x', packed))).header.pointDataOffset;
    for (let k = 0; k < 1000; k++) {
      const bent = packed.slice(0, random() < 0.3 ? Math.floor(random() * packed.length) : packed.length);
      for (let flips = 0; flips < 3; flips++) {
        const at = random() < 0.5 ? tableStart + Math.floor(random() * 8) : bent.length - 1 - Math.floor(random() * 24);
        if (at >= 0 && at < bent.length) bent[at] = Math.floor(random() * 256);
      }
      try {
        const las = await openLas(bufferSource('bent.laz', bent));
        for (const chunk of las.chunks!) expect(chunk.at + chunk.length).toBeLessThanOrEqual(bent.length);
      } catch (error) {
        expect(error).toBeInstanceOf(FormatError);
      }
    }
  });

  test('colours of several scanner channels go into chunks of their own, so that all decoders agree', async () => {
    const points = randomPoints(7, 1000);
    const packed = await lasFile(points, { pointFormat: 7, isCompressed: true });
    const las = await openLas(bufferSource('packed.laz', packed));
    const perChannel = [0, 1, 2, 3].map((c) => points.flags.filter((flags) => ((flags >> 4) & 3) === c).length);
    expect(las.chunks!.map((chunk) => chunk.count).sort()).toEqual(perChannel.sort());
    expect(las.warnings).toEqual([]);
  });

  test('waveforms cannot be compressed, and the error says what can', async () => {
    await expect(lasFile(randomPoints(9, 2), { pointFormat: 9, isCompressed: true })).rejects.toMatchObject({
      code: 'compressed-points',
      fix: expect.stringContaining('6 to 8') as string,
    });
  });
});

describe('what a file says of itself', () => {
  const wkt =
    'COMPD_CS["made up",PROJCS["NAD83 / Texas Central (ftUS)",GEOGCS["NAD83",DATUM["x",SPHEROID["GRS 1980",6378137,298.257222101]],PRIMEM["Greenwich",0],UNIT["degree",0.0174532925199433]],PROJECTION["Lambert_Conformal_Conic_2SP"],UNIT["US survey foot",0.304800609601219,AUTHORITY["EPSG","9003"]],AUTHORITY["EPSG","2277"]],VERT_CS["NAVD88 height (ftUS)",VERT_DATUM["North American Vertical Datum 1988",2005],UNIT["US survey foot",0.304800609601219],AUTHORITY["EPSG","6360"]]]';

  test('well-known text gives codes and units, across and up', async () => {
    const las = await open(await lasFile(randomPoints(6, 1), { pointFormat: 6, crs: { wkt } }));
    expect(las.crs).toMatchObject({
      epsg: 2277,
      verticalEpsg: 6360,
      horizontalUnit: 'us-survey-foot',
      verticalUnit: 'us-survey-foot',
    });
    expect(las.warnings).toEqual([]);
  });

  test('GeoKeys give the same in LAS 1.2', async () => {
    const crs = { epsg: 2277, horizontalUnit: 'us-survey-foot', verticalUnit: 'international-foot' } as const;
    const las = await open(await lasFile(randomPoints(1, 1), { pointFormat: 1, version: '1.2', crs }));
    expect(las.crs).toMatchObject(crs);
  });

  test('text that is no coordinate system is a warning, not an error', async () => {
    const las = await open(await lasFile(randomPoints(6, 1), { pointFormat: 6, crs: { wkt: 'nothing of the kind' } }));
    expect(las.crs).toBeUndefined();
    expect(las.warnings.map((w) => w.code)).toEqual(['crs-unreadable']);
  });

  test('bounds and counts by return are gathered from the points', async () => {
    const points = randomPoints(6, 3);
    points.returns.set([0x11, 0x22, 0x12]);
    points.x.set([1000, -2000, 500]);
    const { header } = await open(await lasFile(points, { pointFormat: 6 }));
    expect(header.minX).toBeCloseTo(5_511_998, 9);
    expect(header.maxX).toBeCloseTo(5_512_001, 9);
    expect(header.pointCount).toBe(3);
  });
});

describe('damage', () => {
  const good = (): Promise<Uint8Array> =>
    lasFile(randomPoints(6, 20), { pointFormat: 6, crs: { wkt: 'PROJCS["x",AUTHORITY["EPSG","5347"]]' } });
  const damaged = async (at: number, ...values: number[]): Promise<Uint8Array> => {
    const bytes = await good();
    bytes.set(values, at);
    return bytes;
  };
  const float64 = (value: number): number[] => [...new Uint8Array(Float64Array.of(value).buffer)];

  test('a file that is no LAS says what it begins with', async () => {
    expect((await refuses(new TextEncoder().encode('PK\u0003\u0004 a zip file'))).message).toMatch(
      /begins with "PK\?\?"/,
    );
  });

  test('cut short at any byte: a typed error, or the points that are there with a warning', async () => {
    const bytes = await good();
    for (let length = 0; length < bytes.length; length++) {
      try {
        const las = await open(bytes.slice(0, length));
        expect(las.pointCount).toBeLessThan(20);
        expect(las.warnings.map((w) => w.code)).toContain('file-cut-short');
        let count = 0;
        for await (const batch of las.batches()) count += batch.count;
        expect(count).toBe(las.pointCount);
      } catch (error) {
        expect(error).toBeInstanceOf(FormatError);
      }
    }
  });

  test('a header that counts more points than the file holds: those that are there, with a warning', async () => {
    const las = await open(await damaged(247, 255, 255, 255, 255));
    expect(las.pointCount).toBe(20);
    expect(las.warnings[0]).toMatchObject({
      code: 'file-cut-short',
      message: expect.stringContaining('4294967295') as string,
    });
  });

  test.each([
    ['zero points', 247, [0, 0, 0, 0, 0, 0, 0, 0], 'no-points'],
    ['points said to begin inside the header', 96, [10, 0, 0, 0], 'point-offset-wrong'],
    ['points said to begin past the end', 96, [255, 255, 255, 127], 'point-offset-wrong'],
    ['scale zero', 131, float64(0), 'scale-absurd'],
    ['scale not a number', 139, float64(NaN), 'scale-absurd'],
    ['offset infinite', 171, float64(Infinity), 'scale-absurd'],
    ['version 2.7', 24, [2, 7], 'version-unknown'],
    ['point format 42', 104, [42], 'point-format-unknown'],
    ['compressed points without the record that says how', 104, [134], 'chunk-table-wrong'],
    ['records too short for their format', 105, [12, 0], 'record-length-wrong'],
  ] as const)('%s: a typed error with the place', async (_, at, values, code) => {
    const error = await refuses(await damaged(at, ...values));
    expect(error.code).toBe(code);
    expect(error.where).toContain('test.las');
    expect(error.fix).toBeTruthy();
  });

  test('records whose length runs past the points are left out with a warning', async () => {
    const las = await open(await damaged(375 + 20, 255, 255));
    expect(las.warnings.map((w) => w.code)).toEqual(['records-overrun']);
    expect(las.pointCount).toBe(20);
  });

  test('2 000 damaged files, seeded: a typed error or points, never a crash, a hang or runaway memory', async () => {
    const random = seededRandom(20_260_105);
    const originals = await Promise.all(
      [0, 3, 6, 8, 10].map((pointFormat) =>
        lasFile(randomPoints(pointFormat, 60, { extraBytesLength: 3 }), {
          pointFormat,
          extraBytesLength: 3,
          version: pointFormat < 4 ? '1.2' : '1.4',
          crs: { epsg: 5347, wkt: 'PROJCS["x",UNIT["metre",1],AUTHORITY["EPSG","5347"]]' },
        }),
      ),
    );
    const outcomes = { error: 0, points: 0 };
    const begun = performance.now();
    const memoryBefore = process.memoryUsage().rss;
    for (let k = 0; k < 2000; k++) {
      let bytes = originals[k % originals.length]!.slice();
      const headerBytes = 400;
      const kind = Math.floor(random() * 4);
      if (kind === 0) bytes = bytes.slice(0, Math.floor(random() * bytes.length));
      if (kind === 1 || kind === 3)
        for (let flips = 1 + Math.floor(random() * 12); flips > 0; flips--)
          bytes[Math.floor(random() * Math.min(headerBytes, bytes.length))] = Math.floor(random() * 256);
      if (kind === 2 || kind === 3) {
        // Inflate one of the counts, lengths and offsets.
        const at = [94, 96, 100, 105, 107, 235, 243, 247, 395][Math.floor(random() * 9)]!;
        const view = new DataView(bytes.buffer);
        if (at + 4 <= bytes.length) view.setUint32(at, Math.floor(random() * 2 ** 32), true);
      }
      try {
        const las = await open(bytes);
        let count = 0;
        for await (const batch of las.batches()) count += batch.count;
        expect(count).toBe(las.pointCount);
        expect(count).toBeLessThanOrEqual(bytes.length / 20);
        outcomes.points++;
      } catch (error) {
        expect(error, String(error)).toBeInstanceOf(FormatError);
        outcomes.error++;
      }
    }
    expect(outcomes.error + outcomes.points).toBe(2000);
    expect(outcomes.error).toBeGreaterThan(200);
    expect(outcomes.points).toBeGreaterThan(200);
    expect(performance.now() - begun).toBeLessThan(30_000);
    expect(process.memoryUsage().rss - memoryBefore).toBeLessThan(600e6);
  });

  test('cancelling stops a read between batches', async () => {
    const las = await open(await good());
    const signal = { aborted: false };
    const batches = las.batches({ batchPoints: 5, signal });
    await batches.next();
    signal.aborted = true;
    await expect(batches.next()).rejects.toThrow('Cancelled');
  });

  test('an empty cloud is written as a file that says it has no points', async () => {
    const parts: Uint8Array[] = [];
    const count = await writeLas(
      { append: (b) => (parts.push(b), Promise.resolve()), patch: () => Promise.resolve() },
      [],
      { version: '1.4', pointFormat: 6, quantisation: QUANTISATION },
    );
    expect(count).toBe(0);
  });
});
