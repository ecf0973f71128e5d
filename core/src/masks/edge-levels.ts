import { inverseOf, type PictureFrame } from '../imagery/index.js';
import { piecesOf } from '../raster/index.js';

/** Points that an edge's level is told by: the nearest, whatever their number beyond. */
const ENOUGH = 30;

/** Points of the ground. */
interface Ground {
  readonly easting: Float64Array;
  readonly northing: Float64Array;
  readonly elevation: Float64Array;
}

/**
 * The level of each piece of a mask from the ground just outside it: the median of the nearest ground points, ring of pixels by ring of pixels, until there are
 * enough of them.
 * @param reach - pixels outwards that are looked at
 * @returns the level that the piece at a pixel has; NaN where no ground lies near
 */
export function edgeLevels(
  mask: Uint8Array,
  frame: PictureFrame,
  ground: Ground,
  reach: number,
): (column: number, row: number) => number {
  const { columns, rows } = frame;
  const pieces = piecesOf(frame, mask, 1, true);
  /** The piece that a pixel belongs to or lies near, from 1 on; 0 for none. */
  const near = new Int32Array(columns * rows);
  const ring = new Uint16Array(columns * rows);
  for (let run = 0; run < pieces.from.length; run++)
    near.fill(pieces.piece[run]! + 1, pieces.from[run]!, pieces.to[run]!);
  let front: number[] = [];
  for (let run = 0; run < pieces.from.length; run++)
    for (let at = pieces.from[run]!; at < pieces.to[run]!; at++) {
      const column = at % columns;
      const isInner =
        column > 0 && column < columns - 1 && at >= columns && at < columns * (rows - 1) &&
        mask[at - 1] === 1 && mask[at + 1] === 1 && mask[at - columns] === 1 && mask[at + columns] === 1; // prettier-ignore
      if (!isInner) front.push(at);
    }
  for (let step = 1; step <= reach; step++) {
    const next: number[] = [];
    for (const at of front) {
      const [column, row] = [at % columns, Math.floor(at / columns)];
      for (let dr = -1; dr <= 1; dr++)
        for (let dc = -1; dc <= 1; dc++) {
          const [c, r] = [column + dc, row + dr];
          if (c < 0 || r < 0 || c >= columns || r >= rows) continue;
          const to = r * columns + c;
          if (near[to] !== 0) continue;
          near[to] = near[at]!;
          ring[to] = step;
          next.push(to);
        }
    }
    front = next;
  }
  const seen: { ring: number; z: number }[][] = Array.from({ length: pieces.cells.length }, () => []);
  const { a, b, c, d } = inverseOf(frame);
  for (let i = 0; i < ground.easting.length; i++) {
    const [e, n] = [ground.easting[i]! - frame.east, ground.northing[i]! - frame.north];
    const [column, row] = [Math.floor(a * e + b * n), Math.floor(c * e + d * n)];
    if (column < 0 || row < 0 || column >= columns || row >= rows) continue;
    const at = row * columns + column;
    if (near[at] !== 0 && mask[at] === 0) seen[near[at]! - 1]!.push({ ring: ring[at]!, z: ground.elevation[i]! });
  }
  const levels = seen.map((points) => {
    points.sort((p, q) => p.ring - q.ring || p.z - q.z);
    let count = Math.min(ENOUGH, points.length);
    // All of a ring of pixels, so that the answer is that of no order.
    while (count < points.length && points[count]!.ring === points[count - 1]!.ring) count++;
    const heights = points.slice(0, count).map(({ z }) => z);
    heights.sort((p, q) => p - q);
    const half = count >> 1;
    return count === 0 ? NaN : count % 2 === 1 ? heights[half]! : (heights[half - 1]! + heights[half]!) / 2;
  });
  return (column, row) => {
    const piece = column < 0 || row < 0 || column >= columns || row >= rows ? 0 : near[row * columns + column]!;
    return piece === 0 ? NaN : levels[piece - 1]!;
  };
}
