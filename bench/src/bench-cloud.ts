import { open } from 'node:fs/promises';
import { newPointBatch, type PointBatch } from '@pampero/core/cloud';
import { writeLas } from '@pampero/core/formats/las';
import { seededRandom } from '@pampero/core/task';

export const BENCH_QUANTISATION = { scale: [0.001, 0.001, 0.001], offset: [5_500_000, 6_100_000, 0] } as const;

/** Points a square metre: what a drone flight brings. */
const DENSITY = 12;
const BATCH = 65_536;

/**
 * Batches of a rolling landscape with woods, flown in parallel strips as a scanner would, so that neighbours in the file are
 * neighbours on the ground. Seeded; millions of points a second.
 * @param overlap - share of its width by which a strip reaches over the next
 */
export function* benchPoints(count: number, seed = 3, overlap = 0): Generator<PointBatch> {
  const random = seededRandom(seed);
  const side = Math.sqrt(count / DENSITY);
  const strips = Math.max(1, Math.round(side / 100));
  const perStrip = Math.ceil(count / strips);
  const width = side / strips;
  for (let first = 0; first < count; first += BATCH) {
    const size = Math.min(BATCH, count - first);
    const batch = newPointBatch(size, {
      gpsTime: true,
      rgb: false,
      nearInfrared: false,
      wavePacket: false,
      extraBytesLength: 0,
    });
    for (let i = 0; i < size; i++) {
      const k = first + i;
      const strip = Math.floor(k / perStrip);
      const along = (k - strip * perStrip) / perStrip;
      const north = (strip % 2 === 0 ? along : 1 - along) * side;
      const east = (strip + random() * (1 + overlap)) * width;
      const ground = 100 + 12 * Math.sin(east / 140) * Math.cos(north / 170) + 1.5 * Math.sin(east / 17 + north / 23);
      const isTree = Math.sin(east / 31) * Math.sin(north / 27) > 0.35 && random() < 0.6;
      batch.x[i] = Math.round(east * 1000);
      batch.y[i] = Math.round(north * 1000);
      batch.z[i] = Math.round((ground + (isTree ? 14 * Math.sqrt(random()) : 0.03 * (random() - 0.5))) * 1000);
      batch.intensity[i] = 8000 + Math.floor(random() * 20_000);
      batch.returns[i] = isTree ? 0x21 : 0x11;
      batch.classification[i] = 1;
      batch.pointSourceId[i] = 1 + strip;
      batch.scanAngle[i] = Math.round(((east % width) / width - 0.5) * 8000);
      batch.gpsTime![i] = 3e8 + k * 5e-6;
    }
    yield batch;
  }
}

/** Writes a LAS file of so many points; LAZ where asked, in a format that can be compressed. */
export async function writeBenchFile(
  path: string,
  count: number,
  { isCompressed = false, overlap = 0 } = {},
): Promise<void> {
  const file = await open(path, 'w');
  let at = 0;
  try {
    await writeLas(
      {
        append: async (bytes) => {
          await file.write(bytes, 0, bytes.length, at);
          at += bytes.length;
        },
        patch: async (position, bytes) => void (await file.write(bytes, 0, bytes.length, position)),
      },
      benchPoints(count, 3, overlap),
      {
        ...(isCompressed ? { version: '1.2', pointFormat: 1, isCompressed } : { version: '1.4', pointFormat: 6 }),
        quantisation: BENCH_QUANTISATION,
        isStandardGpsTime: true,
        created: new Date(Date.UTC(2026, 0, 1)),
      },
    );
  } finally {
    await file.close();
  }
}
