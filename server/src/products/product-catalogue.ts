import { productKindIds, type ProductKindId } from '@pampero/contract';
import type { ProductHome } from './product-home.js';

/** The server's half of every kind of product. */
export type ProductCatalogue = ReadonlyMap<ProductKindId, ProductHome>;

/** Finds each kind of the contract in the file that has its id: a kind without one stops the start. */
export async function loadProducts(): Promise<ProductCatalogue> {
  const found = await Promise.all(
    productKindIds.map(async (kind) => {
      const path = `./${kind}.js`;
      const { home } = (await import(path)) as { home?: ProductHome };
      if (home?.kind !== kind) throw new Error(`${path} exports no home of "${kind}".`);
      return [kind, home] as const;
    }),
  );
  return new Map(found);
}
