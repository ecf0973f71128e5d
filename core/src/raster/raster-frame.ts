import type { PlanBounds } from './plan-bounds.js';

/** A raster's place: cell (0, 0) has its least corner at (east, north); row 0 is the southernmost; cells are square, in job units. */
export interface RasterFrame {
  readonly east: number;
  readonly north: number;
  readonly cell: number;
  readonly columns: number;
  readonly rows: number;
}

/** Where the first cell of a part lies in the whole; both on the same cells. */
export function placeOfPart(
  whole: RasterFrame,
  part: Pick<RasterFrame, 'east' | 'north'>,
): { column: number; row: number } {
  return {
    column: Math.round((part.east - whole.east) / whole.cell),
    row: Math.round((part.north - whole.north) / whole.cell),
  };
}

/** Walks the cells that a part shares with the whole: `at` in the whole, `from` in the part. */
export function eachSharedCell(whole: RasterFrame, part: RasterFrame, visit: (at: number, from: number) => void): void {
  const { column, row } = placeOfPart(whole, part);
  for (let r = 0, from = 0; r < part.rows; r++)
    for (let c = 0, at = (row + r) * whole.columns + column; c < part.columns; c++, from++, at++) visit(at, from);
}

/** The land under a raster. */
export function framePlan({ east, north, cell, columns, rows }: RasterFrame): PlanBounds {
  return { west: east, south: north, east: east + columns * cell, north: north + rows * cell };
}
