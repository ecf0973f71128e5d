import type { Quantisation } from '../cloud/index.js';
import type { Place } from './outline.js';

/** A view as it was when something was drawn in it: what was seen, and where on the screen it lay. */
export interface DrawnView {
  /** From job coordinates less `origin` to clip space; sixteen numbers, column by column. */
  readonly matrix: readonly number[];
  readonly origin: readonly [number, number, number];
  /** Size in pixels. */
  readonly width: number;
  readonly height: number;
}

/** A box in job coordinates. */
export interface Box {
  readonly min: readonly [number, number, number];
  readonly max: readonly [number, number, number];
}

export interface PixelBox {
  readonly left: number;
  readonly top: number;
  readonly right: number;
  readonly bottom: number;
  /** No part of the box is cut off by the view's depth. */
  readonly isWhole: boolean;
}

/** Projects job coordinates to pixels (y down) and to a depth in job units; NaN where the view does not show the place. */
export class Projection {
  readonly isPerspective: boolean;
  private readonly m: Float64Array;
  private readonly unitsPerClip: number;

  constructor(readonly view: DrawnView) {
    const m = Float64Array.from(view.matrix);
    // The origin goes into the matrix, so that one product a point is all.
    const [ox, oy, oz] = view.origin;
    for (let row = 0; row < 4; row++) m[12 + row]! -= m[row]! * ox + m[4 + row]! * oy + m[8 + row]! * oz;
    this.m = m;
    this.isPerspective = m[3] !== 0 || m[7] !== 0 || m[11] !== 0;
    this.unitsPerClip = 1 / (Math.hypot(m[2]!, m[6]!, m[10]!) || 1);
  }

  /**
   * Writes pixel x, pixel y and depth of a place into `out`.
   * @returns whether the view shows the place
   */
  project(x: number, y: number, z: number, out: Float64Array): boolean {
    const { m } = this;
    const w = m[3]! * x + m[7]! * y + m[11]! * z + m[15]!;
    if (!(w > 0)) return false;
    const cx = m[0]! * x + m[4]! * y + m[8]! * z + m[12]!;
    if (cx < -w || cx > w) return false;
    const cy = m[1]! * x + m[5]! * y + m[9]! * z + m[13]!;
    if (cy < -w || cy > w) return false;
    const cz = m[2]! * x + m[6]! * y + m[10]! * z + m[14]!;
    if (cz < -w || cz > w) return false;
    out[0] = ((cx / w + 1) / 2) * this.view.width;
    out[1] = ((1 - cy / w) / 2) * this.view.height;
    out[2] = this.isPerspective ? w : cz * this.unitsPerClip;
    return true;
  }

  /**
   * Marks the points that the view shows within a form drawn on it; the same as {@link project} and asking the form, point by
   * point, but with scale and offset in the matrix and most points settled by the rectangle about the form.
   */
  mark(
    points: {
      readonly count: number;
      readonly x?: Int32Array;
      readonly y?: Int32Array;
      readonly z?: Int32Array;
      readonly quantisation: Quantisation;
    },
    { left, right, top, bottom }: PixelBox,
    form: { contains(x: number, y: number): boolean },
    out: Uint8Array,
  ): void {
    const { m } = this;
    const { count, quantisation } = points;
    const [sx, sy, sz] = quantisation.scale;
    const [ox, oy, oz] = quantisation.offset;
    const x = points.x!;
    const y = points.y!;
    const z = points.z!;
    const row = (r: number): [number, number, number, number] => [
      m[r]! * sx,
      m[4 + r]! * sy,
      m[8 + r]! * sz,
      m[r]! * ox + m[4 + r]! * oy + m[8 + r]! * oz + m[12 + r]!,
    ];
    const [ax, bx, cx, dx] = row(0);
    const [ay, by, cy, dy] = row(1);
    const [az, bz, cz, dz] = row(2);
    const [aw, bw, cw, dw] = row(3);
    const halfWidth = this.view.width / 2;
    const halfHeight = this.view.height / 2;
    for (let i = 0; i < count; i++) {
      const px = x[i]!;
      const py = y[i]!;
      const pz = z[i]!;
      const w = aw * px + bw * py + cw * pz + dw;
      if (!(w > 0)) continue;
      const u = ax * px + bx * py + cx * pz + dx;
      if (u < -w || u > w) continue;
      const across = (u / w + 1) * halfWidth;
      if (across < left || across > right) continue;
      const v = ay * px + by * py + cy * pz + dy;
      if (v < -w || v > w) continue;
      const down = (1 - v / w) * halfHeight;
      if (down < top || down > bottom) continue;
      const d = az * px + bz * py + cz * pz + dz;
      if (d < -w || d > w) continue;
      if (form.contains(across, down)) out[i] = 1;
    }
  }

  /** Job units that a pixel spans at a depth. */
  unitsPerPixel(depth: number): number {
    const { m } = this;
    const across = (Math.hypot(m[0]!, m[4]!, m[8]!) * this.view.width) / 2;
    return (this.isPerspective ? depth : 1) / across;
  }

  /** The pixels a box may cover; undefined where the view shows none of it, or the eye is so near that it cannot be said. */
  pixelBox({ min, max }: Box): PixelBox | 'anywhere' | undefined {
    const { m, view } = this;
    let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity];
    let isWhole = true;
    const outside = [0, 0, 0, 0, 0, 0];
    let isNear = false;
    for (let corner = 0; corner < 8; corner++) {
      const x = corner & 1 ? max[0] : min[0];
      const y = corner & 2 ? max[1] : min[1];
      const z = corner & 4 ? max[2] : min[2];
      const w = m[3]! * x + m[7]! * y + m[11]! * z + m[15]!;
      const c = [0, 1, 2].map((row) => m[row]! * x + m[4 + row]! * y + m[8 + row]! * z + m[12 + row]!);
      for (const axis of [0, 1, 2] as const) {
        if (c[axis]! < -w) outside[2 * axis]!++;
        if (c[axis]! > w) outside[2 * axis + 1]!++;
        if (Math.abs(c[axis]!) > w) isWhole = false;
      }
      if (!(w > 1e-9)) {
        isNear = true;
        continue;
      }
      const px = ((c[0]! / w + 1) / 2) * view.width;
      const py = ((1 - c[1]! / w) / 2) * view.height;
      left = Math.min(left, px);
      right = Math.max(right, px);
      top = Math.min(top, py);
      bottom = Math.max(bottom, py);
    }
    if (outside.includes(8)) return undefined;
    return isNear ? 'anywhere' : { left, right, top, bottom, isWhole };
  }
}

/** The rectangle of pixels round places drawn on the screen. */
export function pixelsAround(places: readonly Place[], margin = 0): PixelBox {
  const xs = places.map(([x]) => x);
  const ys = places.map(([, y]) => y);
  return {
    left: Math.min(...xs) - margin,
    right: Math.max(...xs) + margin,
    top: Math.min(...ys) - margin,
    bottom: Math.max(...ys) + margin,
    isWhole: true,
  };
}
