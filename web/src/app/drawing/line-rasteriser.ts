import type { Frame, Matrix } from './frame';

/** Lines a little behind the points of the ground they run on are still seen. */
const DEPTH_BIAS = 0.0008;

/** Below a pixel nobody sees a bend; while the view moves, nor below three. */
export const [FINE, COARSE] = [0.9, 3] as const;

/** How a layer of lines looks in the frame. */
export interface LinePaint {
  /** Red, green and blue, 0 to 255. */
  readonly rgb: readonly [number, number, number];
  readonly opacity: number;
  readonly isDepthTested: boolean;
}

/** A picture that lines are drawn over, in one colour. */
interface Canvas {
  /** Red, green, blue and alpha of each, from the lowest byte up. */
  readonly pixels: Uint32Array;
  readonly width: number;
  readonly height: number;
  readonly depth: Float32Array;
  readonly red: number;
  readonly green: number;
  readonly blue: number;
  readonly opacity: number;
  readonly isDepthTested: boolean;
  /** One pixel a step in place of two that share it: while the view moves nobody sees the stairs. */
  readonly isRough: boolean;
  /** The colour as a pixel. */
  readonly opaque: number;
}

/**
 * Draws line segments over a shaded picture: two pixels a step, weighted by how near the line passes (after Wu 1991, "An
 * efficient antialiasing technique"), behind what is nearer where depth is tested.
 * @param rgba - the picture, as {@link Frame} has its rows
 * @param positions - x, y, z of both ends of each segment
 * @param coarseness - legs that follow each other are drawn as one until they span so many pixels
 */
export function drawLines(
  rgba: Uint8ClampedArray,
  { width, height, depth }: Pick<Frame, 'width' | 'height' | 'depth'>,
  m: Matrix,
  positions: Float32Array,
  { rgb: [red, green, blue], opacity, isDepthTested }: LinePaint,
  coarseness: number = FINE,
): void {
  const pixels = new Uint32Array(rgba.buffer, rgba.byteOffset, width * height);
  const opaque = ((255 << 24) | (blue << 16) | (green << 8) | red) >>> 0;
  const canvas = {
    opaque,
    pixels,
    width,
    height,
    depth,
    red,
    green,
    blue,
    opacity,
    isDepthTested,
    isRough: coarseness >= COARSE,
  };
  const merged = coarseness * coarseness;
  // Read once: a matrix of doubles is asked for twelve of its numbers at each vertex.
  const [m0, m1, m2, m3, m4, m5, m6, m7] = [m[0]!, m[1]!, m[2]!, m[3]!, m[4]!, m[5]!, m[6]!, m[7]!];
  const [m8, m9, m10, m11, m12, m13, m14, m15] = [m[8]!, m[9]!, m[10]!, m[11]!, m[12]!, m[13]!, m[14]!, m[15]!];
  const [halfWidth, halfHeight] = [width / 2, height / 2];
  // Where the leg that is put together begins and, so far, ends.
  let hx = 0;
  let hy = 0;
  let hz = 0;
  let ex = 0;
  let ey = 0;
  let ez = 0;
  let isOpen = false;
  let isSeen = false;
  let isEndKnown = false;
  for (let k = 0; k + 5 < positions.length; k += 6) {
    // A segment that goes on where the last one ended has that end projected already.
    const goesOn =
      isEndKnown &&
      positions[k] === positions[k - 3] &&
      positions[k + 1] === positions[k - 2] &&
      positions[k + 2] === positions[k - 1];
    if (!goesOn) {
      if (isOpen && isSeen) drawSegment(canvas, hx, hy, hz, ex, ey, ez);
      isOpen = false;
      isSeen = false;
      const ax = positions[k]!;
      const ay = positions[k + 1]!;
      const az = positions[k + 2]!;
      const aw = m3 * ax + m7 * ay + m11 * az + m15;
      isEndKnown = aw > 0;
      // A segment that reaches behind the eye is short on the screen's rim and left out.
      if (!isEndKnown) continue;
      ex = ((m0 * ax + m4 * ay + m8 * az + m12) / aw + 1) * halfWidth;
      ey = ((m1 * ax + m5 * ay + m9 * az + m13) / aw + 1) * halfHeight;
      ez = (m2 * ax + m6 * ay + m10 * az + m14) / aw;
    }
    const bx = positions[k + 3]!;
    const by = positions[k + 4]!;
    const bz = positions[k + 5]!;
    const bw = m3 * bx + m7 * by + m11 * bz + m15;
    if (!(bw > 0)) {
      if (isOpen && isSeen) drawSegment(canvas, hx, hy, hz, ex, ey, ez);
      isOpen = false;
      isSeen = false;
      isEndKnown = false;
      continue;
    }
    if (!isOpen) {
      hx = ex;
      hy = ey;
      hz = ez;
      isOpen = true;
    }
    const px = ex;
    const py = ey;
    ex = ((m0 * bx + m4 * by + m8 * bz + m12) / bw + 1) * halfWidth;
    ey = ((m1 * bx + m5 * by + m9 * bz + m13) / bw + 1) * halfHeight;
    ez = (m2 * bx + m6 * by + m10 * bz + m14) / bw;
    if (
      !isSeen &&
      !((px < -1 && ex < -1) || (px > width && ex > width) || (py < -1 && ey < -1) || (py > height && ey > height))
    )
      isSeen = true;
    if ((ex - hx) * (ex - hx) + (ey - hy) * (ey - hy) < merged) continue;
    if (isSeen) drawSegment(canvas, hx, hy, hz, ex, ey, ez);
    isOpen = false;
    isSeen = false;
  }
  if (isOpen && isSeen) drawSegment(canvas, hx, hy, hz, ex, ey, ez);
}

