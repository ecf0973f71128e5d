import type { ContourSetResource, Product, Surface } from '@pampero/contract';
import { notFound } from '../jobs/job-error.js';
import type { CloudRow, Models, ProductRow } from '../jobs/models.js';
import { asBuffer } from './cloud-repository.js';
import type { Effect } from './history-repository.js';

export interface NewProduct {
  readonly kind: ProductRow['kind'];
  readonly name: string;
  readonly inputId: number;
  readonly inputRevision: number;
  readonly operation: string;
  readonly parameters: Record<string, unknown>;
  readonly facts: Record<string, unknown>;
  readonly blobs: Readonly<Record<string, Uint8Array>>;
  /** A product that this one takes the place of. */
  readonly replaces?: number;
}

/** Stores a product in the place of the one it replaces, and gives the effect for the field book. */
export async function storeProduct(
  models: Models,
  product: NewProduct,
): Promise<{ effects: Effect[]; productId: number }> {
  const row = await models.products.create({
    kind: product.kind,
    name: product.name,
    isActive: true,
    inputId: product.inputId,
    inputRevision: product.inputRevision,
    madeAt: new Date().toISOString(),
    operation: product.operation,
    parameters: JSON.stringify(product.parameters),
    facts: JSON.stringify(product.facts),
  });
  const productId = row.get('id') as number;
  for (const [part, bytes] of Object.entries(product.blobs))
    await models.productBlobs.create({ productId, part, bytes: asBuffer(bytes) });
  if (product.replaces !== undefined)
    await models.products.update({ isActive: false }, { where: { id: product.replaces } });
  return {
    effects: [
      { kind: 'product', id: productId, ...(product.replaces !== undefined && { replaces: product.replaces }) },
    ],
    productId,
  };
}

export async function readProductBlob(models: Models, productId: number, part: string): Promise<Buffer> {
  const row = (await models.productBlobs.findOne({ where: { productId, part }, raw: true })) as unknown as {
    bytes: Buffer;
  } | null;
  if (!row) throw notFound(part, productId);
  return row.bytes;
}

/**
 * A part for the page to show, also of a product that has just been taken back: what the page asks for while another
 * undoes it is still kept for redo, and no fault.
 */
export async function readShownPart(
  models: Models,
  kind: Product['kind'] | 'surface' | 'contours',
  productId: number,
  part: string,
): Promise<Buffer> {
  if ((await models.products.count({ where: { id: productId, kind } })) === 0) throw notFound(kind, productId);
  return readProductBlob(models, productId, part);
}

/** Active surfaces and contours with whether what they hang on has changed: a surface on its cloud, contours on theirs. */
export async function listProducts(
  models: Models,
): Promise<{ surfaces: Surface[]; contours: ContourSetResource[]; products: Product[] }> {
  const rows = (await models.products.findAll({
    where: { isActive: true },
    order: ['id'],
    raw: true,
  })) as unknown as ProductRow[];
  const clouds = (await models.clouds.findAll({
    where: { state: 'ready', isActive: true },
    attributes: ['id', 'revision'], // not their facts, which hold a density map each
    raw: true,
  })) as unknown as CloudRow[];
  const revisions = new Map(clouds.map((cloud) => [cloud.id, cloud.revision]));
  const active = new Set(rows.map((row) => row.id));
  const surfaces = rows
    .filter((row) => row.kind === 'surface')
    .map((row) => ({
      ...common(row),
      // Lines that were taken back are no longer what it was made with.
      isStale:
        // A surface that came by a file hangs on no cloud.
        (row.inputId !== 0 && revisions.get(row.inputId) !== row.inputRevision) ||
        ((JSON.parse(row.parameters) as { lines?: number[] }).lines ?? []).some((id) => !active.has(id)),
      cloudId: row.inputId,
      cloudRevision: row.inputRevision,
      ...(JSON.parse(row.facts) as Pick<
        Surface,
        'origin' | 'facts' | 'pointsThinned' | 'duplicatesDropped' | 'facetsLeftOut' | 'replaced'
      >),
    }));
  // Surfaces, and what was made of them that is as new as they are: grids of grids hang on both.
  const fresh = new Set(surfaces.filter((surface) => !surface.isStale).map((surface) => surface.id));
  const products = rows.flatMap((row): Product[] => {
    const { kind } = row;
    if (kind === 'surface' || kind === 'contours') return [];
    const facts = JSON.parse(row.facts) as Record<string, unknown>;
    // Grids, volumes and statements hang on surfaces; lines stand by themselves.
    const inputs = [row.inputId, ...((facts['otherInputs'] as number[] | undefined) ?? [])].filter((id) => id > 0);
    const isStale = kind !== 'lines' && inputs.some((id) => !fresh.has(id));
    if (kind === 'grid' && !isStale) fresh.add(row.id);
    return [
      {
        ...common(row),
        kind,
        isStale,
        inputId: row.inputId,
        facts,
      },
    ];
  });
  const contours = rows
    .filter((row) => row.kind === 'contours')
    .map((row) => ({
      ...common(row),
      // Traced on a surface, or on a grid.
      isStale: !fresh.has(row.inputId),
      surfaceId: row.inputId,
      facts: JSON.parse(row.facts) as ContourSetResource['facts'],
    }));
  return { surfaces, contours, products };
}

export async function readProduct(models: Models, productId: number, kind: Product['kind']): Promise<Product> {
  const product = (await listProducts(models)).products.find((p) => p.id === productId && p.kind === kind);
  if (!product) throw notFound(kind, productId);
  return product;
}

function common(row: ProductRow) {
  return {
    id: row.id,
    name: row.name,
    operation: row.operation,
    parameters: JSON.parse(row.parameters) as Record<string, unknown>,
    madeAt: row.madeAt,
  };
}

export async function readSurface(models: Models, surfaceId: number): Promise<Surface> {
  const surface = (await listProducts(models)).surfaces.find((s) => s.id === surfaceId);
  if (!surface) throw notFound('surface', surfaceId);
  return surface;
}

export async function readContours(models: Models, contoursId: number): Promise<ContourSetResource> {
  const contours = (await listProducts(models)).contours.find((c) => c.id === contoursId);
  if (!contours) throw notFound('contour set', contoursId);
  return contours;
}
