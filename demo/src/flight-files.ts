import { mkdir, rename, stat, writeFile } from 'node:fs/promises';
import { createWriteStream } from 'node:fs';
import { once } from 'node:events';
import { join } from 'node:path';
import { writeTrajectory } from '@pampero/core/formats/trajectory';
import { toDegrees, toRadians } from '@pampero/core/strips';
import { farm } from './farm/farm.js';
import { flyRaw, type FlightErrors, type RawFlight } from './simulation/raw-flight.js';

const SEED = 1907;
const EDITION = 2;

/** What is wrong with the demo's flight, and is to be found again. */
export const FLIGHT_ERRORS: FlightErrors = {
  boresight: [toRadians(0.11), toRadians(-0.08), toRadians(0.15)],
  leverArm: [0.1, -0.05, 0.2],
  stripHeights: [0.03, -0.02, 0.01, 0.05, -0.04],
  heightDrift: 0.01,
  positionNoise: 0.003,
  angleNoise: toRadians(0.0015),
};

export interface FlightFiles {
  readonly trajectory: string;
  /** Times, ranges and angles as the scanner wrote them. */
  readonly scan: string;
}

/** Makes the files of the demo's flight as it was flown, before anything is corrected, unless they are there. */
export async function ensureFlightFiles(folder: string): Promise<FlightFiles> {
  const files = {
    trajectory: join(folder, 'flood-bank-trajectory.csv'),
    scan: join(folder, 'flood-bank-scan.csv'),
  };
  const mark = join(folder, `flight-edition-${EDITION}`);
  if (await stat(mark).catch(() => undefined)) return files;
  await mkdir(folder, { recursive: true });
  const scene = farm(SEED + 1);
  const raw = flyRaw(
    { ...scene, flight: { ...scene.flight, lineSpacing: 0.7, pointSpacing: 0.55 } },
    SEED,
    FLIGHT_ERRORS,
  );
  await writePieces(files.trajectory, writeTrajectory(raw.trajectory));
  await writePieces(files.scan, writeScan(raw));
  await writeFile(mark, '');
  return files;
}

async function writePieces(path: string, pieces: Iterable<string>): Promise<void> {
  const stream = createWriteStream(`${path}.part`);
  for (const piece of pieces) if (!stream.write(piece)) await once(stream, 'drain');
  stream.end();
  await once(stream, 'finish');
  await rename(`${path}.part`, path);
}

/** A raw scan as text: our own open layout, a return a line. */
export function* writeScan(raw: RawFlight): Generator<string> {
  yield 'time,range,across,intensity,return,returns,strip\n';
  let lines = '';
  for (let i = 0; i < raw.count; i++) {
    const byte = raw.returns[i]!;
    lines += `${raw.time[i]!.toFixed(6)},${raw.range[i]!.toFixed(3)},${toDegrees(raw.across[i]!).toFixed(4)},${raw.intensity[i]},${byte & 15},${byte >> 4},${raw.strip[i]! + 1}\n`;
    if (lines.length > 1_000_000) {
      yield lines;
      lines = '';
    }
  }
  yield lines;
}
