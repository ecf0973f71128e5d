/** A measured figure and what it ought to be. */
export interface Row {
  readonly name: string;
  readonly measured: number;
  readonly unit: string;
  /** Undefined where the figure is for information. */
  readonly target?: number;
  /** Of several scenes or seeds the worst; `measured` is their mean, and the target is for the worst. */
  readonly worst?: number;
  /** Whether more or less is better; less unless said. */
  readonly isMoreBetter?: boolean;
}

export interface ReportedRow extends Row {
  readonly reached: boolean | undefined;
  /** What the last version had, where it is known. */
  readonly before?: number | undefined;
}

export function judged(row: Row): ReportedRow {
  if (row.target === undefined) return { ...row, reached: undefined };
  const figure = row.worst ?? row.measured;
  return { ...row, reached: row.isMoreBetter ? figure >= row.target : figure <= row.target };
}

/** One table, names to the left, figures to the right. */
export function tableOf(rows: readonly ReportedRow[]): string {
  const hasWorst = rows.some(({ worst }) => worst !== undefined);
  const hasBefore = rows.some(({ before }) => before !== undefined);
  const figure = (value: number | undefined): string => (value === undefined ? '' : digits(value));
  const digits = (value: number): string =>
    Math.abs(value) >= 100 ? value.toFixed(0).replace(/\B(?=(\d{3})+$)/g, ' ') : value.toPrecision(3);
  const cells = rows.map((row) => [
    row.name,
    figure(row.measured),
    ...(hasWorst ? [figure(row.worst)] : []),
    ...(hasBefore ? [figure(row.before)] : []),
    row.unit,
    figure(row.target),
    row.reached === undefined ? '' : row.reached ? 'reached' : 'not reached',
  ]);
  const figures = ['measured', ...(hasWorst ? ['worst'] : []), ...(hasBefore ? ['before'] : [])];
  const head = ['what', ...figures, 'unit', 'target', ''];
  const isFigure = (k: number): boolean => (k > 0 && k <= figures.length) || k === figures.length + 2;
  const widths = head.map((title, k) => Math.max(title.length, ...cells.map((row) => row[k]!.length)));
  const line = (row: readonly string[]): string =>
    row
      .map((cell, k) => (isFigure(k) ? cell.padStart(widths[k]!) : cell.padEnd(widths[k]!)))
      .join('  ')
      .trimEnd();
  return [line(head), widths.map((width) => '-'.repeat(width)).join('  '), ...cells.map(line)].join('\n');
}
