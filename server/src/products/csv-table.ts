import { stringify } from 'csv-stringify/sync';

/** A figure as it is written: it stays a figure, whatever sign it begins with. */
const FIGURE = /^[-+]?\d+(?:\.\d+)?(?:e[-+]?\d+)?$/i;
/** What spreadsheets take for a formula when a cell begins with it. */
const FORMULA = /^[=+\-@\t\r]/;

/** Rows as CSV (RFC 4180, but for line ends, which are line feeds). Text that a spreadsheet would run is told to be text. */
export function csvTable(rows: readonly (readonly string[])[]): string {
  return stringify(
    rows.map((row) => row.map((cell) => (FORMULA.test(cell) && !FIGURE.test(cell) ? `'${cell}` : cell))),
    { record_delimiter: '\n' },
  );
}
