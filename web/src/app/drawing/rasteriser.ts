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
 * The outermost pixels, which have no neighbours, stay as they are.
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
  out.set(colour);
  const { isPerspective, near, far, pixel } = scale;
  // Orthographic depth is distance but for a factor; perspective has to be spread out first, and a pixel grows with it.
  const distance = isPerspective ? spreadDepth(depth, near, far) : depth;
  const unit = isPerspective ? pixel : (2 * pixel) / (far - near);
  const shaded = new Int32Array(rgba.buffer);
  const nothing = isPerspective ? far * 4 : 1;
  for (let row = 1; row < height - 1; row++) {
    let at = row * width + 1;
    const end = row * width + width - 1;
    let left = distance[at - 1]!;
    let own = distance[at]!;
    for (; at < end; at++) {
      const right = distance[at + 1]!;
      if (own <= nothing) {
        const size = isPerspective ? unit * own : unit;
        const limit = 8 * size;
        const down = distance[at - width]!;
        const up = distance[at + width]!;
        // Beside a hole the difference is far below zero, and the pair says nothing.
        const across = Math.min(own - left, limit) + Math.min(own - right, limit);
        const along = Math.min(own - down, limit) + Math.min(own - up, limit);
        // Near enough an exponential, at a fraction of its cost: a million pixels a picture.
        const dim = (strength / 6 / size) * (Math.max(0, across) + Math.max(0, along));
        let light = 1 / (1 + dim + 0.5 * dim * dim);
        if (!isPerspective) {
          // A slope facing the upper left is nearer to the eye on its lower right.
          const most = 2.4 * size;
          const east = left > nothing || right > nothing ? 0 : Math.max(-most, Math.min(most, left - right));
          const north = down > nothing || up > nothing ? 0 : Math.max(-most, Math.min(most, down - up));
          light *= 1 + Math.max(-0.42, Math.min(0.42, ((east - north) * 0.16 * strength) / size));
        }
        const level = (light * 256) | 0;
        const c = shaded[at]!;
        const r = ((c & 255) * level) >> 8;
        const g = (((c >> 8) & 255) * level) >> 8;
        const b = (((c >> 16) & 255) * level) >> 8;
        shaded[at] = 0xff000000 | (Math.min(b, 255) << 16) | (Math.min(g, 255) << 8) | Math.min(r, 255);
      }
      left = own;
      own = right;
    }
  }
  return rgba;
}

/** Distance from the eye of every pixel; far beyond everything where there is nothing. */
function spreadDepth(depth: Float32Array, near: number, far: number): Float32Array {
  const distance = new Float32Array(depth.length);
  const [product, sum, span] = [2 * near * far, far + near, far - near];
  for (let i = 0; i < depth.length; i++) {
    const d = depth[i]!;
    distance[i] = d > 1 ? far * 8 : product / (sum - d * span);
  }
  return distance;
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
