import { columnFrom } from '../../columns/index.js';
import { checkCancelled } from '../../task/index.js';
import type { ByteSource } from '../byte-source.js';
import { FormatError } from '../format-error.js';
import { EIGHT_TO_SIXTEEN } from '../../imagery/colour-depth.js';
import type { LoosePoints } from '../loose-points.js';
import { TEXT_COLUMNS, type TextColumn, type TextLayout } from './text-layout.js';

const READ_BYTES = 4 * 1024 * 1024;
const LONGEST_LINE = 65_536;
const NEW_LINE = 10;

export interface TextReport {
  /** Lines that are no points, and the first of them: counted from 1. */
  skippedLines: number;
  firstSkipped: number | undefined;
}

/**
 * Reads points from text, some megabytes at a time. Lines that are no points are passed over and counted in `report`.
 * The first some thousand lines settle what the numbers mean: colours up to 255 are of 8 bits; intensities are of 16, or run
 * from 0 to 1, or from -2048 as PTS files have them (common practice, no source).
 * @throws FormatError where the layout lacks a coordinate or the file is no text
 */
export async function* readTextPoints(
  source: ByteSource,
  layout: TextLayout,
  report: TextReport = { skippedLines: 0, firstSkipped: undefined },
  signal?: { readonly aborted: boolean },
): AsyncGenerator<LoosePoints> {
  for (const column of ['easting', 'northing', 'elevation'] as const) {
    if (!layout.columns.includes(column)) {
      throw new FormatError('not-this-format', {
        what: `No column holds the ${column}.`,
        where: source.name,
        fix: 'Say which column it is.',
      });
    }
  }
  let rest = new Uint8Array(0);
  let scales: Scales | undefined;
  let line = 0;
  for (let at = 0; at < source.size;) {
    checkCancelled(signal);
    const read = await source.read(at, Math.min(source.size, at + READ_BYTES));
    if (read.length === 0) break;
    at += read.length;
    const bytes = new Uint8Array(rest.length + read.length);
    bytes.set(rest);
    bytes.set(read, rest.length);
    const isLast = at >= source.size;
    const end = isLast ? bytes.length : bytes.lastIndexOf(NEW_LINE) + 1;
    if (end === 0 && bytes.length > LONGEST_LINE) {
      throw new FormatError('not-this-format', {
        what: `There is a line of more than ${LONGEST_LINE} bytes: this is not a text file of points.`,
        where: `${source.name}, line ${line + 1}`,
        fix: 'Choose another file.',
      });
    }
    rest = bytes.slice(end);
    const { rows, lines } = parseLines(bytes.subarray(0, end), layout, line, report);
    line += lines;
    if (rows.count === 0) continue;
    scales ??= scalesOf(rows);
    yield asPoints(rows, layout, scales);
  }
}

/** Values as they are written, a column each, in the order of {@link PLACES}. */
interface Rows {
  readonly count: number;
  readonly values: readonly Float64Array[];
}

const PLACES: readonly TextColumn[] = TEXT_COLUMNS.filter((column) => column !== 'none');

interface Scales {
  readonly colour: number;
  readonly intensity: { readonly factor: number; readonly shift: number };
}

/** PTS intensities: -2048 to 2047. */
const LEAST_PTS_INTENSITY = -2048;

function scalesOf({ values, count }: Rows): Scales {
  let [largestColour, least, most] = [0, 0, 0];
  for (let i = 0; i < count; i++) {
    largestColour = Math.max(largestColour, values[4]![i]!, values[5]![i]!, values[6]![i]!);
    least = Math.min(least, values[3]![i]!);
    most = Math.max(most, values[3]![i]!);
  }
  return {
    colour: largestColour <= 255 ? EIGHT_TO_SIXTEEN : 1,
    intensity:
      least < 0 && least >= LEAST_PTS_INTENSITY
        ? { factor: 16, shift: -LEAST_PTS_INTENSITY }
        : { factor: most > 0 && most <= 1 ? 65_535 : 1, shift: 0 },
  };
}

