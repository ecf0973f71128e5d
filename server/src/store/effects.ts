import type { ColoursEffect } from './colour-repository.js';
import type { PositionsEffect } from './position-repository.js';

/** What an operation did to the job, so that it can be taken back and done again. */
export type Effect =
  | { readonly kind: 'cloud' | 'product'; readonly id: number; readonly replaces?: number }
  /** A cloud or product that was there and is no longer shown. */
  | { readonly kind: 'removal'; readonly of: 'cloud' | 'product' | 'control'; readonly id: number }
  /** Surveyed points brought by the entry of this id. */
  | { readonly kind: 'control'; readonly id: number; readonly replaces?: undefined }
  | {
      readonly kind: 'classes';
      readonly cloudId: number;
      readonly otherRevision: number;
      readonly otherClassRevision: number;
    }
  | PositionsEffect
  | ColoursEffect
  /** A setting of the job; null where it was never set. */
  | { readonly kind: 'setting'; readonly key: string; readonly other: string | null };
