import type { RasterFrame } from './raster-frame.js';

/** The cells beside a cell, eight ways. */
export function eachNeighbour(
  { columns, rows }: Pick<RasterFrame, 'columns' | 'rows'>,
  at: number,
  visit: (k: number) => void,
): void {
  const column = at % columns;
  const row = (at - column) / columns;
  for (let r = Math.max(0, row - 1); r <= Math.min(rows - 1, row + 1); r++)
    for (let c = Math.max(0, column - 1); c <= Math.min(columns - 1, column + 1); c++)
      if (r !== row || c !== column) visit(r * columns + c);
}

/** Connected cells, eight ways, that fulfil a condition. */
export function connectedCells(
  frame: Pick<RasterFrame, 'columns' | 'rows'>,
  isIn: (i: number) => boolean,
  together: (i: number, j: number) => boolean = () => true,
): number[][] {
  const seen = new Uint8Array(frame.columns * frame.rows);
  const found: number[][] = [];
  for (let start = 0; start < seen.length; start++) {
    if (seen[start] === 1 || !isIn(start)) continue;
    const cells = [start];
    seen[start] = 1;
    for (let head = 0; head < cells.length; head++) {
      const i = cells[head]!;
      eachNeighbour(frame, i, (j) => {
        if (seen[j] === 1 || !isIn(j) || !together(i, j)) return;
        seen[j] = 1;
        cells.push(j);
      });
    }
    found.push(cells);
  }
  return found;
}
