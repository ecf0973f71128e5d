import type { Places } from '../cleaning/neighbour-grid.js';
import { planBounds } from '../raster/index.js';

/** Cells in plan over some places, one wider on every side. */
export interface PlanCells {
  /** Side of a cell. */
  readonly cell: number;
  readonly columns: number;
  readonly rows: number;
  /** The cell of a place. */
  readonly cellAt: (i: number) => number;
}

/** Cells on whole multiples of their side, so that neighbouring pieces of land cut them alike; undefined where there is no place. */
export function planCells({ count, x, y }: Places, cell: number): PlanCells | undefined {
  if (count === 0) return undefined;
  const { west, south, east, north } = planBounds(x, y, count);
  const [firstColumn, firstRow] = [Math.floor(west / cell) - 1, Math.floor(south / cell) - 1];
  const columns = Math.floor(east / cell) - firstColumn + 2;
  const rows = Math.floor(north / cell) - firstRow + 2;
  return {
    cell,
    columns,
    rows,
    cellAt: (i) => (Math.floor(y[i]! / cell) - firstRow) * columns + Math.floor(x[i]! / cell) - firstColumn,
  };
}

/** Cells within so many of one, in the square about it, as far as the map goes. */
export function beside(at: number, columns: number, cells: number, reach: number): number[] {
  const [row, column] = [Math.floor(at / columns), at % columns];
  const out: number[] = [];
  for (let r = Math.max(0, row - reach); r <= Math.min(cells / columns - 1, row + reach); r++)
    for (let c = Math.max(0, column - reach); c <= Math.min(columns - 1, column + reach); c++)
      if (r !== row || c !== column) out.push(r * columns + c);
  return out;
}

/** Points of each cell as chains: the first of a cell, and the one after each; negative at an end. */
export interface ByCell {
  readonly first: Int32Array;
  readonly next: Int32Array;
}
