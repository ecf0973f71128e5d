import { cornerBetween, cornersOf, shapeOf, type Corner, type LineShape } from '../lines/index.js';
import type { PlanBounds } from '../raster/index.js';
import { ownsPlace } from './job-square.js';

/**
 * What of a line belongs to a square. An open line is cut at the edges, with the elevation that its leg has there, so that the
 * pieces of two neighbours end in one place. A closed line is not cut: it belongs to the square that the middle of its box lies in.
 */
export function lineInSquare(line: LineShape, land: PlanBounds): LineShape[] {
  const corners = cornersOf(line);
  if (line.isClosed) {
    const middle = (of: (corner: Corner) => number): number => {
      let [least, most] = [Infinity, -Infinity];
      for (const corner of corners) [least, most] = [Math.min(least, of(corner)), Math.max(most, of(corner))];
      return (least + most) / 2;
    };
    return ownsPlace(land, middle(({ e }) => e), middle(({ n }) => n)) ? [line] : []; // prettier-ignore
  }
  const pieces: Corner[][] = [];
  let piece: Corner[] | undefined;
  for (let k = 0; k + 1 < corners.length; k++) {
    const [from, to] = [corners[k]!, corners[k + 1]!];
    const part = shareInside(from, to, land);
    if (!part) {
      piece = undefined;
      continue;
    }
    const [enters, leaves] = part;
    if (!piece || enters > 0) pieces.push((piece = [enters > 0 ? onEdge(from, to, enters, land) : from]));
    piece.push(leaves < 1 ? onEdge(from, to, leaves, land) : to);
    if (leaves < 1) piece = undefined;
  }
  return pieces.filter((corners) => corners.length > 1).map((corners) => shapeOf(corners, false));
}

/** The share of a leg that lies in a box, after Liang and Barsky 1984; undefined where none or one place does. */
function shareInside(from: Corner, to: Corner, { west, south, east, north }: PlanBounds): [number, number] | undefined {
  const [dx, dy] = [to.e - from.e, to.n - from.n];
  let [enters, leaves] = [0, 1];
  for (const [towards, room] of [
    [-dx, from.e - west],
    [dx, east - from.e],
    [-dy, from.n - south],
    [dy, north - from.n],
  ] as const)
    if (towards === 0) {
      if (room < 0) return undefined;
    } else if (towards < 0) enters = Math.max(enters, room / towards);
    else leaves = Math.min(leaves, room / towards);
  return enters < leaves ? [enters, leaves] : undefined;
}

/** A place on a leg that lies on an edge to the last digit, worked out in one direction whichever way the line runs. */
function onEdge(from: Corner, to: Corner, share: number, { west, south, east, north }: PlanBounds): Corner {
  const isTurned = from.e > to.e || (from.e === to.e && from.n > to.n);
  const corner = isTurned ? cornerBetween(to, from, 1 - share) : cornerBetween(from, to, share);
  const onto = (value: number, edges: readonly number[]): number =>
    edges.find((edge) => Math.abs(edge - value) < 1e-7) ?? value;
  return { ...corner, e: onto(corner.e, [west, east]), n: onto(corner.n, [south, north]) };
}
