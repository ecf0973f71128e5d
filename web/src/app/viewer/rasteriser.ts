/**
 * Draws points and surfaces into plain arrays, without a graphics card: on software WebGL the same points take ten times as
 * long and block the page. Runs in a worker; pure, so that it is tested on its own.
 */

/** One view's picture under way. Row 0 is at the bottom, as WebGL has it. */
export interface Frame {
  readonly width: number;
  readonly height: number;
  /** Depth of the nearest thing, −1 (near) to 1 (far) as in clip space; 2 where there is nothing. */
  readonly depth: Float32Array;
  /** ABGR as an `ImageData` has it on a little-endian machine; 0 where there is nothing. */
  readonly colour: Uint32Array;
  /** Which point: slot of its node in the upper 16 bits, place in the node in the lower; 0 for none or a surface. */
  readonly point: Uint32Array;
}

export function newFrame(width: number, height: number): Frame {
  const size = width * height;
  return {
    width,
    height,
    depth: new Float32Array(size).fill(2),
    colour: new Uint32Array(size),
    point: new Uint32Array(size),
  };
}

/** Sixteen numbers, column-major as three.js has them: clip = M · (x, y, z, 1). */
export type Matrix = ArrayLike<number>;

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
  const halfWidth = width / 2;
  const halfHeight = height / 2;
  const before = (size - 1) >> 1;
  const tag = slot << 16;
  let inside = 0;
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
      cx /= w;
      cy /= w;
      cz /= w;
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

/** Draws rows `first` to `last` of a grid, flat-coloured by each cell's corner; cells are about a pixel on the screen. */
export function drawGrid(frame: Frame, matrix: Matrix, grid: DrawnGrid, first = 0, last = grid.rows - 1): void {
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
      depth[at] = z;
      colour[at] = paint;
      point[at] = 0;
    }
  }
}

/** How depth becomes distance, for shading: `far - near` spread evenly, or as perspective spreads it. */
export interface DepthScale {
  readonly isPerspective: boolean;
  readonly near: number;
  readonly far: number;
  /** Size of a pixel in job units; at distance 1 where perspective. */
  readonly pixel: number;
}

/**
 * Depth shading: darkens a pixel that lies behind its neighbours, so that shape reads without colour, and in views from
 * above lights slopes from the north-west. After Boucheny 2009 ("eye-dome lighting"), with the second difference in place
 * of the first, so that a plane seen at a slant is not darkened.
 * @returns RGBA for each pixel; transparent where there is nothing
 */
export function shadeFrame(frame: Frame, scale: DepthScale, strength: number): Uint8ClampedArray<ArrayBuffer> {
  const { width, height, depth, colour } = frame;
  const rgba = new Uint8ClampedArray(width * height * 4);
  const out = new Uint32Array(rgba.buffer);
  if (strength === 0) {
    out.set(colour);
    return rgba;
  }
  const { isPerspective, near, far } = scale;
  const distance = new Float32Array(width * height);
  const span = far - near;
  for (let i = 0; i < distance.length; i++) {
    const d = depth[i]!;
    distance[i] = d > 1 ? Infinity : isPerspective ? (2 * near * far) / (far + near - d * span) : ((d + 1) / 2) * span;
  }
  for (let row = 0, at = 0; row < height; row++) {
    const below = row > 0 ? width : 0;
    const above = row < height - 1 ? width : 0;
    for (let column = 0; column < width; column++, at++) {
      const own = distance[at]!;
      if (own === Infinity) continue;
      const left = distance[column > 0 ? at - 1 : at]!;
      const right = distance[column < width - 1 ? at + 1 : at]!;
      const down = distance[at - below]!;
      const up = distance[at + above]!;
      const pixel = isPerspective ? scale.pixel * own : scale.pixel;
      const limit = 8 * pixel;
      const hasSides = left !== Infinity && right !== Infinity;
      const hasEnds = down !== Infinity && up !== Infinity;
      let behind = 0;
      if (hasSides) {
        const bend = (own - left < limit ? own - left : limit) + (own - right < limit ? own - right : limit);
        if (bend > 0) behind += bend;
      }
      if (hasEnds) {
        const bend = (own - down < limit ? own - down : limit) + (own - up < limit ? own - up : limit);
        if (bend > 0) behind += bend;
      }
      // Near enough an exponential, at a fraction of its cost: a million pixels a picture.
      const dim = (strength * behind) / (pixel * 6);
      let light = 1 / (1 + dim + 0.5 * dim * dim);
      if (!isPerspective) {
        // A slope facing the upper left is nearer to the eye on its lower right.
        const east = hasSides ? clamp((left - right) / (2 * pixel), 1.2) : 0;
        const north = hasEnds ? clamp((down - up) / (2 * pixel), 1.2) : 0;
        light *= 1 + clamp((north - east) * -0.32 * strength, 0.42);
      }
      const c = colour[at]!;
      const r = ((c & 255) * light) | 0;
      const g = (((c >> 8) & 255) * light) | 0;
      const b = (((c >> 16) & 255) * light) | 0;
      out[at] = 0xff000000 | ((b > 255 ? 255 : b) << 16) | ((g > 255 ? 255 : g) << 8) | (r > 255 ? 255 : r);
    }
  }
  return rgba;
}

function clamp(value: number, limit: number): number {
  return value > limit ? limit : value < -limit ? -limit : value;
}

/** The point drawn nearest a pixel within `reach` pixels of it, or `undefined`. */
export function pickPoint(
  frame: Frame,
  column: number,
  row: number,
  reach: number,
): { slot: number; index: number } | undefined {
  let best = reach * reach + 1;
  let found = 0;
  for (let r = Math.max(0, row - reach); r <= Math.min(frame.height - 1, row + reach); r++) {
    for (let c = Math.max(0, column - reach); c <= Math.min(frame.width - 1, column + reach); c++) {
      const tag = frame.point[r * frame.width + c]!;
      const far = (r - row) ** 2 + (c - column) ** 2;
      if (tag !== 0 && far < best) {
        best = far;
        found = tag;
      }
    }
  }
  return found === 0 ? undefined : { slot: found >>> 16, index: found & 0xffff };
}
