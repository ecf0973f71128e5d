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
    const ends = [k, k + 3].map((i) => {
      const [x, y, z] = [positions[i]!, positions[i + 1]!, positions[i + 2]!];
      const w = m[3]! * x + m[7]! * y + m[11]! * z + m[15]!;
      return {
        w,
        x: ((m[0]! * x + m[4]! * y + m[8]! * z + m[12]!) / w + 1) * 0.5 * width,
        y: ((m[1]! * x + m[5]! * y + m[9]! * z + m[13]!) / w + 1) * 0.5 * height,
        z: (m[2]! * x + m[6]! * y + m[10]! * z + m[14]!) / w,
      };
    }) as [{ w: number; x: number; y: number; z: number }, { w: number; x: number; y: number; z: number }];
    let [a, b] = ends;
    // A segment that reaches behind the eye is short on the screen's rim and left out.
    if (!(a.w > 0 && b.w > 0)) continue;
    const isSteep = Math.abs(b.y - a.y) > Math.abs(b.x - a.x);
    if (isSteep ? a.y > b.y : a.x > b.x) [a, b] = [b, a];
    const [from, to, limit] = isSteep ? [a.y, b.y, height] : [a.x, b.x, width];
    const length = to - from;
    const [start, end] = [Math.max(0, Math.floor(from)), Math.min(limit - 1, Math.floor(to))];
    for (let step = start; step <= end; step++) {
      const t = length < 1e-9 ? 0 : Math.max(0, Math.min(1, (step + 0.5 - from) / length));
      const across = (isSteep ? a.x + (b.x - a.x) * t : a.y + (b.y - a.y) * t) - 0.5;
      const z = a.z + (b.z - a.z) * t;
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
