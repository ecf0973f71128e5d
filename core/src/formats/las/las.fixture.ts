import { newPointBatch, type PointBatch } from '../../cloud/index.js';
import { seededRandom } from '../../task/index.js';
import { bufferSink } from '../byte-source.js';
import { POINT_FORMATS, pointColumnsOf } from './point-format.js';
import type { LasWriterOptions } from './las-writer-options.js';
import { writeLas } from './las-writer.js';

export const QUANTISATION = { scale: [0.001, 0.001, 0.01], offset: [5_512_000, 6_150_000, 0] } as const;

/** Random points that use the full range of every field a point format has. */
export function randomPoints(pointFormat: number, count: number, { extraBytesLength = 0, seed = 7 } = {}): PointBatch {
  const format = POINT_FORMATS[pointFormat]!;
  const batch = newPointBatch(count, pointColumnsOf(format, format.length + extraBytesLength));
  const random = seededRandom(seed + pointFormat);
  const upTo = (limit: number): number => Math.floor(random() * limit);
  for (let i = 0; i < count; i++) {
    batch.x[i] = upTo(2 ** 32) - 2 ** 31;
    batch.y[i] = upTo(2 ** 32) - 2 ** 31;
    batch.z[i] = upTo(2 ** 32) - 2 ** 31;
    batch.intensity[i] = upTo(65_536);
    batch.userData[i] = upTo(256);
    batch.pointSourceId[i] = upTo(65_536);
    if (format.isExtended) {
      batch.returns[i] = upTo(256);
      batch.flags[i] = upTo(256);
      // 8 and 12 are reserved there and are rewritten on the way out; they have a test of their own.
      batch.classification[i] = [0, 1, 2, 5, 64, 255][upTo(6)]!;
      batch.scanAngle[i] = upTo(60_001) - 30_000;
    } else {
      batch.returns[i] = upTo(8) | (upTo(8) << 4);
      batch.flags[i] = upTo(8) | (upTo(4) << 6);
      batch.classification[i] = upTo(32);
      batch.scanAngle[i] = Math.round((upTo(181) - 90) / 0.006);
    }
    if (batch.gpsTime) batch.gpsTime[i] = random() * 4e8;
    for (const column of [batch.red, batch.green, batch.blue, batch.nearInfrared]) if (column) column[i] = upTo(65_536);
  }
  for (const column of [batch.wavePacket, batch.extraBytes])
    if (column) for (let i = 0; i < column.length; i++) column[i] = upTo(256);
  return batch;
}

/** A LAS file in memory. */
export async function lasFile(
  points: PointBatch,
  options: Partial<LasWriterOptions> & { pointFormat: number },
): Promise<Uint8Array> {
  const sink = bufferSink();
  await writeLas(sink, [points], {
    version: '1.4',
    quantisation: QUANTISATION,
    created: new Date(Date.UTC(2026, 0, 5)),
    ...options,
  });
  return sink.bytes();
}
