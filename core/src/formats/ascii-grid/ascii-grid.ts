import type { RasterFrame } from '../../raster/index.js';
import { FormatError } from '../format-error.js';

const NO_DATA = -9999;
/** Cells that are kept at once. */
const MOST_CELLS = 100_000_000;

/** A grid as text, the northernmost line first, after the six lines of its head (the ASCII grid that GIS programs share). */
export function* gridToAscii(
  values: Float32Array,
  { east, north, cell, columns, rows }: RasterFrame,
): Generator<string> {
  yield `ncols ${columns}\nnrows ${rows}\nxllcorner ${east}\nyllcorner ${north}\ncellsize ${cell}\nNODATA_value ${NO_DATA}\n`;
  for (let row = rows - 1; row >= 0; row--)
    yield `${Array.from(values.subarray(row * columns, (row + 1) * columns), (v) => (Number.isNaN(v) ? NO_DATA : v.toFixed(4))).join(' ')}\n`;
}

/** Cell centres with a value: easting, northing, elevation, one a line. */
export function* gridToXyz(values: Float32Array, { east, north, cell, columns, rows }: RasterFrame): Generator<string> {
  for (let row = rows - 1; row >= 0; row--) {
    let text = '';
    for (let column = 0; column < columns; column++) {
      const z = values[row * columns + column]!;
      if (!Number.isNaN(z))
        text += `${(east + (column + 0.5) * cell).toFixed(4)} ${(north + (row + 0.5) * cell).toFixed(4)} ${z.toFixed(4)}\n`;
    }
    if (text !== '') yield text;
  }
}

/**
 * Reads a grid written as text: a head of names and figures in any order, then the lines from the north.
 * @returns rows times columns values, row 0 the southernmost, NaN where there is none
 * @throws FormatError `grid-unreadable` with the line that is wrong
 */
export function readAsciiGrid(text: string, fileName: string): { values: Float32Array; frame: RasterFrame } {
  const unreadable = (what: string, where?: string): FormatError =>
    new FormatError('grid-unreadable', {
      what: `${fileName} cannot be read as an ASCII grid: ${what}.`,
      ...(where && { where }),
      fix: 'Its header needs ncols, nrows, xllcorner or xllcenter, yllcorner or yllcenter and cellsize, then one number per cell.',
    });
  const head = new Map<string, number>();
  const word = /\S+/g;
  let body = text.length;
  for (let name = word.exec(text); name; name = word.exec(text)) {
    if (!/^[a-z_]/i.test(name[0]) || /^nan$/i.test(name[0])) {
      body = name.index;
      break;
    }
    const value = Number(word.exec(text)?.[0]);
    if (!Number.isFinite(value)) throw unreadable(`${name[0]} has no figure`);
    head.set(name[0].toLowerCase(), value);
  }
  const [columns, rows, cell] = [head.get('ncols'), head.get('nrows'), head.get('cellsize')];
  if (!columns || !rows || !cell || !(cell > 0)) throw unreadable('the head has no ncols, nrows or cellsize');
  if (!Number.isInteger(columns) || !Number.isInteger(rows) || columns < 0 || rows < 0)
    throw unreadable(`${columns} columns and ${rows} rows are no counts`);
  if (columns * rows > MOST_CELLS)
    throw unreadable(`it has ${columns} x ${rows} cells; at most ${MOST_CELLS} can be kept`);
  // A cell takes a figure and a space at least: a head that promises more than the text can hold is not believed.
  if (columns * rows > (text.length - body) / 2 + 1)
    throw unreadable(`its head promises ${columns} x ${rows} cells, more than the text has room for`);
  const corner = (axis: 'x' | 'y'): number => {
    const value = head.get(`${axis}llcorner`);
    const centre = head.get(`${axis}llcenter`);
    if (value === undefined && centre === undefined) throw unreadable(`the head does not say where the grid lies`);
    return value ?? centre! - cell / 2;
  };
  const noData = head.get('nodata_value') ?? NO_DATA;
  const values = new Float32Array(columns * rows).fill(NaN);
  word.lastIndex = body;
  for (let k = 0; k < values.length; k++) {
    const next = word.exec(text);
    if (!next)
      throw unreadable(
        `it ends after ${k} of ${values.length} cells`,
        `line ${Math.floor(k / columns) + 1} of the grid`,
      );
    const value = Number(next[0]);
    if (Number.isNaN(value) && !/^nan$/i.test(next[0]))
      throw unreadable(`“${next[0]}” is no figure`, `line ${Math.floor(k / columns) + 1} of the grid`);
    const row = rows - 1 - Math.floor(k / columns);
    values[row * columns + (k % columns)] = value === noData ? NaN : value;
  }
  return { values, frame: { east: corner('x'), north: corner('y'), cell, columns, rows } };
}
