import type { Matrix } from './frame';

/** The matrix for coordinates about a node's centre, in doubles: what is left is small enough for single floats. */
export function atCentre(matrix: Matrix, [x, y, z]: readonly [number, number, number]): Float64Array {
  const out = Float64Array.from(matrix as ArrayLike<number>);
  for (let row = 0; row < 4; row++)
    out[12 + row] = matrix[row]! * x + matrix[4 + row]! * y + matrix[8 + row]! * z + matrix[12 + row]!;
  return out;
}

/** Pixels of a point: large enough that neighbouring points of the full cloud touch, within reason. */
export function pointSize(matrix: Matrix, width: number, spacing: number): number {
  const isPerspective = matrix[3] !== 0 || matrix[7] !== 0 || matrix[11] !== 0;
  if (isPerspective) return 2;
  const pixels = ((Math.hypot(matrix[0]!, matrix[4]!, matrix[8]!) * width) / 2) * spacing;
  return Math.max(2, Math.min(5, Math.ceil(pixels)));
}
