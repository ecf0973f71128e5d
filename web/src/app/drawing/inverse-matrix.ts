import { Matrix4 } from 'three/src/math/Matrix4.js';
import type { Matrix } from './frame';

/** The inverse of a matrix from the scene to clip space; undefined where it has none. */
export function inverseMatrix(matrix: Matrix): Float64Array | undefined {
  const inverse = new Matrix4().fromArray(Array.from(matrix as ArrayLike<number>)).invert();
  return inverse.determinant() === 0 ? undefined : Float64Array.from(inverse.elements);
}
