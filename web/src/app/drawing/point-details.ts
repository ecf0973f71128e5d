import { SCAN_ANGLE_STEP } from '@pampero/core/cloud';
import type { ColumnKey } from './column-key';
import type { PickedPoint, PointDetails } from './viewer-questions';
import type { NodeCache } from './node-cache';

/** All that is known of a point; what its cloud does not have is left out. */
export async function pointDetails(
  cache: NodeCache,
  { nodeId, index }: PickedPoint,
): Promise<PointDetails | undefined> {
  const cached = cache.get(nodeId);
  if (!cached) return undefined;
  const { columns } = cached.cloud;
  await Promise.all(columns.map((key) => cache.fetchColumn(cached, key)));
  const of = <T>(key: ColumnKey, read: (bytes: ArrayBuffer) => T): T | undefined => {
    const bytes = columns.includes(key) ? cached.columns.get(key) : undefined;
    return bytes && read(bytes);
  };
  const returns = of('returns', (bytes) => new Uint8Array(bytes)[index]!);
  const { count } = cached.node;
  const details = {
    flags: cached.flags[index]!,
    intensity: of('intensity', (bytes) => new Uint16Array(bytes)[index]!),
    returnNumber: returns && returns & 15,
    returns: returns && returns >> 4,
    scanAngle: of('scanAngle', (bytes) => new Int16Array(bytes)[index]! * SCAN_ANGLE_STEP),
    strip: of('pointSourceId', (bytes) => new Uint16Array(bytes)[index]!),
    gpsTime: of('gpsTime', (bytes) => new Float64Array(bytes)[index]!),
    confidence: of('confidence', (bytes) => new Float32Array(bytes)[index]!),
    accuracy: of('accuracy', (bytes) => new Float32Array(bytes)[index]!),
    rgb: of('colour', (bytes) => {
      const bands = new Uint16Array(bytes);
      return [0, 1, 2].map((band) => bands[band * count + index]! >> 8);
    }),
  };
  return Object.fromEntries(
    Object.entries(details).filter(([, value]) => value !== undefined),
  ) as unknown as PointDetails;
}
