import { PamperoError, type ErrorFacts } from '../task/index.js';

export type TerrainErrorCode =
  'too-few-points' | 'points-in-line' | 'coordinate-not-finite' | 'interval-wrong' | 'too-many-contours';

/** Points or parameters from which no surface, or no contour, can be made. */
export class TerrainError extends PamperoError {
  override readonly name = 'TerrainError';
  constructor(
    override readonly code: TerrainErrorCode,
    facts: ErrorFacts,
  ) {
    super(code, facts);
  }
}
