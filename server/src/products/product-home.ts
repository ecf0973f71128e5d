import type { FormatOf, Job, Product, ProductInput, ProductKindId, ProductOf } from '@pampero/contract';
import { dxfComments } from '@pampero/core/formats/dxf';
import { lengthUnits } from '@pampero/core/geodesy';
import type { Models } from '../store/models.js';

/** Where a product is written, in a thread of its own: its job, what it is read by, and the file to write. */
export interface ExportSite {
  readonly job: Job;
  readonly models: Models;
  /** For what writes its file itself; everything else is written there for it. */
  readonly target: string;
}

/** A product as a file: at once, piece by piece, as a stream, or written to the site's target already. */
export type WrittenFile =
  | { readonly bytes: Uint8Array | string }
  | { readonly pieces: Iterable<string> }
  | { readonly stream: NodeJS.ReadableStream }
  | { readonly isWritten: true };

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
    options: { readonly since?: number | undefined; readonly part?: string | undefined },
  ) => Promise<ShownProduct>;
  readonly writers: Readonly<Record<FormatOf<K>, (site: ExportSite, product: ProductOf<K>) => Promise<WrittenFile>>>;
  /** Set where several of the kind can leave in one file. */
  readonly together?: Readonly<
    Record<FormatOf<K>, (site: ExportSite, products: readonly ProductOf<K>[], name: string) => Promise<WrittenFile>>
  >;
}

/** Where a product came from, for the attributes of what leaves. */
export function provenance({
  operation,
  madeAt,
  isStale,
  inputs,
}: Pick<Product, 'operation' | 'madeAt' | 'isStale' | 'inputs'>): string {
  const from = inputsInWords(inputs);
  return `${operation} ${madeAt.slice(0, 10)}${from ? ` from ${from}` : ''}${isStale ? ', stale' : ''}`;
}

/** Everything a product was made from, each as it was then: a cloud by the entry of the field book that last changed it. */
export function inputsInWords(inputs: readonly ProductInput[]): string {
  return inputs
    .map(({ kind, id, revision }) => {
      if (kind === 'control') return 'surveyed points';
      return kind === 'cloud' ? `cloud ${id} as of entry ${revision.replace(/^\D+/, '')}` : `product ${revision}`;
    })
    .join(', ');
}

/** What stands at the head of files that have room for words: what it is, of which job, and what it was made from. */
export function headOf({ job }: Pick<ExportSite, 'job'>, product: Product): string[] {
  return [`${product.name}, ${job.name}, ${unitName(job)}`, provenance(product)];
}

/** A drawing with that at its head. */
export function* dxfWithHead(
  site: Pick<ExportSite, 'job'>,
  products: readonly Product[],
  pieces: Iterable<string>,
): Generator<string> {
  yield dxfComments(products.flatMap((product) => headOf(site, product)));
  yield* pieces;
}

/** The unit's full name, as attributes have it. */
export function unitName({ unit }: Job): string {
  return lengthUnits[unit].name;
}
