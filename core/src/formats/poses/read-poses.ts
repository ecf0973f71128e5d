import type { AngleConvention } from '../../photographs/index.js';
import { wrapAngle } from '../../strips/index.js';
import { FormatError } from '../format-error.js';
import { checkColumnNames, neededColumn, numberOf, UNUSED } from '../number-table/index.js';
import { splitLine } from '../text/index.js';
import { placesOf, turnToGrid, type IntoPlan } from '../trajectory/index.js';

/** A list of photographs: the file of each, and its numbers by name. */
export interface PoseList {
  readonly files: readonly string[];
  readonly columns: Readonly<Record<string, Float64Array>>;
  /** Lines that are none, and the first, counted from 1. */
  readonly skipped: number;
  readonly firstSkipped: number | undefined;
}

const HEADINGS: readonly (readonly [RegExp, string])[] = [
  [/^(file|filename|file_name|image|imagename|photo|photograph|picture|name|label|archivo|foto)(\(.*\))?$/i, 'file'],
  [/^(time|gpstime|gps_time|sow|tow|t|seconds|hora)(\(.*\))?$/i, 'time'],
  [/^(e|x|east|easting|este)(\(.*\))?$/i, 'east'],
  [/^(n|y|north|northing|norte)(\(.*\))?$/i, 'north'],
  [/^(h|z|up|height|elevation|altitude|alt|ellheight|cota|altura)(\(.*\))?$/i, 'height'],
  [/^(lat|latitude|latitud)(\(.*\))?$/i, 'latitude'],
  [/^(lon|long|longitude|longitud)(\(.*\))?$/i, 'longitude'],
  [/^(omega|om|w)(\(.*\))?$/i, 'omega'],
  [/^(phi|p)(\(.*\))?$/i, 'phi'],
  [/^(kappa|k)(\(.*\))?$/i, 'kappa'],
  [/^roll(\(.*\))?$/i, 'roll'],
  [/^pitch(\(.*\))?$/i, 'pitch'],
  [/^(heading|yaw|hdg|azimuth|rumbo)(\(.*\))?$/i, 'heading'],
];
/** Names that columns of a list of photographs may be given. */
export const POSE_NAMES = [...new Set(HEADINGS.map(([, name]) => name))];
const nameOf = (heading: string): string =>
  HEADINGS.find(([pattern]) => pattern.test(heading.replace(/["\s]+/g, '')))?.[1] ?? UNUSED;

const DELIMITERS = [';', '\t', ',', ' '] as const;
const LEAST_COLUMNS = 2;
const unquoted = (cell: string): string => cell.replace(/^"(.*)"$/, '$1');

/**
 * Reads a list of photographs: a line each, with the file's name and numbers.
 * @param names - what each column is, {@link UNUSED} for those not wanted; left out, they are told from the headings
 * @throws FormatError where it is no list, or no heading tells
 */
export function readPoses(text: string, fileName: string, names: readonly string[] | undefined): PoseList {
  if (names) checkColumnNames(names, POSE_NAMES, 'list of photographs');
  const lines = text.split(/\r?\n/);
  const { delimiter, headingLine, found } = layoutOf(lines, fileName, names);
  const isCommaDecimal = delimiter === ';' || delimiter === '\t';
  const files: string[] = [];
  const rows: number[][] = [];
  let [skipped, firstSkipped] = [0, undefined as number | undefined];
  const fileColumn = found.indexOf('file');
  for (let at = headingLine + 1; at < lines.length; at++) {
    const line = lines[at]!;
    if (/^\s*(#|$)/.test(line)) continue;
    const cells = splitLine(line, delimiter).map(unquoted);
    const row = found.map((name, k) => (name === UNUSED || name === 'file' ? 0 : numberOf(cells[k], isCommaDecimal)));
    const file = cells[fileColumn] ?? '';
    if (file === '' || row.some(Number.isNaN)) {
      skipped++;
      firstSkipped ??= at + 1;
      continue;
    }
    files.push(file);
    rows.push(row);
  }
  if (files.length === 0)
    throw new FormatError('not-this-format', {
      what: 'No line holds the file of a photograph and its numbers.',
      where: fileName,
      fix: 'Give a line each: file, east, north, height and three angles; or file and time.',
    });
  const columns: Record<string, Float64Array> = {};
  found.forEach((name, k) => {
    if (name !== UNUSED && name !== 'file') columns[name] = Float64Array.from(rows, (row) => row[k]!);
  });
  return { files, columns, skipped, firstSkipped };
}

/** The delimiter by which a line names columns, and which they are. */
function layoutOf(
  lines: readonly string[],
  fileName: string,
  names: readonly string[] | undefined,
): {
  readonly delimiter: (typeof DELIMITERS)[number];
  readonly headingLine: number;
  readonly found: readonly string[];
} {
  const first = lines.findIndex((line) => line.trim() !== '' && !line.trim().startsWith('#'));
  for (const delimiter of DELIMITERS) {
    if (names) {
      const { length } = splitLine(lines[first] ?? '', delimiter);
      if (length < Math.max(LEAST_COLUMNS, names.length)) continue;
      if (!names.includes('file')) break;
      // Headings are passed over as a line that is none.
      return { delimiter, headingLine: first - 1, found: names };
    }
    for (const at of [first, first - 1].filter((index) => index >= 0)) {
      const found = splitLine(lines[at]!.replace(/^[#/%\s]+/, ''), delimiter).map(nameOf);
      if (found.includes('file') && found.filter((name) => name !== UNUSED).length >= LEAST_COLUMNS)
        return { delimiter, headingLine: at, found };
    }
  }
  throw new FormatError('columns-unknown', {
    what: 'The columns have no headings that tell what they are.',
    where: fileName,
    fix: 'Name the columns in their order, such as "file, east, north, height, omega, phi, kappa"; "-" for one that is not used.',
  });
}

/** How the numbers of a list are meant. */
export interface PoseConvention {
  readonly angles: AngleConvention;
  readonly unit: 'degrees' | 'radians' | 'gon';
  readonly positions: 'projected' | 'geographic';
  readonly north: 'grid' | 'true';
}

/** Places in the job's coordinates, and three angles of each photograph in radians as its convention has them. */
export interface ListedPoses {
  readonly east: Float64Array;
  readonly north: Float64Array;
  readonly up: Float64Array;
  readonly angles: readonly [Float64Array, Float64Array, Float64Array];
}

const RADIANS = { degrees: Math.PI / 180, radians: 1, gon: Math.PI / 200 } as const;
/** A full turn in radians, and a little. */
const MOST_RADIANS = 6.3;

/**
 * Brings a list into the job's coordinates.
 * @param metre - metres that a job unit is: heights of geographic positions are in metres
 * @throws FormatError `columns-missing`, `angles-doubtful`, and as of positions in latitude and longitude
 */
export function posesOf(
  { columns }: PoseList,
  fileName: string,
  { angles: kind, unit, positions, north }: PoseConvention,
  intoPlan: IntoPlan | undefined,
  metre: number,
): ListedPoses {
  const fix = 'Choose how the angles are meant, or name the columns in their order; "-" for one that is not used.';
  const need = (name: string): Float64Array => neededColumn(columns, name, fileName, fix, ['file']);
  const raw =
    kind === 'omega-phi-kappa'
      ? [need('omega'), need('phi'), need('kappa')]
      : [need('roll'), need('pitch'), need('heading')];
  if (unit === 'radians' && raw.some((column) => column.some((value) => Math.abs(value) > MOST_RADIANS)))
    throw new FormatError('angles-doubtful', {
      what: 'Angles go over a full turn in radians: they are degrees or gon.',
      where: fileName,
      fix: 'Choose the unit of the angles.',
    });
  const angles = raw.map((column) => column.map((value) => wrapAngle(value * RADIANS[unit]))) as [
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  const places = placesOf(columns, need, positions, intoPlan, metre, fileName);
  if (north === 'true' && kind !== 'omega-phi-kappa') turnToGrid(angles[2], places, intoPlan, fileName);
  return { east: places.east, north: places.north, up: places.up, angles };
}
