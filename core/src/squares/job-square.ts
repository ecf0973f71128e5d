import type { PlanBounds } from '../raster/index.js';

/** The square of a site that a job works on: its points reach further by the margin, what leaves ends at its edges. */
export interface JobSquare {
  readonly land: PlanBounds;
  readonly margin: number;
}

/** Whether a place belongs to a square: of the places on its edges those in the west and south do. */
export function ownsPlace({ west, south, east, north }: PlanBounds, easting: number, northing: number): boolean {
  return easting >= west && easting < east && northing >= south && northing < north;
}

/** Whether a place lies in a square or on its edge. */
export function holdsPlace({ west, south, east, north }: PlanBounds, easting: number, northing: number): boolean {
  return easting >= west && easting <= east && northing >= south && northing <= north;
}

/**
 * The lines along which squares meet. Near them what is computed may hang on nothing that only one of the two squares knows, so that
 * both come to the same.
 */
export interface Seams {
  /** A corner of a square, and the side of all. */
  readonly east: number;
  readonly north: number;
  readonly side: number;
  /** How far from a line both must agree. */
  readonly reach: number;
  /** How far from a line both know all points. */
  readonly known: number;
}

export function seamsOf({ land: { west, south, east }, margin }: JobSquare): Seams {
  return { east: west, north: south, side: east - west, reach: margin / 2, known: margin };
}

/** How far a place lies from the nearest line between squares. */
export function seamReach({ east, north, side }: Seams, easting: number, northing: number): number {
  const from = (value: number): number => {
    const along = value / side - Math.floor(value / side);
    return Math.min(along, 1 - along) * side;
  };
  return Math.min(from(easting - east), from(northing - north));
}
