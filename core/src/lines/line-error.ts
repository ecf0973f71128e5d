import { PamperoError, type ErrorFacts } from '../task/index.js';

export type LineErrorCode =
  | 'line-too-short'
  | 'line-off-surface'
  | 'line-without-elevation'
  | 'lines-apart'
  | 'no-crossing'
  | 'offset-vanishes'
  | 'code-list-wrong';

/** Something about a line that cannot be done. */
export class LineError extends PamperoError {
  override readonly name = 'LineError';
  constructor(
    override readonly code: LineErrorCode,
    facts: ErrorFacts,
  ) {
    super(code, facts);
  }
}
