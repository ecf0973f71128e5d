import { orderedTrajectory, toRadians, wrapAngle, type Trajectory } from '../../strips/index.js';
import { FormatError } from '../format-error.js';
import { neededColumn, type NumberTable } from '../number-table/index.js';

/** How the numbers of a trajectory are meant. */
export interface TrajectoryConvention {
  /** `auto`: degrees where any is larger than a full turn in radians. */
  readonly angles: 'auto' | 'degrees' | 'radians';
  readonly heading: 'grid-north' | 'true-north' | 'yaw';
  readonly roll: 'right-down' | 'left-down';
  readonly pitch: 'nose-up' | 'nose-down';
  readonly positions: 'projected' | 'geographic' | 'geocentric';
}

/** Moves longitudes and latitudes in degrees into the job's eastings and northings, in place. */
export type IntoPlan = (longitude: Float64Array, latitude: Float64Array) => void;

const HEADINGS: readonly (readonly [RegExp, string])[] = [
  [/^(time|gpstime|gps_time|sow|tow|t|seconds|hora)(\(.*\))?$/i, 'time'],
  [/^(e|east|easting|este)(\(.*\))?$/i, 'east'],
  [/^(n|north|northing|norte)(\(.*\))?$/i, 'north'],
  [/^(h|z|up|height|elevation|altitude|alt|ellheight|h-ell|cota|altura)(\(.*\))?$/i, 'height'],
  [/^x(\(.*\))?$/i, 'x'],
  [/^y(\(.*\))?$/i, 'y'],
  [/^(lat|latitude|latitud)(\(.*\))?$/i, 'latitude'],
  [/^(lon|long|longitude|longitud)(\(.*\))?$/i, 'longitude'],
  [/^(roll|omega|r)(\(.*\))?$/i, 'roll'],
  [/^(pitch|phi|p)(\(.*\))?$/i, 'pitch'],
  [/^(heading|hdg|azimuth|course|rumbo)(\(.*\))?$/i, 'heading'],
  [/^(yaw|kappa)(\(.*\))?$/i, 'heading'],
  [/^(sdplan|sd_plan|planaccuracy|sdhoriz)$/i, 'planAccuracy'],
  [/^(sdheight|sd_height|heightaccuracy|sdvert)$/i, 'heightAccuracy'],
  [/^(sdtilt|sd_tilt|tiltaccuracy)$/i, 'tiltAccuracy'],
  [/^(sdheading|sd_heading|headingaccuracy)$/i, 'headingAccuracy'],
];

/** What a column's heading names; undefined where it is none of a trajectory. */
export function trajectoryColumn(heading: string): string | undefined {
  return HEADINGS.find(([pattern]) => pattern.test(heading))?.[1];
}

/** Names that columns of a trajectory may be given. */
export const TRAJECTORY_NAMES = [...new Set(HEADINGS.map(([, name]) => name))];

/** Axes and flattening of GRS 1980, which differs from WGS 84 by a tenth of a millimetre (EPSG ellipsoid 7019, from memory). */
const [MAJOR, FLATTENING] = [6_378_137, 1 / 298.257222101];

/**
 * A trajectory of a table of numbers: positions into the job's coordinates, angles into radians of our signs, records in the order of time.
 * Headings from true north become headings from grid north by the convergence at each place.
 * @param intoPlan - needed for geographic and geocentric positions
 * @param metre - metres that a job unit is: heights of geographic positions are in metres
 * @throws FormatError `columns-missing`, `angles-doubtful`
 */
export function trajectoryOf(
  { columns, count }: NumberTable,
  fileName: string,
  convention: TrajectoryConvention,
  intoPlan: IntoPlan | undefined,
  metre = 1,
): Trajectory {
  const fix = 'Name the columns in their order; "-" for one that is not used.';
  const need = (name: string): Float64Array => neededColumn(columns, name, fileName, fix);
  const time = need('time');
  const [roll, pitch, heading] = angles([need('roll'), need('pitch'), need('heading')], convention.angles, fileName);
  const { east, north, up, longitude, latitude } = placesOf(
    columns,
    need,
    convention.positions,
    intoPlan,
    metre,
    fileName,
  );
  const sign = { roll: convention.roll === 'left-down' ? -1 : 1, pitch: convention.pitch === 'nose-down' ? -1 : 1 };
  for (let i = 0; i < count; i++) {
    roll[i]! *= sign.roll;
    pitch[i]! *= sign.pitch;
    if (convention.heading === 'yaw') heading[i] = Math.PI / 2 - heading[i]!;
    heading[i] = wrapAngle(heading[i]!);
  }
  if (convention.heading === 'true-north')
    turnToGrid(heading, { east, north, longitude, latitude }, intoPlan, fileName);
  const accuracy = (name: string, isAngle: boolean): Float64Array | undefined => {
    const column = columns[name];
    return column && isAngle && isDegrees(convention.angles, [need('roll'), need('pitch'), need('heading')])
      ? column.map(toRadians)
      : column;
  };
  const [planAccuracy, heightAccuracy] = [accuracy('planAccuracy', false), accuracy('heightAccuracy', false)];
  const [tiltAccuracy, headingAccuracy] = [accuracy('tiltAccuracy', true), accuracy('headingAccuracy', true)];
  return orderedTrajectory({
    time,
    east,
    north,
    up,
    roll,
    pitch,
    heading,
    ...(planAccuracy && { planAccuracy }),
    ...(heightAccuracy && { heightAccuracy }),
    ...(tiltAccuracy && { tiltAccuracy }),
    ...(headingAccuracy && { headingAccuracy }),
  });
}

