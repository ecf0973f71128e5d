import { CholeskyDecomposition, Matrix } from 'ml-matrix';
import { PamperoError } from '../task/index.js';

/** Normal equations: a symmetric matrix, row by row, and its right side. */
export interface Normals {
  readonly count: number;
  readonly matrix: Float64Array;
  readonly right: Float64Array;
}

export interface Solved {
  readonly values: Float64Array;
  /** Inverse of the matrix, row by row, with nothing where an unknown is held. */
  readonly inverse: Float64Array;
  readonly standardDeviations: Float64Array;
}

/**
 * Solves normal equations by Cholesky's way, each unknown scaled by its own weight first, so that radians and metres go together.
 * @param held - 1 for unknowns that stay as they are
 * @throws PamperoError `not-determined` where the matrix is not positive definite
 */
export function solveNormals({ count, matrix, right }: Normals, held: Uint8Array): Solved {
  const free = [...held.keys()].filter((k) => held[k] === 0);
  const size = free.length;
  const values = new Float64Array(count);
  const inverse = new Float64Array(count * count);
  const standardDeviations = new Float64Array(count);
  if (size === 0) return { values, inverse, standardDeviations };
  const scale = free.map((k) => 1 / Math.sqrt(matrix[k * count + k]!));
  const scaled = new Matrix(size, size);
  const side = new Matrix(size, 1);
  for (let a = 0; a < size; a++) {
    side.set(a, 0, right[free[a]!]! * scale[a]!);
    // The two halves may differ in the last bit, by the order of summing; the library asks for the very same.
    for (let b = 0; b <= a; b++) {
      const value = matrix[free[a]! * count + free[b]!]! * scale[a]! * scale[b]!;
      scaled.set(a, b, value);
      scaled.set(b, a, value);
    }
  }
  const cholesky = new CholeskyDecomposition(scaled);
  if (!cholesky.isPositiveDefinite())
    throw new PamperoError('not-determined', {
      what: 'The flight does not determine all that is to be solved for.',
      fix: 'Switch some of the corrections off, those for each strip first.',
    });
  const solution = cholesky.solve(side);
  const inverted = cholesky.solve(Matrix.eye(size));
  for (let a = 0; a < size; a++) {
    values[free[a]!] = solution.get(a, 0) * scale[a]!;
    standardDeviations[free[a]!] = Math.sqrt(Math.max(0, inverted.get(a, a))) * scale[a]!;
    for (let b = 0; b < size; b++) inverse[free[a]! * count + free[b]!] = inverted.get(a, b) * scale[a]! * scale[b]!;
  }
  return { values, inverse, standardDeviations };
}
