import { mkdir, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { lengthUnits } from '@pampero/core/geodesy';
import { gatherPoints, type PointBatch } from '@pampero/core/cloud';
import { pnezd, surveyedPoints, type SurveyedPoint } from './farm/control.js';
import { farm } from './farm/farm.js';
import { CORNER } from './farm/terrain.js';
import { flyLidar } from './simulation/lidar-flight.js';
import { writeCloud } from './write-cloud.js';

const SEED = 1861;
/** Goes up when what is written changes. */
const EDITION = 2;
/** The yard of the farm and the land about it, metres from the farm's corner. */
const [WEST, SOUTH, EAST, NORTH] = [110, 210, 330, 405];
/** Where that corner lies on a grid of its own, feet: no system of any country. */
const [EASTING, NORTHING] = [10_000, 5_000];
/** Thousandths of a foot. */
const QUANTISATION = { scale: [0.001, 0.001, 0.001], offset: [EASTING, NORTHING, 0] } as const;
/** Strips over the yard, of the farm's five the last. */
const STRIPS = 3;
const FOOT = lengthUnits['us-survey-foot'].metres;

export interface FeetFiles {
  readonly lidar: string;
  readonly check: string;
}

/** Makes the files of the demo's job in US survey feet unless they are there. */
export async function ensureFeetFiles(folder: string): Promise<FeetFiles> {
  const files = { lidar: join(folder, 'yard-feet.las'), check: join(folder, 'yard-feet-check-points.csv') };
  const mark = join(folder, `feet-edition-${EDITION}`);
  if (await stat(mark).catch(() => undefined)) return files;
  await mkdir(folder, { recursive: true });
  const whole = farm(SEED + 1);
  const cloud = flyLidar({ ...whole, flight: { ...whole.flight, strips: whole.flight.strips.slice(-STRIPS) } }, SEED);
  await writeCloud(files.lidar, inFeet(cloud), QUANTISATION);
  const inside = surveyedPoints(SEED).check.filter(
    ({ easting: e, northing: n }) => e > CORNER.easting + WEST && e < CORNER.easting + EAST && n > CORNER.northing + SOUTH && n < CORNER.northing + NORTH, // prettier-ignore
  );
  await writeFile(files.check, pnezd(inside.map(pointInFeet)));
  await writeFile(mark, '');
  return files;
}

const east = (metres: number): number => EASTING + (metres - WEST) / FOOT;
const north = (metres: number): number => NORTHING + (metres - SOUTH) / FOOT;

function pointInFeet({ easting, northing, elevation, ...point }: SurveyedPoint): SurveyedPoint {
  return { ...point, easting: east(easting - CORNER.easting), northing: north(northing - CORNER.northing), elevation: elevation / FOOT }; // prettier-ignore
}

/** The yard's points, with nothing classed. */
function inFeet(cloud: PointBatch): PointBatch {
  const chosen: number[] = [];
  for (let i = 0; i < cloud.count; i++) {
    const [e, n] = [cloud.x[i]! / 1000, cloud.y[i]! / 1000];
    if (e >= WEST && e < EAST && n >= SOUTH && n < NORTH) chosen.push(i);
  }
  const out = gatherPoints(cloud, Uint32Array.from(chosen));
  for (let i = 0; i < out.count; i++) {
    out.x[i] = Math.round((east(out.x[i]! / 1000) - EASTING) * 1000);
    out.y[i] = Math.round((north(out.y[i]! / 1000) - NORTHING) * 1000);
    out.z[i] = Math.round(out.z[i]! / FOOT);
    out.classification[i] = 1;
    if (out.pointSourceId[i]! > STRIPS) out.pointSourceId[i] = 1;
  }
  return out;
}
