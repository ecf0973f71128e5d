import { metresPer, type LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import type { GeoreferenceScanParameters } from './operations/align/georeference-scan.js';
import { lengthUnitSchema } from './resources/crs.js';
import { pathText } from './run-sheets/index.js';
import { lineOfText } from './text.js';

export const SENSOR_FORMAT = 'pampero-sensor';
export const SENSOR_VERSION = 1;

const length = z.number().min(-10_000).max(10_000);
const angle = z.number().min(-360).max(360).default(0);
const turned = z.strictObject({ roll: angle, pitch: angle, heading: angle }).prefault({});

/**
 * How a scanner sits on its platform and what it measures by, as a file: JSON, lengths in its unit, angles in degrees. Axes are those of the body:
 * forward, right, down. What is left out is nothing, or what the form begins with.
 */
export const sensorFileSchema = z.strictObject({
  format: z.literal(SENSOR_FORMAT),
  version: z.literal(SENSOR_VERSION),
  name: lineOfText(100).default(''),
  unit: lengthUnitSchema.default('metre'),
  /** From the trajectory's point to the scanner's. */
  leverArm: z
    .strictObject({ forward: length.default(0), right: length.default(0), down: length.default(0) })
    .prefault({}),
  boresight: turned,
  /** How the scanner is turned on its mount, by its drawing. */
  mounting: turned,
  rangeOffset: length.default(0),
  /** Parts per million that ranges are longer by, and scan angles wider. */
  rangeScale: z.number().min(-100_000).max(100_000).default(0),
  angleScale: z.number().min(-100_000).max(100_000).default(0),
  /** Standard deviation of a range. */
  rangeNoise: length.min(0).optional(),
  /** Full angle of the beam, milliradians. */
  beamDivergence: z.number().min(0).max(20).optional(),
  /** The whole of it, degrees: 90 is 45 to either side of straight down. */
  fieldOfView: z.number().min(2).max(360).optional(),
  shortestRange: length.min(0).optional(),
  longestRange: length.min(0).optional(),
});
export type SensorFile = z.infer<typeof sensorFileSchema>;

/** Reads a sensor file. @returns the sensor, or what is wrong with the file, as a sentence */
export function readSensorFile(text: string): { readonly sensor: SensorFile } | { readonly fault: string } {
  let given: unknown;
  try {
    given = JSON.parse(text);
  } catch {
    return { fault: 'This is no sensor file: it is not JSON.' };
  }
  if ((given as { format?: unknown } | null)?.format !== SENSOR_FORMAT)
    return { fault: `This is no sensor file: its "format" is not "${SENSOR_FORMAT}".` };
  const parsed = sensorFileSchema.safeParse(given);
  if (parsed.success) return { sensor: parsed.data };
  const [first] = parsed.error.issues;
  return { fault: `The sensor file cannot be used: ${pathText(first!.path)}: ${first!.message}` };
}

type SensorSettings = Pick<
  GeoreferenceScanParameters,
  | `lever${'Forward' | 'Right' | 'Down'}`
  | `${'boresight' | 'mounting'}${'Roll' | 'Pitch' | 'Heading'}`
  | 'rangeOffset'
  | 'rangeScale'
  | 'angleScale'
  | 'rangeNoise'
  | 'beamDivergence'
  | 'shortest'
  | 'longest'
  | 'widest'
>;

/** A sensor as settings of georeferencing, lengths in the unit of the job; what the file does not say is left out. */
export function settingsOfSensor(sensor: SensorFile, unit: LengthUnit): Partial<SensorSettings> {
  const factor = metresPer(sensor.unit) / metresPer(unit);
  const of = (value: number): number => Number((value * factor).toPrecision(12));
  const { leverArm, boresight, mounting, rangeNoise, beamDivergence, fieldOfView, shortestRange, longestRange } =
    sensor;
  return {
    leverForward: of(leverArm.forward),
    leverRight: of(leverArm.right),
    leverDown: of(leverArm.down),
    boresightRoll: boresight.roll,
    boresightPitch: boresight.pitch,
    boresightHeading: boresight.heading,
    mountingRoll: mounting.roll,
    mountingPitch: mounting.pitch,
    mountingHeading: mounting.heading,
    rangeOffset: of(sensor.rangeOffset),
    rangeScale: sensor.rangeScale,
    angleScale: sensor.angleScale,
    ...(rangeNoise !== undefined && { rangeNoise: of(rangeNoise) }),
    ...(beamDivergence !== undefined && { beamDivergence }),
    ...(fieldOfView !== undefined && { widest: fieldOfView / 2 }),
    ...(shortestRange !== undefined && { shortest: of(shortestRange) }),
    ...(longestRange !== undefined && { longest: of(longestRange) }),
  };
}

/** ... and back. */
export function sensorOfSettings(settings: Partial<SensorSettings>, unit: LengthUnit, name = ''): SensorFile {
  const { rangeNoise, beamDivergence, widest, shortest, longest } = settings;
  const turnedBy = (what: 'boresight' | 'mounting') => ({
    roll: settings[`${what}Roll`] ?? 0,
    pitch: settings[`${what}Pitch`] ?? 0,
    heading: settings[`${what}Heading`] ?? 0,
  });
  return {
    format: SENSOR_FORMAT,
    version: SENSOR_VERSION,
    name,
    unit,
    leverArm: {
      forward: settings.leverForward ?? 0,
      right: settings.leverRight ?? 0,
      down: settings.leverDown ?? 0,
    },
    boresight: turnedBy('boresight'),
    mounting: turnedBy('mounting'),
    rangeOffset: settings.rangeOffset ?? 0,
    rangeScale: settings.rangeScale ?? 0,
    angleScale: settings.angleScale ?? 0,
    ...(rangeNoise !== undefined && { rangeNoise }),
    ...(beamDivergence !== undefined && { beamDivergence }),
    ...(widest !== undefined && { fieldOfView: 2 * widest }),
    ...(shortest !== undefined && { shortestRange: shortest }),
    ...(longest !== undefined && { longestRange: longest }),
  };
}
