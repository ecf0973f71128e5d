import {
  isKind,
  type Cloud,
  type Job,
  type Product,
  type ProductKindId,
  type ProductOf,
  type ReportOptions,
} from '@pampero/contract';
import type { Models } from '../store/models.js';

/** What the parts of a report are written from. */
export interface Gathered {
  readonly models: Models;
  readonly job: Job;
  readonly options: ReportOptions;
  readonly clouds: readonly Cloud[];
  readonly products: readonly Product[];
  /** A length with its unit. */
  readonly length: (value: number, decimals?: number) => string;
}

/** Products of a kind. */
export const of = <K extends ProductKindId>({ products }: Gathered, kind: K): ProductOf<K>[] =>
  products.filter(isKind(kind));
export const staleMark = ({ isStale }: Product): string => (isStale ? ' (stale)' : '');
