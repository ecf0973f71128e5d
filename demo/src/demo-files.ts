import { mkdir, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { deflateSync } from 'node:zlib';
import { writeGeoTiff } from '@pampero/core/formats/geotiff';
import { pnezd, surveyedPoints } from './farm/control.js';
import { writeGtx } from '@pampero/core/geodesy';
import { madeUpGeoid } from './farm/geoid.js';
import { farm, flyFarm } from './farm/farm.js';
import { CORNER } from './farm/terrain.js';
import { renderOrthophoto } from './simulation/orthophoto.js';
import { QUANTISATION } from './simulation/lidar-flight.js';
import { writeCloud } from './write-cloud.js';

const SEED = 1852;
/** Goes up when the generator's output changes, so that an old folder is made anew. */
const EDITION = 5;
/** How far the orthophoto is laid aside, metres east and north: for the shift check to find. */
export const ORTHOPHOTO_SHIFT = [1.35, -0.8] as const;
const ORTHOPHOTO_PIXEL = 0.2;
const WKT_5347 =
  'PROJCS["POSGAR 2007 / Argentina 5",GEOGCS["POSGAR 2007",DATUM["Posiciones_Geodesicas_Argentinas_2007",SPHEROID["GRS 1980",6378137,298.257222101]],PRIMEM["Greenwich",0],UNIT["degree",0.0174532925199433],AUTHORITY["EPSG","5340"]],PROJECTION["Transverse_Mercator"],PARAMETER["latitude_of_origin",-90],PARAMETER["central_meridian",-60],PARAMETER["scale_factor",1],PARAMETER["false_easting",5500000],PARAMETER["false_northing",0],UNIT["metre",1,AUTHORITY["EPSG","9001"]],AUTHORITY["EPSG","5347"]]';
const CRS = { wkt: WKT_5347, epsg: 5347 };

export interface DemoFiles {
  readonly lidar: string;
  /** The same points in the same order with their true classes. */
  readonly truth: string;
  readonly control: string;
  readonly check: string;
  /** A made-up geoid grid, GTX. */
  readonly geoid: string;
  /** GeoTIFF; it lies aside by {@link ORTHOPHOTO_SHIFT}. */
  readonly orthophoto: string;
}

/** Makes the demo's files in `folder` unless this edition of them is there; a kill halfway leaves no half file. */
export async function ensureDemoFiles(folder: string): Promise<DemoFiles> {
  const files: DemoFiles = {
    lidar: join(folder, 'flood-bank-lidar.las'),
    truth: join(folder, 'flood-bank-lidar-truth.las'),
    control: join(folder, 'control-points.csv'),
    check: join(folder, 'check-points.csv'),
    geoid: join(folder, 'made-up-geoid.gtx'),
    orthophoto: join(folder, 'flood-bank-orthophoto.tif'),
  };
  const mark = join(folder, `edition-${EDITION}`);
  if (await stat(mark).catch(() => undefined)) return files;
  await mkdir(folder, { recursive: true });
  const cloud = flyFarm(SEED);
  await writeCloud(files.truth, cloud, QUANTISATION, CRS);
  await writeCloud(files.lidar, { ...cloud, classification: new Uint8Array(cloud.count).fill(1) }, QUANTISATION, CRS);
  const { control, check } = surveyedPoints(SEED + 7);
  await writeFile(files.control, pnezd(control));
  await writeFile(files.check, pnezd(check));
  await writeFile(files.geoid, writeGtx(madeUpGeoid()));
  await writeFile(files.orthophoto, orthophoto());
  await writeFile(mark, '');
  return files;
}

function orthophoto(): Uint8Array {
  const options = { pixel: ORTHOPHOTO_PIXEL, shift: ORTHOPHOTO_SHIFT, leans: true };
  const { rgb, frame } = renderOrthophoto(farm(SEED + 1), options);
  const placed = { ...frame, east: CORNER.easting, north: CORNER.northing };
  return writeGeoTiff(rgb, placed, { epsg: 5347, deflate: (bytes) => deflateSync(bytes) });
}
