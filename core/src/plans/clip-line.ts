import type { PlanBounds } from '../raster/index.js';

/** A stretch of a line within a window: a place after another, east and north in turn. */
export type ClippedPiece = readonly number[];

/**
 * The pieces of a polyline that lie in a window, each leg cut by Y.-D. Liang and B. A. Barsky (1984), "A New Concept and Method for
 * Line Clipping", ACM Transactions on Graphics 3(1), 1-22.
 * @param from - first vertex of the line in the columns; `to` is the one after its last
 */
export function clipLine(
  easting: ArrayLike<number>,
  northing: ArrayLike<number>,
  { west, south, east, north }: PlanBounds,
  from = 0,
  to = easting.length,
): ClippedPiece[] {
  const pieces: number[][] = [];
  let piece: number[] | undefined;
  for (let v = from; v + 1 < to; v++) {
    const [x, y] = [easting[v]!, northing[v]!];
    const [dx, dy] = [easting[v + 1]! - x, northing[v + 1]! - y];
    let [enters, leaves] = [0, 1];
    for (const [towards, room] of [
      [-dx, x - west],
      [dx, east - x],
      [-dy, y - south],
      [dy, north - y],
    ] as const)
      if (towards === 0) {
        if (room < 0) leaves = -1; // beside it all along
      } else if (towards < 0) enters = Math.max(enters, room / towards);
      else leaves = Math.min(leaves, room / towards);
    if (enters > leaves) {
      piece = undefined;
      continue;
    }
    if (!piece || enters > 0) pieces.push((piece = [x + enters * dx, y + enters * dy]));
    piece.push(x + leaves * dx, y + leaves * dy);
    if (leaves < 1) piece = undefined;
  }
  return pieces;
}
