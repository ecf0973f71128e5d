import type { Frame, Matrix } from './rasteriser';

/** Lines a little behind the points of the ground they run on are still seen. */
const DEPTH_BIAS = 0.0008;

/** How a layer of lines looks in the frame. */
export interface LinePaint {
  /** Red, green and blue, 0 to 255. */
  readonly rgb: readonly [number, number, number];
  readonly opacity: number;
  readonly isDepthTested: boolean;
}

/**
 * Draws line segments over a shaded picture: two pixels a step, weighted by how near the line passes (after Wu 1991, "An
 * efficient antialiasing technique"), behind what is nearer where depth is tested.
 * @param rgba - the picture, as {@link Frame} has its rows
 * @param positions - x, y, z of both ends of each segment
 */
export function drawLines(
  rgba: Uint8ClampedArray,
  { width, height, depth }: Pick<Frame, 'width' | 'height' | 'depth'>,
  matrix: Matrix,
  positions: Float32Array,
  { rgb: [red, green, blue], opacity, isDepthTested }: LinePaint,
): void {
  const put = (column: number, row: number, z: number, weight: number): void => {
    if (column < 0 || column >= width || row < 0 || row >= height) return;
    const at = row * width + column;
    if (isDepthTested && z > depth[at]! + DEPTH_BIAS) return;
    const to = at * 4;
    const share = weight * opacity;
    const covered = rgba[to + 3]! / 255;
    rgba[to] = rgba[to]! * (1 - share) + red * share;
    rgba[to + 1] = rgba[to + 1]! * (1 - share) + green * share;
    rgba[to + 2] = rgba[to + 2]! * (1 - share) + blue * share;
    rgba[to + 3] = 255 * Math.max(covered, share);
  };
  const m = matrix;
  for (let k = 0; k + 5 < positions.length; k += 6) {
    const [ax, ay, az, bx, by, bz] = [positions[k]!, positions[k + 1]!, positions[k + 2]!, positions[k + 3]!, positions[k + 4]!, positions[k + 5]!]; // prettier-ignore
    const aw = m[3]! * ax + m[7]! * ay + m[11]! * az + m[15]!;
    const bw = m[3]! * bx + m[7]! * by + m[11]! * bz + m[15]!;
    // A segment that reaches behind the eye is short on the screen's rim and left out.
    if (!(aw > 0 && bw > 0)) continue;
    let x0 = ((m[0]! * ax + m[4]! * ay + m[8]! * az + m[12]!) / aw + 1) * 0.5 * width;
    let x1 = ((m[0]! * bx + m[4]! * by + m[8]! * bz + m[12]!) / bw + 1) * 0.5 * width;
    if ((x0 < -1 && x1 < -1) || (x0 > width && x1 > width)) continue;
    let y0 = ((m[1]! * ax + m[5]! * ay + m[9]! * az + m[13]!) / aw + 1) * 0.5 * height;
    let y1 = ((m[1]! * bx + m[5]! * by + m[9]! * bz + m[13]!) / bw + 1) * 0.5 * height;
    if ((y0 < -1 && y1 < -1) || (y0 > height && y1 > height)) continue;
    let z0 = (m[2]! * ax + m[6]! * ay + m[10]! * az + m[14]!) / aw;
    let z1 = (m[2]! * bx + m[6]! * by + m[10]! * bz + m[14]!) / bw;
    const isSteep = Math.abs(y1 - y0) > Math.abs(x1 - x0);
    if (isSteep ? y0 > y1 : x0 > x1) {
      [x0, x1] = [x1, x0];
      [y0, y1] = [y1, y0];
      [z0, z1] = [z1, z0];
    }
    const from = isSteep ? y0 : x0;
    const to = isSteep ? y1 : x1;
    const length = to - from;
    const start = Math.max(0, Math.floor(from));
    const end = Math.min((isSteep ? height : width) - 1, Math.floor(to));
    for (let step = start; step <= end; step++) {
      const t = length < 1e-9 ? 0 : Math.max(0, Math.min(1, (step + 0.5 - from) / length));
      const across = (isSteep ? x0 + (x1 - x0) * t : y0 + (y1 - y0) * t) - 0.5;
      const z = z0 + (z1 - z0) * t;
      const near = Math.floor(across);
      const rest = across - near;
      if (isSteep) {
        put(near, step, z, 1 - rest);
        put(near + 1, step, z, rest);
      } else {
        put(step, near, z, 1 - rest);
        put(step, near + 1, z, rest);
      }
    }
  }
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
