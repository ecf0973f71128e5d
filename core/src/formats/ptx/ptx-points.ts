import type { ByteSource } from '../byte-source.js';
import { FormatError, type FormatWarning } from '../format-error.js';
import { EIGHT_TO_SIXTEEN } from '../../imagery/colour-depth.js';
import type { LoosePoints } from '../loose-points.js';
import { textLines } from '../text/index.js';

/** What was met on the way; filled while points are read. */
export interface PtxReport {
  scans: number;
  /** Directions without a return, written as zeros: left out. */
  withoutReturn: number;
  readonly warnings: FormatWarning[];
}

/** Two counts, the scanner's place, its three axes, and the four rows of the transformation. */
const HEADER_LINES = 10;
const BATCH_POINTS = 65_536;

interface Scan {
  readonly left: number;
  readonly matrix: readonly (readonly number[])[];
}

/**
 * Reads PTX, the plain-text form of gridded scans: columns, rows, ten lines of header with a 4 x 4 transformation (a point
 * is a row that is multiplied from the left), then a line a direction: x y z intensity [r g b]; 0 0 0 where nothing came
 * back. Several scans may follow each other. No published standard; common practice.
 * @throws FormatError with the line that cannot be read
 */
export async function* readPtxPoints(
  source: ByteSource,
  report: PtxReport,
  signal?: { readonly aborted: boolean },
): AsyncGenerator<LoosePoints> {
  let header: string[] = [];
  let scan: Scan | undefined;
  let left = 0;
  let line = 0;
  let hasColour: boolean | undefined;
  const fresh = () => ({
    count: 0,
    easting: new Float64Array(BATCH_POINTS),
    northing: new Float64Array(BATCH_POINTS),
    elevation: new Float64Array(BATCH_POINTS),
    intensity: new Uint16Array(BATCH_POINTS),
    pointSourceId: new Uint16Array(BATCH_POINTS),
    red: new Uint16Array(BATCH_POINTS),
    green: new Uint16Array(BATCH_POINTS),
    blue: new Uint16Array(BATCH_POINTS),
  });
  let batch = fresh();
  const taken = (): LoosePoints => {
    const { count, red, green, blue, ...always } = batch;
    const cut = Object.fromEntries(
      Object.entries({ ...always, ...(hasColour && { red, green, blue }) }).map(([name, values]) => [
        name,
        values.subarray(0, count),
      ]),
    );
    batch = fresh();
    return { count, ...cut } as unknown as LoosePoints;
  };
  for await (const lines of textLines(source, signal)) {
    for (const text of lines) {
      line++;
      if (left === 0) {
        if (text.trim() === '' && header.length === 0) continue;
        header.push(text);
        if (header.length < HEADER_LINES) continue;
        scan = readHeader(header, source, line - HEADER_LINES + 1);
        left = scan.left;
        header = [];
        report.scans++;
        continue;
      }
      left--;
      const cells = text.trim().split(/\s+/);
      const [x, y, z, intensity] = [Number(cells[0]), Number(cells[1]), Number(cells[2]), Number(cells[3] ?? 0)];
      if (!(cells.length >= 3 && Number.isFinite(x + y + z + intensity)))
        throw wrong(source, line, `"${text.slice(0, 60)}" is no point; ${left + 1} more were to come in this scan.`);
      if (x === 0 && y === 0 && z === 0) {
        report.withoutReturn++;
        continue;
      }
      hasColour ??= cells.length >= 7;
      const [a, b, c, d] = scan!.matrix as [number[], number[], number[], number[]];
      const i = batch.count++;
      batch.easting[i] = x * a[0]! + y * b[0]! + z * c[0]! + d[0]!;
      batch.northing[i] = x * a[1]! + y * b[1]! + z * c[1]! + d[1]!;
      batch.elevation[i] = x * a[2]! + y * b[2]! + z * c[2]! + d[2]!;
      batch.intensity[i] = Math.max(0, Math.min(65_535, Math.round(intensity * 65_535)));
      batch.pointSourceId[i] = report.scans;
      if (hasColour) {
        batch.red[i] = Number(cells[4] ?? 0) * EIGHT_TO_SIXTEEN;
        batch.green[i] = Number(cells[5] ?? 0) * EIGHT_TO_SIXTEEN;
        batch.blue[i] = Number(cells[6] ?? 0) * EIGHT_TO_SIXTEEN;
      }
      if (batch.count === BATCH_POINTS) yield taken();
    }
  }
  if (batch.count > 0) yield taken();
  if (left > 0)
    report.warnings.push({
      code: 'file-cut-short',
      message: `The last scan ends ${left} lines short of its count. Those that are there are used.`,
    });
  if (header.length > 0) throw wrong(source, line, `A header of ${HEADER_LINES} lines ends after ${header.length}.`);
}

function readHeader(lines: readonly string[], source: ByteSource, firstLine: number): Scan {
  const numbers = lines.map((line) => line.trim().split(/\s+/).map(Number));
  const [columns, rows] = [numbers[0]![0]!, numbers[1]![0]!];
  if (!(
    Number.isSafeInteger(columns) &&
    Number.isSafeInteger(rows) &&
    columns >= 0 &&
    rows >= 0 &&
    columns * rows < 2 ** 40
  ))
    throw wrong(source, firstLine, `A scan must begin with its columns and rows, not "${lines[0]}" and "${lines[1]}".`);
  const matrix = numbers.slice(6);
  const bad = matrix.findIndex((row) => row.length !== 4 || !row.every(Number.isFinite));
  if (bad >= 0) throw wrong(source, firstLine + 6 + bad, `"${lines[6 + bad]}" is no row of a 4 x 4 transformation.`);
  return { left: columns * rows, matrix };
}

function wrong(source: ByteSource, line: number, what: string): FormatError {
  return new FormatError('not-this-format', {
    what,
    where: `${source.name}, line ${line}`,
    fix: 'Export the scans again, as PTX, E57 or LAS.',
  });
}
