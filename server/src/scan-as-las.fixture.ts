import { newPointBatch } from '@pampero/core/cloud';
import { bufferSink } from '@pampero/core/formats';
import { floatDimensionsRecord, writeLas } from '@pampero/core/formats/las';
import { toDegrees } from '@pampero/core/strips';
import type { RawFlight } from '@pampero/demo';

/** A raw scan in the open layout of LAS with extra bytes; coordinates are of no account. */
export async function scanAsLas(
  raw: Pick<RawFlight, 'count' | 'time' | 'intensity' | 'returns' | 'strip' | 'range' | 'across'>,
  dimensions: readonly string[] = ['range', 'across'],
): Promise<Uint8Array> {
  const sink = bufferSink();
  const columns = { gpsTime: true, rgb: false, nearInfrared: false, wavePacket: false, extraBytesLength: 8 };
  async function* batches() {
    const batch = newPointBatch(raw.count, columns);
    const extra = new DataView(batch.extraBytes!.buffer);
    for (let i = 0; i < raw.count; i++) {
      batch.gpsTime![i] = raw.time[i]!;
      batch.intensity[i] = raw.intensity[i]!;
      batch.returns[i] = raw.returns[i]!;
      batch.pointSourceId[i] = raw.strip[i]! + 1;
      extra.setFloat32(8 * i, raw.range[i]!, true);
      extra.setFloat32(8 * i + 4, toDegrees(raw.across[i]!), true);
    }
    yield batch;
  }
  await writeLas(sink, batches(), {
    version: '1.4',
    pointFormat: 6,
    quantisation: { scale: [0.01, 0.01, 0.01], offset: [0, 0, 0] },
    isStandardGpsTime: true,
    extraBytesLength: 8,
    records: [floatDimensionsRecord(dimensions.map((name) => [name, 'raw scan'] as const))],
    created: new Date(0),
  });
  return sink.bytes();
}
