import type { OperationId } from '@pampero/contract';

/** A small whole file of a format, and what takes it in. */
export interface Seed {
  readonly fileName: string;
  readonly operation: OperationId | 'restore' | 'geoid';
  readonly parameters?: Record<string, unknown>;
  readonly bytes: Uint8Array;
  readonly isText: boolean;
  /** What the job has to hold before; the first thing in it. */
  readonly before?: Seed;
}
