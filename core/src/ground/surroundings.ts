import type { RasterFrame } from '../raster/index.js';
import { planeThrough } from './piece-planes.js';

/** Where surroundings begin, metres from a cell, a patch may be as wide as that; and up to where they are sought. */
const NEAREST_METRES = [2, 3, 5] as const;
const FURTHEST_METRES = 15;
/** Lines through a cell. */
const LINES = 8;
/** On so many half lines something has to be known, and on so many lines on both sides; on more where the raster ends within reach. */
const LEAST_KNOWN = 8;
const LEAST_LINES = { inside: 2, atEdge: 4 } as const;
/** Surroundings are one plane where they scatter about it by no more than this share of what the cell stands out by. */
const SCATTER = 0.25;

/** Of each half line the cells to ask, the nearest first; a line's two halves follow each other. */
type Ring = readonly (readonly (readonly [column: number, row: number])[])[];

function ringOf(nearest: number, furthest: number): Ring {
  return Array.from({ length: 2 * LINES }, (_, k) => {
    const angle = ((k >> 1) * Math.PI) / LINES + (k & 1) * Math.PI;
    const cells: [number, number][] = [];
    for (let far = Math.max(2, Math.round(nearest)); far <= Math.max(3, furthest); far++)
      cells.push([Math.round(far * Math.cos(angle)), Math.round(far * Math.sin(angle))]);
    return cells;
  });
}

/**
 * How far each cell stands over (or, negative, lies under) a plane through the known cells about it, in units of the heights; 0 where it is nearer
 * than `least`, and where it does not stand out of the middle between opposite cells in every direction, as a bank or a ditch does not. Gaps
 * of up to 15 m are looked across. Where the land about is in steps it is no plane, and nothing is said.
 * @param heights - of the cells, NaN where unknown
 * @param own - of the cells asked about, where that is something else
 * @param isShut - whether a cell is not to be looked across
 * @param least - job units
 */
export function standingOut(
  frame: RasterFrame,
  heights: ArrayLike<number>,
  least: number,
  metre: number,
  own = heights,
  isShut: (i: number) => boolean = () => false,
): Float64Array {
  const { columns, rows, cell } = frame;
  const out = new Float64Array(columns * rows);
  const rings = NEAREST_METRES.map((nearest) => ringOf((nearest * metre) / cell, (FURTHEST_METRES * metre) / cell));
  for (let row = 0, i = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, i++)
      if (!Number.isNaN(own[i]!))
        for (const ring of rings) {
          const off = offPlane(frame, heights, own[i]!, column, row, ring, least, isShut);
          if (Math.abs(off) > Math.abs(out[i]!)) out[i] = off;
        }
  return out;
}

function offPlane(
  { columns, rows }: RasterFrame,
  heights: ArrayLike<number>,
  own: number,
  column: number,
  row: number,
  ring: Ring,
  least: number,
  isShut: (i: number) => boolean,
): number {
  const known: number[] = [];
  const [x, y, z]: [number[], number[], number[]] = [[], [], []];
  let [side, lines] = [0, 0];
  let isAtEdge = false;
  for (let line = 0; line < LINES; line++) {
    let [both, along, middle] = [0, 0, 0];
    for (const half of [0, 1] as const)
      for (const [c, r] of ring[2 * line + half]!) {
        if (column + c < 0 || column + c >= columns || row + r < 0 || row + r >= rows) {
          isAtEdge = true;
          break;
        }
        const at = (row + r) * columns + column + c;
        const there = heights[at]!;
        if (Number.isNaN(there)) {
          if (isShut(at)) break;
          continue;
        }
        const off = there - own;
        both++;
        known.push(known.length);
        x.push(c);
        y.push(r);
        z.push(off);
        // Between the two halves the height in the middle, by their distances.
        const far = Math.hypot(c, r);
        if (half === 0) [along, middle] = [far, off];
        else middle = (middle * far + off * along) / (along + far);
        break;
      }
    if (both < 2) continue;
    lines++;
    const is = middle < -least ? 1 : middle > least ? -1 : 0;
    // A line that goes on through the cell settles it, and most cells lie on one.
    if (is === 0 || (side !== 0 && is !== side)) return 0;
    side = is;
  }
  if (lines < LEAST_LINES[isAtEdge ? 'atEdge' : 'inside'] || known.length < LEAST_KNOWN) return 0;
  const plane = planeThrough(known, x, y, z);
  if (!plane) return 0;
  const level = plane.z - plane.east * plane.x - plane.north * plane.y;
  return plane.scatter <= SCATTER * Math.abs(level) && level * side < 0 ? -level : 0;
}
