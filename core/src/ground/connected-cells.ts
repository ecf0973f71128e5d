import type { RasterFrame } from './lowest-raster.js';

/** Connected cells, eight ways, that fulfil a condition. */
export function connectedCells(
  { columns, rows }: RasterFrame,
  isIn: (i: number) => boolean,
  together: (i: number, j: number) => boolean = () => true,
): number[][] {
  const seen = new Uint8Array(columns * rows);
  const found: number[][] = [];
  for (let start = 0; start < seen.length; start++) {
    if (seen[start] === 1 || !isIn(start)) continue;
    const cells = [start];
    seen[start] = 1;
    for (let head = 0; head < cells.length; head++) {
      const i = cells[head]!;
      const column = i % columns;
      const row = (i - column) / columns;
      for (let r = Math.max(0, row - 1); r <= Math.min(rows - 1, row + 1); r++)
        for (let c = Math.max(0, column - 1); c <= Math.min(columns - 1, column + 1); c++) {
          const j = r * columns + c;
          if (seen[j] === 1 || !isIn(j) || !together(i, j)) continue;
          seen[j] = 1;
          cells.push(j);
        }
    }
    found.push(cells);
  }
  return found;
}
