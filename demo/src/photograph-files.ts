import { mkdir, open, rename, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { seededRandom } from '@pampero/core/task';
import { farm } from './farm/farm.js';
import { CORNER } from './farm/terrain.js';
import { matchPhotos } from './scenes/match-photos.js';

/** How far the matched points lie apart, and how they scatter, metres. */
const [SPACING, NOISE] = [0.4, 0.02];
/** What matching makes of water: anything, and it knows that it does not know. */
const WATER_NOISE = 0.5;
const POINT_BYTES = 3 * 8 + 3 + 4;

/**
 * The reach as photographs see it: a coloured cloud without returns, with a confidence for each point, as binary PLY. Water is
 * noise of low confidence.
 */
export async function writePhotographCloud(
  path: string,
  seed: number,
  extent?: { readonly east: number; readonly north: number },
): Promise<void> {
  const whole = farm(seed);
  const land = { ...whole, extent: extent ?? whole.extent };
  const cloud = matchPhotos(
    {
      ...land,
      flight: { ...land.flight, pointSpacing: SPACING, lineSpacing: SPACING, rangeNoise: NOISE },
      falsePoints: { low: 0, high: 0 },
    },
    seed + 1,
  );
  const random = seededRandom(seed + 2);
  const bytes = new DataView(new ArrayBuffer(cloud.count * POINT_BYTES));
  for (let i = 0; i < cloud.count; i++) {
    const [east, north] = [cloud.x[i]! / 1000, cloud.y[i]! / 1000];
    let z = cloud.z[i]! / 1000;
    let confidence = cloud.classification[i] === 2 ? 6 + 6 * random() : 2.5 + 3 * random();
    const water = land.water(east, north);
    if (z <= water + 0.05) {
      z = water + WATER_NOISE * (random() + random() + random() - 1.5);
      confidence = 0.2 + 1.4 * random();
    }
    const at = i * POINT_BYTES;
    bytes.setFloat64(at, CORNER.easting + east, true);
    bytes.setFloat64(at + 8, CORNER.northing + north, true);
    bytes.setFloat64(at + 16, z, true);
    [cloud.red!, cloud.green!, cloud.blue!].forEach((band, k) => bytes.setUint8(at + 24 + k, band[i]! >> 8));
    bytes.setFloat32(at + 27, confidence, true);
  }
  const head = [
    'ply',
    'format binary_little_endian 1.0',
    'comment made up for the demo',
    `element vertex ${cloud.count}`,
    ...['x', 'y', 'z'].map((name) => `property double ${name}`),
    ...['red', 'green', 'blue'].map((name) => `property uchar ${name}`),
    'property float confidence',
    'end_header\n',
  ].join('\n');
  const file = await open(`${path}.part`, 'w');
  try {
    await file.write(head);
    await file.write(new Uint8Array(bytes.buffer));
  } finally {
    await file.close();
  }
  await rename(`${path}.part`, path);
}

const SEED = 1852;
/** Goes up when what is written changes. */
const EDITION = 1;

/** Makes the photographs' cloud in `folder` unless it is there. */
export async function ensurePhotographs(folder: string): Promise<string> {
  const path = join(folder, `flood-bank-photographs${EDITION > 1 ? `-${EDITION}` : ''}.ply`);
  if (await stat(path).catch(() => undefined)) return path;
  await mkdir(folder, { recursive: true });
  await writePhotographCloud(path, SEED);
  return path;
}
