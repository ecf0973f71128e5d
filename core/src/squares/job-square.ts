import type { PlanBounds } from '../raster/index.js';
import { squareAt, type Square, type SquareLayout } from './square-layout.js';

/** The square of a site that a job works on: its points reach further by the margin, what leaves ends at the edges of its land. */
export interface JobSquare {
  /** The square itself; at the rim of the site, where there is no other, with the margin. */
  readonly land: PlanBounds;
  readonly side: number;
  readonly margin: number;
}

/**
 * The land of a square, job units: the square itself, and the margin on those sides where nobody works on the next one, so that a few
 * points beyond the last edge are not lost. No place belongs to two squares.
 */
export function landOf(
  layout: SquareLayout,
  { column, row }: { readonly column: number; readonly row: number },
  isThere: (column: number, row: number) => boolean,
): PlanBounds {
  const { margin } = layout;
  const { west, south, east, north } = squareAt(layout, column, row).land;
  const reachesBeside = (step: -1 | 1): boolean => !isThere(column + step, row);
  const [toWest, toEast] = [reachesBeside(-1), reachesBeside(1)];
  // What lies north or south goes to those beside it, where there are any; and at no corner may anybody be.
  const reachesAlong = (step: -1 | 1): boolean => [-1, 0, 1].every((aside) => !isThere(column + aside, row + step));
  const [toSouth, toNorth] = [reachesAlong(-1), reachesAlong(1)];
  return {
    west: west - (toWest ? margin : 0),
    south: south - (toSouth ? margin : 0),
    east: east + (toEast ? margin : 0),
    north: north + (toNorth ? margin : 0),
  };
}

/** Which square of the layout a job works on: its middle lies in it, however far it reaches beyond the rim. */
export function squareOf({ land: { west, south, east, north }, side }: JobSquare): Square {
  return squareAt({ side }, Math.floor((west + east) / 2 / side), Math.floor((south + north) / 2 / side));
}

/** Whether a place belongs to a square: of the places on its edges those in the west and south do. */
export function ownsPlace({ west, south, east, north }: PlanBounds, easting: number, northing: number): boolean {
  return easting >= west && easting < east && northing >= south && northing < north;
}

/**
 * The lines along which squares meet. Near them what is computed may hang on nothing that only one of the two squares knows, so that
 * both come to the same.
 */
export interface Seams {
  /** They lie on whole multiples of it. */
  readonly side: number;
  /** How far from a line both must agree. */
  readonly reach: number;
  /** How far from a line both know all points. */
  readonly known: number;
}

export function seamsOf({ side, margin }: JobSquare): Seams {
  return { side, reach: margin / 2, known: margin };
}

/** How far a place lies from the nearest line between squares. */
export function seamReach({ side }: Seams, easting: number, northing: number): number {
  const from = (value: number): number => {
    const along = value / side - Math.floor(value / side);
    return Math.min(along, 1 - along) * side;
  };
  return Math.min(from(easting), from(northing));
}