/** A full turn in radians, and a little. */
const MOST_RADIANS = 6.3;
/** Level flight does not tilt so far. */
const MOST_TILT = 1.2;

function isDegrees(given: TrajectoryConvention['angles'], columns: readonly Float64Array[]): boolean {
  return (
    given === 'degrees' ||
    (given === 'auto' && columns.some((column) => column.some((v) => Math.abs(v) > MOST_RADIANS)))
  );
}

function angles(
  columns: readonly [Float64Array, Float64Array, Float64Array],
  given: TrajectoryConvention['angles'],
  fileName: string,
): [Float64Array, Float64Array, Float64Array] {
  const degrees = isDegrees(given, columns);
  const out = columns.map((column) => (degrees ? column.map(toRadians) : Float64Array.from(column)));
  const tilted = [out[0]!, out[1]!].some((column) => column.some((value) => Math.abs(value) > MOST_TILT));
  if (tilted)
    throw new FormatError('angles-doubtful', {
      what: degrees
        ? 'Roll or pitch goes over 70 degrees: no survey flight tilts so far.'
        : 'Read as radians, roll or pitch goes over 1.2 (70 degrees): the angles may be degrees.',
      where: fileName,
      fix: 'Check which column is which, and the unit of the angles.',
    });
  return out as [Float64Array, Float64Array, Float64Array];
}

/** Eastings, northings and heights of a table whose positions are meant in one of three ways. */
export function placesOf(
  columns: NumberTable['columns'],
  need: (name: string) => Float64Array,
  positions: TrajectoryConvention['positions'],
  intoPlan: IntoPlan | undefined,
  metre: number,
  fileName: string,
) {
  if (positions === 'projected') {
    const [east, north] = [columns['east'] ?? need('x'), columns['north'] ?? need('y')];
    return { east, north, up: need('height'), longitude: undefined, latitude: undefined };
  }
  if (!intoPlan)
    throw new FormatError('system-missing', {
      what: 'The job has no coordinate system, so longitudes and latitudes have no place in it.',
      where: fileName,
      fix: 'Give the job its system, or a trajectory in the coordinates of the job.',
    });
  const { longitude, latitude, height } =
    positions === 'geographic'
      ? { longitude: need('longitude'), latitude: need('latitude'), height: need('height') }
      : fromGeocentric(need('x'), need('y'), columns['z'] ?? need('height'));
  if (longitude.some((v) => Math.abs(v) > 360) || latitude.some((v) => Math.abs(v) > 90))
    throw new FormatError('positions-doubtful', {
      what: 'Longitudes over 360 or latitudes over 90 degrees: these are not geographic positions.',
      where: fileName,
      fix: 'Say that positions are projected, or check which column is which.',
    });
  const [east, north] = [Float64Array.from(longitude), Float64Array.from(latitude)];
  intoPlan(east, north);
  return { east, north, up: height.map((value) => value / metre), longitude, latitude };
}

/** Geographic places of geocentric ones (Bowring 1976, iterated; to less than a micrometre within a few kilometres of the ground). */
export function fromGeocentric(
  x: Float64Array,
  y: Float64Array,
  z: Float64Array,
): { readonly longitude: Float64Array; readonly latitude: Float64Array; readonly height: Float64Array } {
  const square = FLATTENING * (2 - FLATTENING);
  const longitude = new Float64Array(x.length);
  const latitude = new Float64Array(x.length);
  const height = new Float64Array(x.length);
  for (let i = 0; i < x.length; i++) {
    const flat = Math.hypot(x[i]!, y[i]!);
    let phi = Math.atan2(z[i]!, flat * (1 - square));
    for (let round = 0; round < 6; round++) {
      const normal = MAJOR / Math.sqrt(1 - square * Math.sin(phi) ** 2);
      phi = Math.atan2(z[i]! + square * normal * Math.sin(phi), flat);
    }
    longitude[i] = (Math.atan2(y[i]!, x[i]!) * 180) / Math.PI;
    latitude[i] = (phi * 180) / Math.PI;
    height[i] = flat * Math.cos(phi) + z[i]! * Math.sin(phi) - MAJOR * Math.sqrt(1 - square * Math.sin(phi) ** 2);
  }
  return { longitude, latitude, height };
}

/** Headings from true north less the convergence are headings from grid north; in place. */
export function turnToGrid(
  heading: Float64Array,
  at: {
    readonly east: Float64Array;
    readonly north: Float64Array;
    readonly longitude: Float64Array | undefined;
    readonly latitude: Float64Array | undefined;
  },
  intoPlan: IntoPlan | undefined,
  fileName: string,
): void {
  if (!at.longitude || !at.latitude || !intoPlan)
    throw new FormatError('convergence-unknown', {
      what: 'Headings from true north can be turned to the grid only with geographic or geocentric positions.',
      where: fileName,
      fix: 'Give the trajectory with longitudes and latitudes, or headings from grid north.',
    });
  // A step of a ten-thousandth of a degree to the north: its direction in the plane is that of true north.
  const east = Float64Array.from(at.longitude);
  const north = at.latitude.map((value) => value + 1e-4);
  intoPlan(east, north);
  for (let i = 0; i < heading.length; i++)
    heading[i] = wrapAngle(heading[i]! + Math.atan2(east[i]! - at.east[i]!, north[i]! - at.north[i]!));
}
