import type { Places } from '../cleaning/neighbour-grid.js';

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
  let [west, south, east, north] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < count; i++) {
    if (x[i]! < west) west = x[i]!;
    if (x[i]! > east) east = x[i]!;
    if (y[i]! < south) south = y[i]!;
    if (y[i]! > north) north = y[i]!;
  }
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
