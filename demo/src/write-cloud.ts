import { open, rename } from 'node:fs/promises';
import { slicePoints, type PointBatch, type Quantisation } from '@pampero/core/cloud';
import { writeLas, type LasWriterOptions } from '@pampero/core/formats/las';

const CREATED = new Date(Date.UTC(2026, 2, 14));

/** Writes a cloud as LAS 1.4; a kill halfway leaves no half file. */
export async function writeCloud(
  path: string,
  cloud: PointBatch,
  quantisation: Quantisation,
  crs?: LasWriterOptions['crs'],
): Promise<void> {
  const file = await open(`${path}.part`, 'w');
  try {
    await writeLas(
      {
        append: async (bytes) => void (await file.write(bytes)),
        patch: async (position, bytes) => void (await file.write(bytes, 0, bytes.length, position)),
      },
      slices(cloud, 65_536),
      {
        version: '1.4',
        pointFormat: 6,
        quantisation,
        ...(crs && { crs }),
        isStandardGpsTime: true,
        created: CREATED,
      },
    );
  } finally {
    await file.close();
  }
  await rename(`${path}.part`, path);
}

function* slices(cloud: PointBatch, size: number): Generator<PointBatch> {
  for (let first = 0; first < cloud.count; first += size) {
    yield slicePoints(cloud, first, Math.min(cloud.count, first + size));
  }
}
