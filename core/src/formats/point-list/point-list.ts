import { FormatError } from '../format-error.js';

/** Orders in which surveyed points are written: P number, N northing, E easting, Z elevation, D code or description. */
export const POINT_ORDERS = ['PNEZD', 'PENZD', 'NEZD', 'ENZD'] as const;
export type PointOrder = (typeof POINT_ORDERS)[number];

export interface ListedPoint {
  readonly number: string;
  readonly northing: number;
  readonly easting: number;
  readonly elevation: number;
  readonly code: string;
}

/**
 * Reads a list of surveyed points: one a line, with commas, semicolons, tabs or spaces between; a heading is passed over.
 * Nothing is taken where a line is wrong.
 * @throws FormatError that names the line
 */
export function readPointList(text: string, order: PointOrder, fileName: string): ListedPoint[] {
  const lines = text.replace(/^\uFEFF/, '').split(/\r?\n/);
  const delimiter = [';', '\t', ','].find((d) => lines.some((line) => line.includes(d)));
  const points: ListedPoint[] = [];
  for (const [index, line] of lines.entries()) {
    if (line.trim() === '' || line.trim().startsWith('#')) continue;
    const cells = (delimiter ? line.split(delimiter) : line.trim().split(/\s+/)).map((cell) =>
      cell
        .trim()
        .replace(/^"|"$/g, '')
        // Text is written so that a spreadsheet does not take it for a formula.
        .replace(/^'(?=[=+\-@])/, ''),
    );
    // eslint-disable-next-line no-control-regex -- control characters are what is looked for
    if (/[\0-\x08\x0e-\x1f\x7f]/.test(line))
      throw new FormatError('not-this-format', {
        what: 'The line holds bytes that are no text.',
        where: `${fileName}, line ${index + 1}`,
        fix: 'Save the list as plain text, UTF-8.',
      });
    const cell = (letter: string): string => cells[order.indexOf(letter)] ?? '';
    const number = (letter: 'N' | 'E' | 'Z'): number => {
      const written = delimiter === ',' ? cell(letter) : cell(letter).replace(',', '.');
      return written === '' ? NaN : Number(written);
    };
    const [northing, easting, elevation] = [number('N'), number('E'), number('Z')];
    if (![northing, easting, elevation].every(Number.isFinite)) {
      if (points.length === 0 && Number.isNaN(northing) && Number.isNaN(easting) && Number.isNaN(elevation)) {
        checkHeading(cells, order, `${fileName}, line ${index + 1}`);
        continue;
      }
      throw new FormatError('not-this-format', {
        what: `"${line.trim().slice(0, 80)}" is not a point in the order ${order}.`,
        where: `${fileName}, line ${index + 1}`,
        fix: 'Choose the order of the columns, or fix the line.',
      });
    }
    points.push({
      number: order.startsWith('P') ? cell('P') : String(points.length + 1),
      northing,
      easting,
      elevation,
      code: cell('D'),
    });
  }
  if (points.length === 0)
    throw new FormatError('no-points', {
      what: 'No line is a point.',
      where: fileName,
      fix: `Write one point a line in the order ${order}.`,
    });
  return points;
}

/** What columns are called in headings, in English, Spanish and German. Common practice, no source. */
const HEADINGS: readonly (readonly [RegExp, string])[] = [
  [/^(p|pt|point|name|number|no\.?|id|punto|punkt|nombre)$/i, 'P'],
  [/^(n|y|north|northing|norte|hochwert)(\b.*)?$/i, 'N'],
  [/^(e|x|east|easting|este|rechtswert)(\b.*)?$/i, 'E'],
  [/^(z|h|elev|elevation|height|cota|altura|level|höhe)(\b.*)?$/i, 'Z'],
  [/^(d|code|desc|description|remark|código)(\b.*)?$/i, 'D'],
];

/**
 * A heading that names its columns in another order than was chosen is right and the choice is not.
 * @throws FormatError that names the order the heading says
 */
function checkHeading(cells: readonly string[], order: PointOrder, where: string): void {
  const said = cells.map((cell) => HEADINGS.find(([word]) => word.test(cell.trim()))?.[1]);
  const differs = [...order].some(
    (letter, k) => letter !== 'P' && letter !== 'D' && said[k] !== undefined && said[k] !== letter,
  );
  const isWhole = ['N', 'E', 'Z'].every((letter) => said.includes(letter));
  if (!differs || !isWhole) return;
  const fitting = POINT_ORDERS.find((one) => [...one].every((letter, k) => letter === 'D' || said[k] === letter));
  throw new FormatError('order-contradicts-heading', {
    what: `The heading “${cells.join(', ').slice(0, 80)}” is not in the order ${order}.`,
    where,
    fix: fitting ? `Choose the order ${fitting}.` : `Put the columns in one of the orders ${POINT_ORDERS.join(', ')}.`,
  });
}

/** The order with easting and northing the other way round. */
export function exchanged(order: PointOrder): PointOrder {
  return order.replace(/NE|EN/, (pair) => (pair === 'NE' ? 'EN' : 'NE')) as PointOrder;
}

/** A list in an order as rows of cells, a heading first; coordinates to so many decimals. */
export function pointListRows(points: readonly ListedPoint[], order: PointOrder, decimals: number): string[][] {
  const heads = { P: 'point', N: 'northing', E: 'easting', Z: 'elevation', D: 'code' } as const;
  const letters = [...order] as (keyof typeof heads)[];
  const rows = points.map((p) =>
    letters.map((letter) => {
      if (letter === 'P') return p.number;
      if (letter === 'D') return p.code;
      return (letter === 'N' ? p.northing : letter === 'E' ? p.easting : p.elevation).toFixed(decimals);
    }),
  );
  return [letters.map((letter) => heads[letter]), ...rows];
}
