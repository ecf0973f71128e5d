import type { Frame } from './frame';

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
