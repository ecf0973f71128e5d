import { PamperoError } from '../task/index.js';

/**
 * A frame camera with its lens. A direction (x to the right of the picture, y down it, 1 along the axis) is seen at
 * column = principalColumn + focal · x', row = principalRow + focal · y', where x' and y' are x and y as the lens bends them (Brown 1971,
 * "Close-range camera calibration"): x' = x (1 + k1 r² + k2 r⁴ + k3 r⁶) + p1 (r² + 2x²) + 2 p2 x y, and y' with p1 and p2 exchanged.
 */
export interface Camera {
  readonly columns: number;
  readonly rows: number;
  /** Principal distance, in pixels. */
  readonly focal: number;
  /** Pixel coordinates from the outer corner of the upper left pixel. */
  readonly principalColumn: number;
  readonly principalRow: number;
  readonly k1: number;
  readonly k2: number;
  readonly k3: number;
  readonly p1: number;
  readonly p2: number;
}

/** Where the lens brings a direction; written into `out`. */
export function distort({ k1, k2, k3, p1, p2 }: Camera, x: number, y: number, out: Float64Array): void {
  const square = x * x + y * y;
  const radial = 1 + square * (k1 + square * (k2 + square * k3));
  out[0] = x * radial + p1 * (square + 2 * x * x) + 2 * p2 * x * y;
  out[1] = y * radial + p2 * (square + 2 * y * y) + 2 * p1 * x * y;
}

/** The direction that the lens brought here: {@link distort} backwards, iterated. */
export function undistort(camera: Camera, x: number, y: number): [number, number] {
  const bent = new Float64Array(2);
  let [u, v] = [x, y];
  for (let round = 0; round < 50; round++) {
    distort(camera, u, v, bent);
    const [du, dv] = [x - bent[0]!, y - bent[1]!];
    u += du;
    v += dv;
    if (Math.abs(du) + Math.abs(dv) < 1e-14) break;
  }
  return [u, v];
}

/** Directions are followed this much beyond the corners of the picture. */
const BEYOND_CORNERS = 1.02;
const STEP = 1e-3;

/**
 * The largest r = √(x² + y²) of a direction that can be seen. Far outside a picture the polynomial of the lens turns back, and what is
 * not in the picture at all would come into it again.
 * @throws PamperoError `lens-turns-back` where that happens within the picture
 */
export function widestAngle(camera: Camera): number {
  const { columns, rows, focal, principalColumn, principalRow, k1, k2, k3 } = camera;
  const corner =
    (BEYOND_CORNERS *
      Math.hypot(Math.max(principalColumn, columns - principalColumn), Math.max(principalRow, rows - principalRow))) /
    focal;
  let last = 0;
  for (let r = STEP; ; r += STEP) {
    const square = r * r;
    const bent = r * (1 + square * (k1 + square * (k2 + square * k3)));
    if (bent >= corner) return r;
    if (bent <= last || r > 20)
      throw new PamperoError('lens-turns-back', {
        what: 'By these numbers the lens folds the picture over before its corners.',
        fix: 'Check the radial distortion: it is without unit here, with r counted in focal lengths and not in millimetres or pixels.',
      });
    last = bent;
  }
}
