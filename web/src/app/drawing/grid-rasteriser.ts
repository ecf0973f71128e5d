import type { Frame, Matrix } from './frame';

/** A grid of elevations as a surface: two triangles a cell, left out where a corner is missing (NaN). */
export interface DrawnGrid {
  readonly columns: number;
  readonly rows: number;
  /** Corner (0, 0) in scene coordinates, and the step between corners. */
  readonly x: number;
  readonly y: number;
  readonly step: number;
  readonly elevation: Float32Array;
  /** ABGR at each corner. */
  readonly colour: Uint32Array;
}

/**
 * Draws rows `first` to `last` of a grid, flat-coloured by each cell's corner; cells are about a pixel on the screen.
 * @param opacity - below 1 only so many of the pixels are drawn, in an even pattern (Bayer 1973), so that what is behind shows
 */
export function drawGrid(
  frame: Frame,
  matrix: Matrix,
  grid: DrawnGrid,
  first = 0,
  last = grid.rows - 1,
  opacity = 1,
): void {
  const share = Math.round(16 * opacity);
  const { columns, x, y, step, elevation, colour } = grid;
  const { width, height } = frame;
  const rowX = new Float64Array(columns * 2);
  const rowY = new Float64Array(columns * 2);
  const rowZ = new Float64Array(columns * 2);
  const project = (row: number, to: number): void => {
    for (let column = 0; column < columns; column++) {
      const px = x + column * step;
      const py = y + row * step;
      const pz = elevation[row * columns + column]!;
      const w = matrix[3]! * px + matrix[7]! * py + matrix[11]! * pz + matrix[15]!;
      const at = to + column;
      // A corner behind the eye, or without elevation, becomes NaN and takes its triangles with it.
      const scale = w > 0 ? 1 / w : NaN;
      rowX[at] = ((matrix[0]! * px + matrix[4]! * py + matrix[8]! * pz + matrix[12]!) * scale + 1) * 0.5 * width;
      rowY[at] = ((matrix[1]! * px + matrix[5]! * py + matrix[9]! * pz + matrix[13]!) * scale + 1) * 0.5 * height;
      rowZ[at] = (matrix[2]! * px + matrix[6]! * py + matrix[10]! * pz + matrix[14]!) * scale;
    }
  };
  project(first, (first & 1) * columns);
  for (let row = first; row < last; row++) {
    const here = (row & 1) * columns;
    const above = columns - here;
    project(row + 1, above);
    for (let column = 0; column + 1 < columns; column++) {
      const a = here + column;
      const b = a + 1;
      const c = above + column;
      const d = c + 1;
      const paint = colour[row * columns + column]!;
      if (paint === 0) continue;
      fillTriangle(
        frame,
        rowX[a]!,
        rowY[a]!,
        rowZ[a]!,
        rowX[b]!,
        rowY[b]!,
        rowZ[b]!,
        rowX[d]!,
        rowY[d]!,
        rowZ[d]!,
        paint,
        share,
      );
      fillTriangle(
        frame,
        rowX[a]!,
        rowY[a]!,
        rowZ[a]!,
        rowX[d]!,
        rowY[d]!,
        rowZ[d]!,
        rowX[c]!,
        rowY[c]!,
        rowZ[c]!,
        paint,
        share,
      );
    }
  }
}

function fillTriangle(
  frame: Frame,
  ax: number,
  ay: number,
  az: number,
  bx: number,
  by: number,
  bz: number,
  cx: number,
  cy: number,
  cz: number,
  paint: number,
  share: number,
): void {
  const { width, height, depth, colour, point } = frame;
  const area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
  if (!(area > 1e-12 || area < -1e-12)) return; // also NaN: a missing corner
  const minColumn = Math.max(0, Math.ceil(Math.min(ax, bx, cx) - 0.5));
  const maxColumn = Math.min(width - 1, Math.floor(Math.max(ax, bx, cx) - 0.5));
  const minRow = Math.max(0, Math.ceil(Math.min(ay, by, cy) - 0.5));
  const maxRow = Math.min(height - 1, Math.floor(Math.max(ay, by, cy) - 0.5));
  const inverse = 1 / area;
  for (let row = minRow; row <= maxRow; row++) {
    const py = row + 0.5;
    for (let column = minColumn; column <= maxColumn; column++) {
      const px = column + 0.5;
      const wb = ((px - ax) * (cy - ay) - (py - ay) * (cx - ax)) * inverse;
      const wc = ((bx - ax) * (py - ay) - (by - ay) * (px - ax)) * inverse;
      if (wb < 0 || wc < 0 || wb + wc > 1) continue;
      const z = az + (bz - az) * wb + (cz - az) * wc;
      const at = row * width + column;
      if (z < -1 || z > 1 || z >= depth[at]!) continue;
      if (share < 16 && PATTERN[(row & 3) * 4 + (column & 3)]! >= share) continue;
      depth[at] = z;
      colour[at] = paint;
      point[at] = 0;
    }
  }
}

/** In which order the pixels of a square are drawn as more and more of them are (Bayer 1973). */
const PATTERN = Uint8Array.of(0, 8, 2, 10, 12, 4, 14, 6, 3, 11, 1, 9, 15, 7, 13, 5);
