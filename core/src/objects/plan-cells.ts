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
