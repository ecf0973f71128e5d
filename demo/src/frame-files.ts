import { mkdir, rename, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { axesOf, omegaPhiKappa, type Camera, type Pose } from '@pampero/core/photographs';
import { toDegrees, toRadians } from '@pampero/core/strips';
import { seededRandom } from '@pampero/core/task';
import { zipSync } from 'fflate';
import sharp from 'sharp';
import { farm } from './farm/farm.js';
import { CORNER, EXTENT } from './farm/terrain.js';
import { renderOrthophoto } from './simulation/orthophoto.js';
import { LandPhotographer, type PaintedLand } from './simulation/photograph.js';

const SEED = 1852;
/** Goes up when what is written changes. */
const EDITION = 1;

/** The camera of the demo's photographs: millimetres, micrometres, and a lens that bends a little. */
export const FRAME_CAMERA = { focalLength: 8, pixelSize: 12, k1: -0.06, k2: 0.02, p1: 0.0004, p2: -0.0003 } as const;
const [COLUMNS, ROWS] = [720, 480];
/** Height over the land, and how much photographs overlap along and across. */
const [OVER, ALONG, ACROSS] = [150, 0.6, 0.35];

/** One of the demo's photographs, with what is wrong with its exposure. */
export interface Frame {
  readonly fileName: string;
  readonly pose: Pose;
  readonly light: number;
}

export function frameCamera(): Camera {
  const { focalLength, pixelSize, k1, k2, p1, p2 } = FRAME_CAMERA;
  const focal = focalLength / (pixelSize / 1000);
  return { columns: COLUMNS, rows: ROWS, focal, principalColumn: COLUMNS / 2, principalRow: ROWS / 2, k1, k2, k3: 0, p1, p2 }; // prettier-ignore
}

/** Flight lines to and fro over the farm, as a light aircraft flies them: never quite level, never quite straight. */
export function framePoses(extent = EXTENT): Frame[] {
  const { focal } = frameCamera();
  const random = seededRandom(SEED);
  const [wide, high] = [(COLUMNS / focal) * OVER, (ROWS / focal) * OVER];
  const lines = Math.max(1, Math.ceil((extent.north - wide * ACROSS) / (wide * (1 - ACROSS))));
  const each = Math.max(2, Math.ceil((extent.east - high * ALONG) / (high * (1 - ALONG))) + 1);
  const frames: Frame[] = [];
  for (let line = 0; line < lines; line++)
    for (let k = 0; k < each; k++) {
      const share = (line % 2 === 0 ? k : each - 1 - k) / (each - 1);
      const wander = (): number => random() - 0.5;
      const [roll, pitch] = [toRadians(5 * wander()), toRadians(5 * wander())];
      const heading = toRadians((line % 2 === 0 ? 90 : 270) + 8 * wander());
      frames.push({
        fileName: `frame-${String(frames.length + 1).padStart(3, '0')}.jpg`,
        pose: {
          east: CORNER.easting + share * extent.east + 4 * wander(),
          north: CORNER.northing + ((line + 0.5) / lines) * extent.north + 4 * wander(),
          up: 32 + OVER + 6 * wander(),
          axes: axesOf('platform', roll, pitch, heading),
        },
        light: 0.85 + 0.3 * random(),
      });
    }
  return frames;
}

/** The farm as it is painted for photographs. */
export function paintedFarm(pixel = 0.25): PaintedLand {
  const seen = renderOrthophoto(farm(SEED + 1), { pixel, shift: [0, 0], leans: false });
  return { ...seen, east: CORNER.easting, north: CORNER.northing };
}

/** Photographs of some land as JPEG, with the list of where each was taken, in one zip file. */
export async function packFrames(land: PaintedLand, frames: readonly Frame[]): Promise<Uint8Array> {
  const camera = frameCamera();
  const photographer = new LandPhotographer(land, camera);
  const files: Record<string, Uint8Array> = {};
  for (const { fileName, pose, light } of frames) {
    const raw = photographer.take(pose, light);
    files[fileName] = await sharp(raw, { raw: { width: COLUMNS, height: ROWS, channels: 3 } })
      .jpeg({ quality: 90 })
      .toBuffer();
  }
  const list = frames.map(({ fileName, pose }) =>
    [
      fileName,
      ...[pose.east, pose.north, pose.up].map((value) => value.toFixed(3)),
      ...omegaPhiKappa(pose.axes).map((angle) => toDegrees(angle).toFixed(5)),
    ].join(','),
  );
  files['photographs.csv'] = new TextEncoder().encode(`file,east,north,height,omega,phi,kappa\n${list.join('\n')}\n`);
  // JPEG does not become smaller by being packed; the time that a zip file states would make each another file.
  return zipSync(files, { level: 0, mtime: new Date(2026, 2, 14) });
}

/** Makes the demo's photographs in `folder` unless they are there. */
export async function ensureFrames(folder: string): Promise<string> {
  const path = join(folder, `flood-bank-frames${EDITION > 1 ? `-${EDITION}` : ''}.zip`);
  if (await stat(path).catch(() => undefined)) return path;
  await mkdir(folder, { recursive: true });
  await writeFile(`${path}.part`, await packFrames(paintedFarm(), framePoses()));
  await rename(`${path}.part`, path);
  return path;
}
