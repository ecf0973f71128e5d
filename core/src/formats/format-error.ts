import { PamperoError, type ErrorFacts } from '../task/index.js';

export type FormatErrorCode =
  | 'not-this-format'
  | 'file-ends-early'
  | 'version-unknown'
  | 'point-format-unknown'
  | 'compressed-points'
  | 'chunk-table-wrong'
  | 'record-length-wrong'
  | 'point-offset-wrong'
  | 'scale-absurd'
  | 'no-points'
  | 'value-does-not-fit'
  | 'checksum-wrong'
  | 'lines-unreadable'
  | 'no-lines'
  | 'coordinate-wrong'
  | 'grid-unreadable'
  | 'picture-unreadable'
  | 'zip-unreadable'
  | 'picture-nowhere'
  | 'world-file-unreadable'
  | 'no-surface'
  | 'unit-differs'
  | 'reading-stopped'
  | 'columns-unknown'
  | 'columns-missing'
  | 'times-doubtful'
  | 'week-unknown'
  | 'angles-doubtful'
  | 'positions-doubtful'
  | 'system-missing'
  | 'convergence-unknown'
  | 'order-contradicts-heading'
  | 'axes-swapped';

/** A file that cannot be read, or content that a format cannot hold. */
export class FormatError extends PamperoError {
  override readonly name = 'FormatError';
  constructor(
    override readonly code: FormatErrorCode,
    facts: ErrorFacts,
  ) {
    super(code, facts);
  }
}

/** Something wrong with a file whose points can still be used; shown to the surveyor, kept with the cloud. */
export interface FormatWarning {
  readonly code: string;
  readonly message: string;
}
