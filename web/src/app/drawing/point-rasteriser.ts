import type { Frame, Matrix } from './frame';

/*
 * Draws points into plain arrays, without a graphics card: on software WebGL the same points take ten times as
 * long and block the page. Runs in a worker; pure, so that it is tested on its own.
 */

/** Points of one node, about the node's own centre. */
export interface DrawnPoints {
  readonly count: number;
  readonly x: Float32Array;
  readonly y: Float32Array;
  readonly z: Float32Array;
  /** ABGR; 0 hides the point. */
  readonly colour: Uint32Array;
}

/**
 * Draws the points `first` to `last` of a node as squares of `size` pixels with a depth test.
 * @param matrix - from the node's own coordinates to clip space
 * @param slot - 1 to 65 535, found again in `frame.point`
 * @returns how many points fell inside the view
 */
export function drawPoints(
  frame: Frame,
  matrix: Matrix,
  points: DrawnPoints,
  slot: number,
  size: number,
  first = 0,
  last = points.count,
): number {
  const { width, height, depth, colour, point } = frame;
  const { x, y, z } = points;
  const colours = points.colour;
  const m0 = matrix[0]!,
    m1 = matrix[1]!,
    m2 = matrix[2]!,
    m3 = matrix[3]!;
  const m4 = matrix[4]!,
    m5 = matrix[5]!,
    m6 = matrix[6]!,
    m7 = matrix[7]!;
  const m8 = matrix[8]!,
    m9 = matrix[9]!,
    m10 = matrix[10]!,
    m11 = matrix[11]!;
  const m12 = matrix[12]!,
    m13 = matrix[13]!,
    m14 = matrix[14]!,
    m15 = matrix[15]!;
  const isPerspective = m3 !== 0 || m7 !== 0 || m11 !== 0;
  const tag = slot << 16;
  const before = (size - 1) >> 1;
  let inside = 0;
  if (!isPerspective && size === 2) {
    // Plan and Section, the usual size: straight to pixels, the four of a point without a loop.
    const hw = width / 2;
    const hh = height / 2;
    const ax = m0 * hw,
      bx = m4 * hw,
      cx = m8 * hw,
      dx = (m12 + 1) * hw;
    const ay = m1 * hh,
      by = m5 * hh,
      cy = m9 * hh,
      dy = (m13 + 1) * hh;
    const lastColumn = width - 1;
    const lastRow = height - 1;
    for (let i = first; i < last; i++) {
      const c = colours[i]!;
      if (c === 0) continue;
      const px = x[i]!;
      const py = y[i]!;
      const pz = z[i]!;
      const fx = ax * px + bx * py + cx * pz + dx;
      if (!(fx >= 0 && fx < width)) continue;
      const fy = ay * px + by * py + cy * pz + dy;
      if (!(fy >= 0 && fy < height)) continue;
      const d = m2 * px + m6 * py + m10 * pz + m14;
      if (d < -1 || d > 1) continue;
      inside++;
      const column = fx | 0;
      const row = fy | 0;
      const at = row * width + column;
      const t = tag | i;
      if (d < depth[at]!) {
        depth[at] = d;
        colour[at] = c;
        point[at] = t;
      }
      if (column < lastColumn && d < depth[at + 1]!) {
        depth[at + 1] = d;
        colour[at + 1] = c;
        point[at + 1] = t;
      }
      if (row < lastRow) {
        const up = at + width;
        if (d < depth[up]!) {
          depth[up] = d;
          colour[up] = c;
          point[up] = t;
        }
        if (column < lastColumn && d < depth[up + 1]!) {
          depth[up + 1] = d;
          colour[up + 1] = c;
          point[up + 1] = t;
        }
      }
    }
    return inside;
  }
  const halfWidth = width / 2;
  const halfHeight = height / 2;
  for (let i = first; i < last; i++) {
    const c = colours[i]!;
    if (c === 0) continue;
    const px = x[i]!;
    const py = y[i]!;
    const pz = z[i]!;
    let cx = m0 * px + m4 * py + m8 * pz + m12;
    let cy = m1 * px + m5 * py + m9 * pz + m13;
    let cz = m2 * px + m6 * py + m10 * pz + m14;
    if (isPerspective) {
      const w = m3 * px + m7 * py + m11 * pz + m15;
      if (w <= 0) continue;
      const inverse = 1 / w;
      cx *= inverse;
      cy *= inverse;
      cz *= inverse;
    }
    if (cz < -1 || cz > 1 || cx < -1 || cx >= 1 || cy < -1 || cy >= 1) continue;
    inside++;
    const column = ((cx + 1) * halfWidth) | 0;
    const row = ((cy + 1) * halfHeight) | 0;
    const left = column - before < 0 ? 0 : column - before;
    const right = column - before + size > width ? width : column - before + size;
    const bottom = row - before < 0 ? 0 : row - before;
    const top = row - before + size > height ? height : row - before + size;
    for (let r = bottom; r < top; r++) {
      for (let at = r * width + left, end = r * width + right; at < end; at++) {
        if (cz < depth[at]!) {
          depth[at] = cz;
          colour[at] = c;
          point[at] = tag | i;
        }
      }
    }
  }
  return inside;
}
