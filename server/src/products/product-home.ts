import type { FormatOf, Job, ProductKindId, ProductOf } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import type { JobLibrary } from '../jobs/job-library.js';
import type { JobFile } from '../store/job-file.js';
import type { Models } from '../store/models.js';
import type { TaskPool } from '../tasks/task-pool.js';

/** Where a product is written: its job, and what helps with it. */
export interface ExportSite {
  readonly library: JobLibrary;
  readonly job: Job;
  readonly file: JobFile;
  readonly pool: TaskPool;
}

/** A product as a file: at once, piece by piece, as a stream, or put together aside. */
export type WrittenFile =
  | { readonly bytes: Uint8Array | string }
  | { readonly pieces: Iterable<string> }
  | { readonly stream: NodeJS.ReadableStream }
  | { readonly path: string };

/** What the screen shows of a product. */
export type ShownProduct =
  | { readonly packed: Uint8Array }
  /** JSON that is kept as it is sent. */
  | { readonly json: Uint8Array | string };

/** The server's half of a kind of product: what is shown of it, and how each of its formats is written. */
export interface ProductHome<K extends ProductKindId = ProductKindId> {
  readonly kind: K;
  /** Missing where there is nothing to show but its facts. */
  readonly shown?: (
    models: Models,
    id: number,
    options: { readonly since?: number | undefined },
  ) => Promise<ShownProduct>;
  readonly writers: Readonly<Record<FormatOf<K>, (site: ExportSite, product: ProductOf<K>) => Promise<WrittenFile>>>;
}

/** Where a product came from, for the attributes of what leaves. */
export function provenance({
  operation,
  madeAt,
  isStale,
}: Pick<ProductOf<'grid'>, 'operation' | 'madeAt' | 'isStale'>): string {
  return `${operation} ${madeAt.slice(0, 10)}${isStale ? ', stale' : ''}`;
}

/** The unit's full name, as attributes have it. */
export function unitName({ unit }: Job): string {
  return lengthUnits[unit].name;
}
