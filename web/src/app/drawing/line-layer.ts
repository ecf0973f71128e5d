import { isInView } from './level-of-detail';
import { drawLines, COARSE, FINE } from './line-rasteriser';
import { coarserSegments } from './line-segments';
import type { DrawnLines } from './drawing-protocol';
import type { Frame, Matrix } from './frame';

/** Segments whose extent is known together: what lies outside the view is passed over so many at a time. */
const PIECE = 512;
/** Segments that a moving picture has time for. */
const MOVING_SEGMENTS = 60_000;

/** Lines of one look, ready to be drawn as often as the view moves. */
export class LineLayer {
  readonly views: DrawnLines['views'];
  private readonly still: Piece[];
  private readonly moving: Piece[];

  constructor(private readonly drawn: DrawnLines) {
    this.views = drawn.views;
    this.still = piecesOf(drawn.positions);
    const coarse = fewSegments(drawn.positions, MOVING_SEGMENTS);
    this.moving = coarse === drawn.positions ? this.still : piecesOf(coarse);
  }

  /** Draws what of them is in the view. */
  draw(
    rgba: Uint8ClampedArray,
    frame: Pick<Frame, 'width' | 'height' | 'depth'>,
    matrix: Matrix,
    isMoving: boolean,
  ): void {
    // Close up there are few, and what has been made coarser for the whole would be seen to be.
    const still = this.still.filter(({ low, high }) => isInView(matrix, low, high, true));
    const isFew = still.length * PIECE <= MOVING_SEGMENTS;
    const pieces =
      isMoving && !isFew ? this.moving.filter(({ low, high }) => isInView(matrix, low, high, true)) : still;
    for (const { positions } of pieces)
      drawLines(rgba, frame, matrix, positions, this.drawn.paint, isMoving ? COARSE : FINE);
  }
}

/** Segments that follow each other in a list, and the box they lie in. */
interface Piece {
  readonly positions: Float32Array;
  readonly low: readonly number[];
  readonly high: readonly number[];
}

function piecesOf(positions: Float32Array): Piece[] {
  const pieces: Piece[] = [];
  for (let from = 0; from < positions.length; from += 6 * PIECE) {
    const part = positions.subarray(from, from + 6 * PIECE);
    let [x0, y0, z0, x1, y1, z1] = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
    for (let k = 0; k < part.length; k += 3) {
      const [x, y, z] = [part[k]!, part[k + 1]!, part[k + 2]!];
      if (x < x0) x0 = x;
      if (x > x1) x1 = x;
      if (y < y0) y0 = y;
      if (y > y1) y1 = y;
      if (z < z0) z0 = z;
      if (z > z1) z1 = z;
    }
    pieces.push({ positions: part, low: [x0, y0, z0], high: [x1, y1, z1] });
  }
  return pieces;
}

/** The same lines with at most so many segments, or as many as there are lines: legs are joined until they span far enough. */
export function fewSegments(positions: Float32Array, most: number): Float32Array {
  if (positions.length / 6 <= most) return positions;
  let length = 0;
  for (let k = 0; k < positions.length; k += 6)
    length += Math.hypot(positions[k + 3]! - positions[k]!, positions[k + 4]! - positions[k + 1]!);
  let before = positions;
  for (let span = length / most; ; span *= 1.7) {
    const coarse = coarserSegments(positions, span);
    // Where a longer span joins nothing more, each line is one segment already.
    if (coarse.length / 6 <= most || coarse.length === before.length) return coarse;
    before = coarse;
  }
}
