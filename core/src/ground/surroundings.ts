import type { RasterFrame } from '../raster/index.js';
import { planeThrough } from './piece-planes.js';

/** Where surroundings begin, metres from a cell, a patch may be as wide as that; and up to where they are sought. */
const NEAREST_METRES = [2, 3, 5] as const;
const FURTHEST_METRES = 15;
/** Lines through a cell. */
const LINES = 8;
const FIRST = Uint8Array.from({ length: 2 * LINES }, (_, k) => k);
/** On so many half lines something has to be known, and on so many lines on both sides; on more where the raster ends within reach. */
const LEAST_KNOWN = 8;
const LEAST_LINES = { inside: 2, atEdge: 4 } as const;
/** Surroundings are one plane where they scatter about it by no more than this share of what the cell stands out by. */
const SCATTER = 0.25;

/** The cells to ask of each half line, the nearest first, half line after half line; a line's two halves follow each other. */
interface Ring {
  readonly steps: number;
  readonly columns: Int32Array;
  readonly rows: Int32Array;
  /** Distances, in cells. */
  readonly far: Float64Array;
}

function ringOf(nearest: number, furthest: number): Ring {
  const first = Math.max(2, Math.round(nearest));
  const steps = Math.max(3, Math.floor(furthest)) - first + 1;
  const of = (at: (angle: number, far: number) => number): number[] =>
    Array.from({ length: 2 * LINES * steps }, (_, k) => {
      const half = Math.floor(k / steps);
      return at(((half >> 1) * Math.PI) / LINES + (half & 1) * Math.PI, first + (k % steps));
    });
  const columns = Int32Array.from(of((angle, far) => Math.round(far * Math.cos(angle))));
  const rows = Int32Array.from(of((angle, far) => Math.round(far * Math.sin(angle))));
  return { steps, columns, rows, far: Float64Array.from(columns, (c, k) => Math.hypot(c, rows[k]!)) };
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
  heights: Float64Array,
  least: number,
  metre: number,
  own = heights,
  isShut?: (i: number) => boolean,
): Float64Array {
  const { columns, rows, cell } = frame;
  const out = new Float64Array(columns * rows);
  const rings = NEAREST_METRES.map((nearest) => ringOf((nearest * metre) / cell, (FURTHEST_METRES * metre) / cell));
  // What is known about a cell: places and heights from it, of at most one cell a half line.
  const [x, y, z] = [new Float64Array(2 * LINES), new Float64Array(2 * LINES), new Float64Array(2 * LINES)];
  for (let row = 0, i = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, i++)
      if (!Number.isNaN(own[i]!))
        for (const ring of rings) {
          const off = offPlane(column, row, own[i]!, ring);
          if (Math.abs(off) > Math.abs(out[i]!)) out[i] = off;
        }
  return out;

  function offPlane(column: number, row: number, height: number, ring: Ring): number {
    let [side, lines, known] = [0, 0, 0];
    let isAtEdge = false;
    for (let line = 0; line < LINES; line++) {
      let [both, along, middle] = [0, 0, 0];
      for (let half = 2 * line; half <= 2 * line + 1; half++)
        for (let k = half * ring.steps; k < (half + 1) * ring.steps; k++) {
          const [c, r] = [column + ring.columns[k]!, row + ring.rows[k]!];
          if (c < 0 || c >= columns || r < 0 || r >= rows) {
            isAtEdge = true;
            break;
          }
          const off = heights[r * columns + c]! - height;
          if (Number.isNaN(off)) {
            if (isShut?.(r * columns + c)) break;
            continue;
          }
          [x[known], y[known], z[known]] = [ring.columns[k]!, ring.rows[k]!, off];
          known++;
          // Between the two halves the height in the middle, by their distances.
          const far = ring.far[k]!;
          middle = both === 0 ? off : (middle * far + off * along) / (along + far);
          along = far;
          both++;
          break;
        }
      if (both < 2) continue;
      lines++;
      const is = middle < -least ? 1 : middle > least ? -1 : 0;
      // A line that goes on through the cell settles it, and most cells lie on one.
      if (is === 0 || (side !== 0 && is !== side)) return 0;
      side = is;
    }
    if (lines < LEAST_LINES[isAtEdge ? 'atEdge' : 'inside'] || known < LEAST_KNOWN) return 0;
    const plane = planeThrough(FIRST.subarray(0, known), x, y, z);
    if (!plane) return 0;
    const level = plane.z - plane.east * plane.x - plane.north * plane.y;
    return plane.scatter <= SCATTER * Math.abs(level) && level * side < 0 ? -level : 0;
  }
}
