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