/** One segment between two pixels. */
function drawSegment(canvas: Canvas, ax: number, ay: number, az: number, bx: number, by: number, bz: number): void {
  const isSteep = Math.abs(by - ay) > Math.abs(bx - ax);
  const from = isSteep ? Math.min(ay, by) : Math.min(ax, bx);
  const to = isSteep ? Math.max(ay, by) : Math.max(ax, bx);
  const turns = isSteep ? ay > by : ax > bx;
  const across0 = turns ? (isSteep ? bx : by) : isSteep ? ax : ay;
  const across1 = turns ? (isSteep ? ax : ay) : isSteep ? bx : by;
  const z0 = turns ? bz : az;
  const z1 = turns ? az : bz;
  const length = to - from;
  const start = Math.max(0, Math.floor(from));
  const end = Math.min((isSteep ? canvas.height : canvas.width) - 1, Math.floor(to));
  // Along a pixel's middle, but never beyond the ends.
  const perPixel = length < 1e-9 ? 0 : 1 / length;
  if (canvas.isRough) {
    drawRough(canvas, isSteep, start, end, from, across0, (across1 - across0) * perPixel, z0, (z1 - z0) * perPixel);
    return;
  }
  for (let step = start; step <= end; step++) {
    const t = Math.max(0, Math.min(1, (step + 0.5 - from) * perPixel));
    const across = across0 + (across1 - across0) * t - 0.5;
    const z = z0 + (z1 - z0) * t;
    const near = Math.floor(across);
    const rest = across - near;
    if (isSteep) {
      putPixel(canvas, near, step, z, 1 - rest);
      putPixel(canvas, near + 1, step, z, rest);
    } else {
      putPixel(canvas, step, near, z, 1 - rest);
      putPixel(canvas, step, near + 1, z, rest);
    }
  }
}

/** One pixel a step, in the line's own colour. */
function drawRough(
  { pixels, width, height, depth, isDepthTested, opaque }: Canvas,
  isSteep: boolean,
  start: number,
  end: number,
  from: number,
  across0: number,
  acrossStep: number,
  z0: number,
  zStep: number,
): void {
  const limit = isSteep ? width : height;
  let across = across0 + (start + 0.5 - from) * acrossStep;
  let z = z0 + (start + 0.5 - from) * zStep;
  for (let step = start; step <= end; step++, across += acrossStep, z += zStep) {
    const side = across | 0;
    if (across < 0 || side >= limit) continue;
    const at = isSteep ? step * width + side : side * width + step;
    if (!isDepthTested || z <= depth[at]! + DEPTH_BIAS) pixels[at] = opaque;
  }
}

/** Blends in whole numbers, the four channels of a pixel read and written as one. */
function putPixel(canvas: Canvas, column: number, row: number, z: number, weight: number): void {
  const { pixels, width, height } = canvas;
  if (column < 0 || column >= width || row < 0 || row >= height) return;
  const at = row * width + column;
  if (canvas.isDepthTested && z > canvas.depth[at]! + DEPTH_BIAS) return;
  const share = Math.round(weight * canvas.opacity * 256);
  const before = pixels[at]!;
  const under = 256 - share;
  const red = ((before & 255) * under + canvas.red * share + 128) >> 8;
  const green = (((before >> 8) & 255) * under + canvas.green * share + 128) >> 8;
  const blue = (((before >> 16) & 255) * under + canvas.blue * share + 128) >> 8;
  const alpha = Math.max(before >>> 24, Math.min(255, share));
  pixels[at] = (alpha << 24) | (blue << 16) | (green << 8) | red;
}

/**
 * The picture on its ground, upper row first, as a canvas takes it. The picture itself has its lowest row first.
 * @param ground - red, green and blue where there is nothing
 */
export function onGround(
  rgba: Uint8ClampedArray,
  width: number,
  height: number,
  [red, green, blue]: readonly [number, number, number],
): Uint8ClampedArray<ArrayBuffer> {
  const out = new Uint8ClampedArray(rgba.length);
  const from = new Uint32Array(rgba.buffer, rgba.byteOffset, width * height);
  const to = new Uint32Array(out.buffer);
  const ground = (0xff000000 | (blue << 16) | (green << 8) | red) >>> 0;
  for (let row = 0; row < height; row++) {
    const source = (height - 1 - row) * width;
    const target = row * width;
    for (let column = 0; column < width; column++) {
      const pixel = from[source + column]!;
      const alpha = pixel >>> 24;
      if (alpha === 255) to[target + column] = pixel;
      else if (alpha === 0) to[target + column] = ground;
      else {
        const share = alpha / 255;
        const mixed = (shift: number, under: number): number =>
          Math.round(((pixel >>> shift) & 255) * share + under * (1 - share)) << shift;
        to[target + column] = (0xff000000 | mixed(16, blue) | mixed(8, green) | mixed(0, red)) >>> 0;
      }
    }
  }
  return out;
}
