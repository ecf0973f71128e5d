import { signedArea } from '../measuring/index.js';
import { cellRings, connectedCells, planBounds, squaredDistances } from '../raster/index.js';

export interface VoidOptions {
  /** Side of the cells that ground is gathered in, job units. */
  readonly cell: number;
  /** A disc this wide fits everywhere into a void; narrower gaps between ground points are none. Job units. */
  readonly width: number;
}

/** Land within the ground that has none. */
export interface VoidOutline {
  /** The outer edge counter-clockwise, then islands of ground in it the other way; job units. */
  readonly rings: readonly { readonly easting: Float64Array; readonly northing: Float64Array }[];
  /** Square job units. */
  readonly area: number;
}

/**
 * Voids: places within the land covered by ground points in which discs of some width hold none (a morphological opening of what is left
 * free, exact in cells). What is open towards the edge of the points is outside, not a void. The largest first.
 */
export function voidOutlines(
  { easting, northing }: { readonly easting: Float64Array; readonly northing: Float64Array },
  { cell, width }: VoidOptions,
): VoidOutline[] {
  if (easting.length === 0) return [];
  const { west, south, east, north } = planBounds(easting, northing);
  // Room about the points for a disc and more, so that outside is one piece.
  const margin = Math.ceil(width / cell) + 2;
  const [left, bottom] = [Math.floor(west / cell) - margin, Math.floor(south / cell) - margin];
  const columns = Math.floor(east / cell) - left + 1 + margin;
  const rows = Math.floor(north / cell) - bottom + 1 + margin;
  const isGround = new Uint8Array(columns * rows);
  for (let i = 0; i < easting.length; i++)
    isGround[(Math.floor(northing[i]! / cell) - bottom) * columns + Math.floor(easting[i]! / cell) - left] = 1;
  const frame = { columns, rows };
  const radius = (width / 2 / cell) ** 2;
  const free = squaredDistances(frame, isGround);
  const middles = Uint8Array.from(free, (squared) => (squared > radius ? 1 : 0));
  const reached = squaredDistances(frame, middles);
  const isOpen = (at: number): boolean => isGround[at] === 0 && reached[at]! <= radius;
  const isAtRim = (at: number): boolean => {
    const [column, row] = [at % columns, Math.floor(at / columns)];
    return column === 0 || row === 0 || column === columns - 1 || row === rows - 1;
  };
  const inPiece = new Uint8Array(columns * rows);
  return connectedCells(frame, isOpen)
    .filter((piece) => !piece.some(isAtRim))
    .map((piece): VoidOutline => {
      for (const at of piece) inPiece[at] = 1;
      const rings = cellRings(frame, (at) => inPiece[at] === 1, piece)
        .sort((a, b) => Number(a.isIsland) - Number(b.isIsland))
        .map(({ corners }) => ({
          easting: Float64Array.from(corners, ([x]) => (left + x) * cell),
          northing: Float64Array.from(corners, ([, y]) => (bottom + y) * cell),
        }));
      for (const at of piece) inPiece[at] = 0;
      const area = rings.reduce(
        (sum, ring) => sum + signedArea(Array.from(ring.easting, (e, k) => [e, ring.northing[k]!] as const)),
        0,
      );
      return { rings, area };
    })
    .sort((a, b) => b.area - a.area);
}
