import type { PixelBox, Projection } from './drawn-view.js';

/** What lies in front: at each pixel of a part of a view the depth of the nearest point, in job units. */
export interface Front {
  readonly left: number;
  readonly top: number;
  readonly columns: number;
  readonly rows: number;
  readonly depth: Float32Array;
}

/** A point hides what is behind a square of three pixels: about what it covers on the screen. */
const REACH = 1;

export function newFront(box: PixelBox, view: { readonly width: number; readonly height: number }): Front {
  const left = Math.max(0, Math.floor(box.left));
  const top = Math.max(0, Math.floor(box.top));
  const columns = Math.max(1, Math.min(view.width, Math.ceil(box.right) + 1) - left);
  const rows = Math.max(1, Math.min(view.height, Math.ceil(box.bottom) + 1) - top);
  return { left, top, columns, rows, depth: new Float32Array(columns * rows).fill(Infinity) };
}

export function addToFront({ left, top, columns, rows, depth }: Front, px: number, py: number, at: number): void {
  const column = Math.floor(px) - left;
  const row = Math.floor(py) - top;
  for (let r = Math.max(0, row - REACH); r <= Math.min(rows - 1, row + REACH); r++)
    for (let c = Math.max(0, column - REACH); c <= Math.min(columns - 1, column + REACH); c++)
      if (at < depth[r * columns + c]!) depth[r * columns + c] = at;
}

export function mergeFront(into: Front, other: Front): void {
  for (let i = 0; i < into.depth.length; i++) if (other.depth[i]! < into.depth[i]!) into.depth[i] = other.depth[i]!;
}

/**
 * Whether a point at a pixel and depth is seen: nothing lies in front of it by more than the thickness of a surface, which is
 * `thickness` and what a few pixels span there, since a surface seen at a slant falls away within a pixel.
 */
export function isSeen(
  front: Front,
  projection: Projection,
  px: number,
  py: number,
  at: number,
  thickness: number,
): boolean {
  const column = Math.floor(px) - front.left;
  const row = Math.floor(py) - front.top;
  if (column < 0 || row < 0 || column >= front.columns || row >= front.rows) return false;
  return at <= front.depth[row * front.columns + column]! + thickness + 4 * projection.unitsPerPixel(at);
}
