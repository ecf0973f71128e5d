/** What every error of Pampero says: what is wrong, where, and how to fix it. Survives a trip between threads. */
export interface ErrorFacts {
  /** What is wrong, one sentence, with the figures. */
  readonly what: string;
  /** File and offset, index of the point, coordinates: whatever finds the place. */
  readonly where?: string;
  /** What the surveyor can do about it. */
  readonly fix?: string;
}

/** The base of all typed errors: `code` is stable and may be tested, the wording may not. */
export class PamperoError extends Error {
  override readonly name: string = 'PamperoError';
  readonly what: string;
  readonly where: string | undefined;
  readonly fix: string | undefined;

  constructor(
    readonly code: string,
    facts: ErrorFacts,
    options?: { cause?: unknown },
  ) {
    super([facts.where ? `${facts.where}: ${facts.what}` : facts.what, facts.fix].filter(Boolean).join(' '), options);
    this.what = facts.what;
    this.where = facts.where;
    this.fix = facts.fix;
  }
}
