import type { Product, ProductOf } from '@pampero/contract';

/** A raster of the job that can be looked at by itself, in place of points and surfaces. */
export interface FlatGrid {
  readonly id: number;
  /** Which of a product's maps, where it has several. */
  readonly part?: string;
  readonly name: string;
  readonly columns: number;
  readonly rows: number;
  readonly lowest: number;
  readonly highest: number;
  readonly isCount: boolean;
  readonly isDifference: boolean;
}

const differences = (
  { id, name }: Product,
  { columns, rows }: { readonly columns: number; readonly rows: number },
  { halfWidth }: { readonly halfWidth: number },
  part: string | undefined,
): FlatGrid => ({
  ...{ id, name, columns, rows, lowest: -halfWidth, highest: halfWidth, isCount: false, isDifference: true },
  ...(part !== undefined && { part }),
});

/** What can be looked at of a product: a grid, or a map of how strips differ. */
export function flatGridOf(product: Product, part?: string): FlatGrid | undefined {
  if (product.kind === 'grid') {
    const { facts } = product as ProductOf<'grid'>;
    return { id: product.id, name: product.name, ...facts };
  }
  if (product.kind === 'strip-differences') {
    const { map, agreement } = (product as ProductOf<'strip-differences'>).facts;
    return differences(product, map, agreement.histogram, part);
  }
  if (product.kind === 'adjustment') {
    const { map, before } = (product as ProductOf<'adjustment'>).facts;
    return differences(product, map, before.histogram, part);
  }
  return undefined;
}
