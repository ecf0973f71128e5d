import type { GridFrame } from '../../terrain/index.js';

const NO_DATA = -9999;

/** A grid as text, the northernmost line first, after the six lines of its head (the ASCII grid that GIS programs share). */
export function* gridToAscii(values: Float32Array, { east, north, cell, columns, rows }: GridFrame): Generator<string> {
  yield `ncols ${columns}\nnrows ${rows}\nxllcorner ${east}\nyllcorner ${north}\ncellsize ${cell}\nNODATA_value ${NO_DATA}\n`;
  for (let row = rows - 1; row >= 0; row--)
    yield `${Array.from(values.subarray(row * columns, (row + 1) * columns), (v) => (Number.isNaN(v) ? NO_DATA : v.toFixed(4))).join(' ')}\n`;
}

/** Cell centres with a value: easting, northing, elevation, one a line. */
export function* gridToXyz(values: Float32Array, { east, north, cell, columns, rows }: GridFrame): Generator<string> {
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
