import type { PlanBounds } from '../raster/index.js';
import { PamperoError } from '../task/index.js';

/** A site parted into squares on whole multiples of their side, so that where they lie does not depend on which files are there. */
export interface SquareLayout {
  /** Job units. */
  readonly side: number;
  /** How far points of the neighbours are taken along on every side, job units. */
  readonly margin: number;
}

/** One square: column and row count sides from the origin of the coordinate system. */
export interface Square {
  readonly name: string;
  readonly column: number;
  readonly row: number;
  readonly land: PlanBounds;
}

/** More squares than this are no plan but a mistyped side. */
const MOST_SQUARES = 100_000;

export function squareAt({ side }: Pick<SquareLayout, 'side'>, column: number, row: number): Square {
  const [west, south] = [column * side, row * side];
  return {
    // By its south-west corner in whole units, as map sheets are called; unique, since sides are at least one unit.
    name: `${Math.floor(west)}_${Math.floor(south)}`,
    column,
    row,
    land: { west, south, east: (column + 1) * side, north: (row + 1) * side },
  };
}

/**
 * The squares that some land reaches into, from south to north, each row from west to east. A point on the line between two
 * belongs to the one east or north of it.
 * @throws PamperoError `bad-request` where they would be too many
 */
export function layOutSquares(layout: SquareLayout, lands: readonly PlanBounds[]): Square[] {
  const { side } = layout;
  const found = new Map<string, Square>();
  for (const { west, south, east, north } of lands) {
    const [firstColumn, lastColumn] = [Math.floor(west / side), Math.floor(east / side)];
    const [firstRow, lastRow] = [Math.floor(south / side), Math.floor(north / side)];
    const count = (lastColumn - firstColumn + 1) * (lastRow - firstRow + 1);
    if (!(count <= MOST_SQUARES))
      throw new PamperoError('bad-request', {
        what: `With a side of ${side} a file would be parted into ${Number.isFinite(count) ? count : 'endlessly many'} squares.`,
        fix: `Give a longer side: ${MOST_SQUARES} squares are the most.`,
      });
    for (let row = firstRow; row <= lastRow; row++)
      for (let column = firstColumn; column <= lastColumn; column++) {
        const square = squareAt(layout, column, row);
        found.set(square.name, square);
      }
  }
  return [...found.values()].sort((a, b) => a.row - b.row || a.column - b.column);
}

/** The eight squares about one, whether anything lies there or not. */
export function squaresAbout(
  layout: Pick<SquareLayout, 'side'>,
  { column, row }: Pick<Square, 'column' | 'row'>,
): Square[] {
  const about: Square[] = [];
  for (const r of [row - 1, row, row + 1])
    for (const c of [column - 1, column, column + 1]) if (r !== row || c !== column) about.push(squareAt(layout, c, r));
  return about;
}

export function withMargin({ west, south, east, north }: PlanBounds, margin: number): PlanBounds {
  return { west: west - margin, south: south - margin, east: east + margin, north: north + margin };
}

/**
 * Calls back for each square whose land or margin a place lies in. At most four, where the margin is no wider than half a side.
 */
export function squaresTouched(
  { side, margin }: SquareLayout,
  easting: number,
  northing: number,
  visit: (column: number, row: number) => void,
): void {
  const [firstColumn, lastColumn] = [Math.floor((easting - margin) / side), Math.floor((easting + margin) / side)];
  const [firstRow, lastRow] = [Math.floor((northing - margin) / side), Math.floor((northing + margin) / side)];
  for (let row = firstRow; row <= lastRow; row++)
    for (let column = firstColumn; column <= lastColumn; column++) visit(column, row);
}
