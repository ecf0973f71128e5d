import type { DrawnGrid } from './grid-rasteriser';

/** Elevation of a grid at a place, bilinear between its four corners; NaN where one of them is missing. */
export function gridElevation({ columns, rows, x, y, step, elevation }: DrawnGrid, px: number, py: number): number {
  const fx = (px - x) / step;
  const fy = (py - y) / step;
  const column = Math.floor(fx);
  const row = Math.floor(fy);
  if (column < 0 || row < 0 || column >= columns - 1 || row >= rows - 1) return NaN;
  const at = row * columns + column;
  const [tx, ty] = [fx - column, fy - row];
  const low = elevation[at]! * (1 - tx) + elevation[at + 1]! * tx;
  const high = elevation[at + columns]! * (1 - tx) + elevation[at + columns + 1]! * tx;
  return low * (1 - ty) + high * ty;
}
