/** What a column of a text file can hold. */
export const TEXT_COLUMNS = [
  'easting',
  'northing',
  'elevation',
  'intensity',
  'red',
  'green',
  'blue',
  'class',
  'confidence',
  'none',
] as const;
export type TextColumn = (typeof TEXT_COLUMNS)[number];

/** How a text file of points is to be read. Guessed by {@link guessTextLayout}, correctable by the surveyor. */
export interface TextLayout {
  readonly delimiter: ',' | ';' | '\t' | ' ';
  readonly hasDecimalComma: boolean;
  /** Lines before the first point: headings, a count, notes. */
  readonly skippedLines: number;
  readonly columns: readonly TextColumn[];
}

const HEADINGS: readonly (readonly [RegExp, TextColumn])[] = [
  [/^(x|e|east|easting|este|rechtswert)(_?coord.*)?$/i, 'easting'],
  [/^(y|n|north|northing|norte|hochwert)(_?coord.*)?$/i, 'northing'],
  [/^(z|h|elev|elevation|height|cota|altura|level)(_?coord.*)?$/i, 'elevation'],
  [/^(i|int|intensity|intensidad|reflectance)$/i, 'intensity'],
  [/^(r|red|rojo)$/i, 'red'],
  [/^(g|green|verde)$/i, 'green'],
  [/^(b|blue|azul)$/i, 'blue'],
  [/^(c|class|classification|clase)$/i, 'class'],
  [/^(confidence|quality|confianza)$/i, 'confidence'],
];

/** Columns by their number where there are no headings: the orders that are about. Common practice, no source. */
const USUAL_ORDERS: Readonly<Record<number, readonly TextColumn[]>> = {
  3: ['easting', 'northing', 'elevation'],
  4: ['easting', 'northing', 'elevation', 'intensity'],
  6: ['easting', 'northing', 'elevation', 'red', 'green', 'blue'],
  7: ['easting', 'northing', 'elevation', 'intensity', 'red', 'green', 'blue'],
  8: ['easting', 'northing', 'elevation', 'intensity', 'red', 'green', 'blue', 'class'],
};

/** Splits a line as the reader does. */
export function splitLine(line: string, delimiter: TextLayout['delimiter']): string[] {
  const trimmed = line.trim();
  return delimiter === ' ' ? trimmed.split(/[ \t]+/) : trimmed.split(delimiter).map((cell) => cell.trim());
}

/**
 * Guesses delimiter, decimal comma, lines to skip and columns from the first lines of a file.
 * @returns `undefined` where no line looks like a point
 */
export function guessTextLayout(lines: readonly string[]): TextLayout | undefined {
  const filled = lines.map((line) => line.trim());
  for (const { delimiter, hasDecimalComma } of [
    { delimiter: ';', hasDecimalComma: true },
    { delimiter: '\t', hasDecimalComma: true },
    { delimiter: ';', hasDecimalComma: false },
    { delimiter: '\t', hasDecimalComma: false },
    { delimiter: ' ', hasDecimalComma: true },
    { delimiter: ',', hasDecimalComma: false },
    { delimiter: ' ', hasDecimalComma: false },
  ] as const) {
    const rows = filled.map((line) => splitLine(line, delimiter));
    const isNumber = (cell: string): boolean =>
      (hasDecimalComma ? /^[+-]?\d+(,\d+)?(e[+-]?\d+)?$/i : /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i).test(cell);
    const isPoint = (row: readonly string[]): boolean => row.length >= 3 && row.slice(0, 3).every(isNumber);
    const first = rows.findIndex(isPoint);
    if (first < 0) continue;
    const body = rows.slice(first).filter((row) => row.join('') !== '');
    const width = body[0]!.length;
    // Most of what follows must be alike; a comma that is in every number is a decimal comma only where it is in some.
    if (body.filter((row) => row.length === width && isPoint(row)).length < body.length * 0.6) continue;
    if (hasDecimalComma && !body.some((row) => row.some((cell) => cell.includes(',')))) continue;
    const headings = first > 0 ? rows[first - 1]! : [];
    return { delimiter, hasDecimalComma, skippedLines: first, columns: columnsOf(headings, width) };
  }
  return undefined;
}

function columnsOf(headings: readonly string[], width: number): TextColumn[] {
  const named = headings.map(
    (heading) => HEADINGS.find(([pattern]) => pattern.test(heading.replace(/^[/#"\s]+|["\s]+$/g, '')))?.[1] ?? 'none',
  );
  if (
    headings.length === width &&
    (['easting', 'northing', 'elevation'] as const).every((column) => named.includes(column))
  )
    return named;
  const usual = USUAL_ORDERS[width] ?? USUAL_ORDERS[3]!;
  return Array.from({ length: width }, (_, i) => usual[i] ?? 'none');
}
