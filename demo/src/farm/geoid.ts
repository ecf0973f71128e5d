import type { GeoidGrid } from '@pampero/core/geodesy';

/** A made-up geoid over the demo's part of the pampas, a quarter of a degree a cell: for trying out, not for surveying. */
export function madeUpGeoid(): GeoidGrid {
  const [rows, columns, step] = [9, 13, 0.25];
  const values = new Float32Array(rows * columns);
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++)
      values[row * columns + column] =
        16.4 + 0.42 * row * step - 0.31 * column * step + 0.06 * Math.sin(row + 2 * column);
  return { south: -35.5, west: -61.5, latitudeStep: step, longitudeStep: step, rows, columns, values };
}
