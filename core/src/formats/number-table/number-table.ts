import { FormatError } from '../format-error.js';
import { guessTextLayout, splitLine } from '../text/index.js';

/** Columns of numbers by name, all of one length. */
export interface NumberTable {
  readonly count: number;
  readonly columns: Readonly<Record<string, Float64Array>>;
  /** Lines or records that are none, and the first, counted from 1. */
  readonly skipped: number;
  readonly firstSkipped: number | undefined;
}

/** Of a column that is not wanted. */
export const UNUSED = '-';

/**
 * Reads a table of numbers from text with columns of one's choice.
 * @param names - what each column is, {@link UNUSED} for those not wanted; left out, they are told from the headings by `known`
 * @param known - what a heading names
 * @throws FormatError where it is no table, or no heading tells
 */
export function readTextTable(
  text: string,
  fileName: string,
  names: readonly string[] | undefined,
  known: (heading: string) => string | undefined,
): NumberTable {
  const lines = text.split(/\r?\n/);
  const layout = guessTextLayout(lines.slice(0, 200));
  if (!layout)
    throw new FormatError('not-this-format', {
      what: 'No line looks like a record: three numbers with the same sign between them.',
      where: fileName,
      fix: 'Give a text with a record a line, numbers apart by commas, semicolons, tabs or blanks.',
    });
  const { delimiter, hasDecimalComma, skippedLines } = layout;
  const headings =
    skippedLines > 0 ? splitLine(lines[skippedLines - 1]!.replace(/^[#/%\s]+/, ''), delimiter) : undefined;
  const found = names ?? headings?.map((heading) => known(heading.replace(/["\s]+/g, '')) ?? UNUSED);
  if (!found || found.every((name) => name === UNUSED))
    throw new FormatError('columns-unknown', {
      what: 'The columns have no headings that tell what they are.',
      where: fileName,
      fix: 'Name the columns in their order, such as "time, east, north, height, roll, pitch, heading"; "-" for one that is not used.',
    });
  const rows: number[][] = [];
  let [skipped, firstSkipped] = [0, undefined as number | undefined];
  for (let at = skippedLines; at < lines.length; at++) {
    if (lines[at]!.trim() === '') continue;
    const cells = splitLine(lines[at]!, delimiter);
    const row = found.map((name, k) => (name === UNUSED ? 0 : numberOf(cells[k], hasDecimalComma)));
    if (row.some(Number.isNaN)) {
      skipped++;
      firstSkipped ??= at + 1;
    } else rows.push(row);
  }
  return { ...asColumns(found, rows.length, (i, k) => rows[i]![k]!), skipped, firstSkipped };
}

/** A cell as a number; NaN where it is none or empty. */
export function numberOf(cell: string | undefined, hasDecimalComma: boolean): number {
  if (cell === undefined || cell === '') return NaN;
  return Number(hasDecimalComma ? cell.replace(',', '.') : cell);
}

/** Names of columns in their order, with commas between; undefined where none is named. */
export function readColumnNames(text: string): string[] | undefined {
  const names = text
    .split(',')
    .map((name) => name.trim())
    .filter((name) => name !== '');
  return names.length > 0 ? names : undefined;
}

/** @throws FormatError where a name is none of those that a table of this kind has */
export function checkColumnNames(names: readonly string[], known: readonly string[], kind: string): void {
  const wrong = names.find((name) => name !== UNUSED && !known.includes(name));
  if (wrong !== undefined)
    throw new FormatError('columns-unknown', {
      what: `“${wrong.slice(0, 40)}” is no column of a ${kind}.`,
      fix: `Columns are ${known.join(', ')}; "-" for one that is not used.`,
    });
}

/**
 * A column of a table that cannot be done without.
 * @param known - columns that are there besides those of numbers
 * @throws FormatError `columns-missing`
 */
export function neededColumn(
  columns: NumberTable['columns'],
  name: string,
  fileName: string,
  fix: string,
  known: readonly string[] = [],
): Float64Array {
  const column = columns[name];
  if (!column)
    throw new FormatError('columns-missing', {
      what: `No column holds the ${name}; there are ${[...known, ...Object.keys(columns)].join(', ')}.`,
      where: fileName,
      fix,
    });
  return column;
}

const FIELD_TYPES = {
  f64: [8, 'getFloat64'],
  f32: [4, 'getFloat32'],
  u8: [1, 'getUint8'],
  i8: [1, 'getInt8'],
  u16: [2, 'getUint16'],
  i16: [2, 'getInt16'],
  u32: [4, 'getUint32'],
  i32: [4, 'getInt32'],
} as const;
export type FieldType = keyof typeof FIELD_TYPES;

/** A number in a record: its name, {@link UNUSED} where it is passed over, and how it is stored. */
export interface RecordField {
  readonly name: string;
  readonly type: FieldType;
}

/**
 * Reads "time f64, - i32, east f64": names and types of the numbers of a record, in their order.
 * @throws FormatError where one is no name and type
 */
export function readFields(text: string): RecordField[] {
  return text
    .split(/[,;\n]/)
    .map((part) => part.trim())
    .filter((part) => part !== '')
    .map((part) => {
      const [name, type, ...rest] = part.split(/\s+/);
      if (name === undefined || type === undefined || rest.length > 0 || !(type in FIELD_TYPES))
        throw new FormatError('columns-unknown', {
          what: `"${part}" is no name and type.`,
          fix: `Write "time f64, east f64, …"; types are ${Object.keys(FIELD_TYPES).join(', ')}.`,
        });
      return { name, type: type as FieldType };
    });
}

/**
 * Reads a plain table of binary records.
 * @throws FormatError where its length is no whole number of records
 */
export function readBinaryTable(
  bytes: Uint8Array,
  fileName: string,
  fields: readonly RecordField[],
  { isBigEndian = false, headerBytes = 0 }: { readonly isBigEndian?: boolean; readonly headerBytes?: number } = {},
): NumberTable {
  const length = fields.reduce((sum, { type }) => sum + FIELD_TYPES[type][0], 0);
  const body = bytes.length - headerBytes;
  if (length === 0 || body < length || body % length !== 0)
    throw new FormatError('not-this-format', {
      what: `${bytes.length} bytes less ${headerBytes} before the first record are no whole number of records of ${length} bytes.`,
      where: fileName,
      fix: 'Check the fields, their types, and how many bytes stand before the first record.',
    });
  const view = new DataView(bytes.buffer, bytes.byteOffset + headerBytes, body);
  const places: number[] = [];
  fields.reduce((at, { type }) => {
    places.push(at);
    return at + FIELD_TYPES[type][0];
  }, 0);
  const names = fields.map(({ name }) => name);
  const table = asColumns(names, body / length, (i, k) =>
    view[FIELD_TYPES[fields[k]!.type][1]](i * length + places[k]!, !isBigEndian),
  );
  return { ...table, skipped: 0, firstSkipped: undefined };
}

function asColumns(
  names: readonly string[],
  count: number,
  value: (row: number, column: number) => number,
): Pick<NumberTable, 'count' | 'columns'> {
  const columns: Record<string, Float64Array> = {};
  names.forEach((name, k) => {
    if (name === UNUSED) return;
    const column = new Float64Array(count);
    for (let i = 0; i < count; i++) column[i] = value(i, k);
    columns[name] = column;
  });
  return { count, columns };
}
