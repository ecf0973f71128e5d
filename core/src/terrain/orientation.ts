import { orient2d } from 'robust-predicates';

/**
 * Exact turn of three points: positive when a, b, c run counter-clockwise (easting to the right, northing up), negative
 * clockwise, 0 only when truly in line. The one place where the library's y-down sign is turned.
 */
export function orientation(ax: number, ay: number, bx: number, by: number, cx: number, cy: number): number {
  return -orient2d(ax, ay, bx, by, cx, cy);
}