function asPoints({ count, values }: Rows, { columns }: TextLayout, scales: Scales): LoosePoints {
  const has = (name: TextColumn): boolean => columns.includes(name);
  const sixteen = (k: number, factor: number, shift = 0): Uint16Array =>
    columnFrom(Uint16Array, values[k]!.subarray(0, count), (v) =>
      Math.max(0, Math.min(65_535, Math.round((v + shift) * factor))),
    );
  return {
    count,
    easting: values[0]!.subarray(0, count),
    northing: values[1]!.subarray(0, count),
    elevation: values[2]!.subarray(0, count),
    ...(has('intensity') && { intensity: sixteen(3, scales.intensity.factor, scales.intensity.shift) }),
    ...(has('red') && {
      red: sixteen(4, scales.colour),
      green: sixteen(5, scales.colour),
      blue: sixteen(6, scales.colour),
    }),
    ...(has('class') && { classification: Uint8Array.from(values[7]!.subarray(0, count)) }),
    ...(has('confidence') && { confidence: Float32Array.from(values[8]!.subarray(0, count)) }),
  };
}

/** Parses whole lines of bytes; numbers are read without making strings of them. */
function parseLines(
  bytes: Uint8Array,
  layout: TextLayout,
  firstLine: number,
  report: TextReport,
): { rows: Rows; lines: number } {
  const capacity = countLines(bytes);
  const wanted = layout.columns.map((name) => PLACES.indexOf(name));
  const values = Array.from({ length: PLACES.length }, () => new Float64Array(capacity));
  const delimiter = layout.delimiter.charCodeAt(0);
  const isSpaced = layout.delimiter === ' ';
  const decimal = layout.hasDecimalComma ? 44 : 46;
  const row = new Float64Array(PLACES.length);
  let count = 0;
  let lines = 0;
  for (let at = 0; at < bytes.length;) {
    let end = bytes.indexOf(NEW_LINE, at);
    if (end < 0) end = bytes.length;
    const stop = end > at && bytes[end - 1] === 13 ? end - 1 : end;
    lines++;
    if (firstLine + lines > layout.skippedLines && stop > at) {
      if (parseRow(at, stop)) {
        for (let k = 0; k < PLACES.length; k++) values[k]![count] = row[k]!;
        count++;
      } else {
        report.skippedLines++;
        report.firstSkipped ??= firstLine + lines;
      }
    }
    at = end + 1;
  }
  return { lines, rows: { count, values } };

  /** Reads one line into `row`; false where a wanted cell is no number. */
  function parseRow(from: number, stop: number): boolean {
    let at = from;
    for (let cell = 0; cell < wanted.length; cell++) {
      while (at < stop && (bytes[at] === 32 || (isSpaced && bytes[at] === 9))) at++;
      const start = at;
      let sign = 1;
      if (bytes[at] === 45 || bytes[at] === 43) sign = bytes[at++] === 45 ? -1 : 1;
      let digits = 0;
      let mantissa = 0;
      let shift = 0;
      let isFraction = false;
      for (; at < stop; at++) {
        const byte = bytes[at]!;
        if (byte >= 48 && byte <= 57) {
          mantissa = mantissa * 10 + (byte - 48);
          digits++;
          if (isFraction) shift++;
        } else if (byte === decimal && !isFraction) isFraction = true;
        else break;
      }
      let value = (sign * mantissa) / 10 ** shift;
      const isEnd = at >= stop || bytes[at] === delimiter || bytes[at] === 32 || bytes[at] === 9;
      if (!isEnd || digits === 0 || digits > 15) {
        // Exponents, more digits than a double holds in whole numbers, or no number at all: the slow and exact way.
        while (at < stop && bytes[at] !== delimiter && !(isSpaced && bytes[at] === 9)) at++;
        let text = '';
        for (let k = start; k < at; k++) text += String.fromCharCode(bytes[k]!);
        text = text.trim();
        value = text === '' ? NaN : Number(layout.hasDecimalComma ? text.replace(',', '.') : text);
      }
      const place = wanted[cell]!;
      if (place >= 0) {
        if (!Number.isFinite(value)) return false;
        row[place] = value;
      }
      while (at < stop && (bytes[at] === 32 || bytes[at] === 9) && bytes[at] !== delimiter) at++;
      if (at < stop && bytes[at] === delimiter) at++;
      else if (!isSpaced && cell < wanted.length - 1 && wanted.slice(cell + 1).some((p) => p >= 0 && p < 3))
        return false;
      if (at >= stop && wanted.slice(cell + 1).some((p) => p >= 0)) return false;
    }
    return true;
  }
}

function countLines(bytes: Uint8Array): number {
  let lines = 1;
  for (let at = bytes.indexOf(NEW_LINE); at >= 0; at = bytes.indexOf(NEW_LINE, at + 1)) lines++;
  return lines;
}
