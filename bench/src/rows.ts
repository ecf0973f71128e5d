/** A measured figure and what it ought to be. */
export interface Row {
  readonly name: string;
  readonly measured: number;
  readonly unit: string;
  /** Undefined where the figure is for information. */
  readonly target?: number;
  /** Whether more or less is better; less unless said. */
  readonly isMoreBetter?: boolean;
}

export interface ReportedRow extends Row {
  readonly reached: boolean | undefined;
}

export function judged(row: Row): ReportedRow {
  if (row.target === undefined) return { ...row, reached: undefined };
  return { ...row, reached: row.isMoreBetter ? row.measured >= row.target : row.measured <= row.target };
}

/** One table, names to the left, figures to the right. */
export function tableOf(rows: readonly ReportedRow[]): string {
  const figure = (value: number): string =>
    Math.abs(value) >= 100 ? value.toFixed(0).replace(/\B(?=(\d{3})+$)/g, ' ') : value.toPrecision(3);
  const cells = rows.map((row) => [
    row.name,
    figure(row.measured),
    row.unit,
    row.target === undefined ? '' : figure(row.target),
    row.reached === undefined ? '' : row.reached ? 'reached' : 'not reached',
  ]);
  const head = ['what', 'measured', 'unit', 'target', ''];
  const widths = head.map((title, k) => Math.max(title.length, ...cells.map((row) => row[k]!.length)));
  const line = (row: readonly string[]): string =>
    row
      .map((cell, k) => (k === 1 || k === 3 ? cell.padStart(widths[k]!) : cell.padEnd(widths[k]!)))
      .join('  ')
      .trimEnd();
  return [line(head), widths.map((width) => '-'.repeat(width)).join('  '), ...cells.map(line)].join('\n');
}
