import {
  kindById,
  operationById,
  referencesOf,
  type Product,
  type ProductInput,
  type ProductKindId,
  type ProductOf,
} from '@pampero/contract';
import { JobError, notAmong, notFound } from '../errors/job-error.js';
import { asBuffer } from './cloud-repository.js';
import { controlRevision } from './control-repository.js';
import type { Effect } from './effects.js';
import type { CloudRow, Models, ProductRow } from './models.js';
import { storedJson } from './stored-json.js';

type Facts<K extends ProductKindId> = ProductOf<K>['facts'];

export interface NewProduct<K extends ProductKindId = ProductKindId> {
  readonly kind: K;
  readonly name: string;
  /** The operation and its parameters: what it hangs on follows from them, and it is built again by them. */
  readonly operation: string;
  readonly parameters: Readonly<Record<string, unknown>>;
  readonly facts: Facts<K>;
  readonly blobs: Readonly<Record<string, Uint8Array>>;
  /** A product that this one takes the place of. */
  readonly replaces?: number | undefined;
  /** Set where it hangs on what the one before hung on, as that was then: something edited by hand. */
  readonly inputs?: readonly ProductInput[];
}

/** Stores a product in the place of the one it replaces, and gives the effect for the field book. */
export async function storeProduct<K extends ProductKindId>(
  models: Models,
  product: NewProduct<K>,
): Promise<{ effects: Effect[]; productId: number }> {
  const { replaces } = product;
  const inputs = product.inputs ?? (await readInputs(models, product.operation, product.parameters));
  const row = await models.products.create({
    kind: product.kind,
    name: product.name,
    isActive: true,
    seriesId: replaces === undefined ? 0 : await seriesOf(models, replaces),
    inputs: JSON.stringify(inputs),
    madeAt: new Date().toISOString(),
    operation: product.operation,
    parameters: JSON.stringify(product.parameters),
    facts: JSON.stringify(product.facts),
  });
  const productId = row.get('id') as number;
  if (replaces === undefined) await models.products.update({ seriesId: productId }, { where: { id: productId } });
  else await models.products.update({ isActive: false }, { where: { id: replaces } });
  for (const [part, bytes] of Object.entries(product.blobs))
    await models.productBlobs.create({ productId, part, bytes: asBuffer(bytes) });
  return {
    effects: [{ kind: 'product', id: productId, ...(replaces !== undefined && { replaces }) }],
    productId,
  };
}

/** The first of those that took each other's place, of every product there ever was. */
export async function seriesOfProducts(models: Models): Promise<Map<number, number>> {
  const rows = (await models.products.findAll({ attributes: ['id', 'seriesId'], raw: true })) as unknown as {
    id: number;
    seriesId: number;
  }[];
  return new Map(rows.map(({ id, seriesId }) => [id, seriesId]));
}

async function seriesOf(models: Models, id: number): Promise<number> {
  const row = (await models.products.findByPk(id, { attributes: ['seriesId'], raw: true })) as unknown as {
    seriesId: number;
  } | null;
  if (!row) throw notFound('product', id);
  return row.seriesId;
}

/** What an operation with these parameters works from, as it is now. */
async function readInputs(
  models: Models,
  operationId: string,
  parameters: Readonly<Record<string, unknown>>,
): Promise<ProductInput[]> {
  const operation = operationById(operationId);
  if (!operation) return [];
  const readsFlags = operation.readsFlags?.(parameters) ?? false;
  const inputs: ProductInput[] = [];
  for (const { refersTo, id } of referencesOf(operation, parameters)) {
    if (refersTo === 'cloud') {
      const cloud = (await models.clouds.findByPk(id, {
        attributes: ['revision', 'classRevision'],
        raw: true,
      })) as unknown as Pick<CloudRow, 'revision' | 'classRevision'> | null;
      if (cloud) inputs.push({ kind: 'cloud', id, revision: cloudRevision(cloud, readsFlags) });
    } else inputs.push({ kind: 'product', id: await seriesOf(models, id), revision: String(id) });
  }
  if (operation.readsControl) inputs.push({ kind: 'control', id: 0, revision: await controlRevision(models) });
  return inputs;
}

/** Which of a cloud's two revisions counts is written before it. */
function cloudRevision(
  { revision, classRevision }: Pick<CloudRow, 'revision' | 'classRevision'>,
  readsFlags: boolean,
): string {
  return readsFlags ? `flags ${revision}` : `classes ${classRevision}`;
}

/**
 * All active products, each after those it hangs on, with whether that has changed. Numbers of series rise with the graph: a
 * product is made after what it is made from, and one that takes another's place keeps its series.
 */
export async function listProducts(models: Models): Promise<Product[]> {
  const rows = (await models.products.findAll({
    where: { isActive: true },
    order: [
      ['seriesId', 'ASC'],
      ['id', 'ASC'],
    ],
    raw: true,
  })) as unknown as ProductRow[];
  const clouds = (await models.clouds.findAll({
    where: { state: 'ready', isActive: true },
    attributes: ['id', 'name', 'revision', 'classRevision'], // not their facts, which hold a density map each
    raw: true,
  })) as unknown as CloudRow[];
  const control = await controlRevision(models);
  const cloudOf = new Map(clouds.map((cloud) => [cloud.id, cloud]));
  const bySeries = new Map(rows.map((row) => [row.seriesId, row]));
  const stale = new Set<number>();

  const changeOf = ({ kind, id, revision }: ProductInput): string | undefined => {
    if (kind === 'control') return revision === control ? undefined : 'The control or check points have changed.';
    if (kind === 'cloud') {
      const cloud = cloudOf.get(id);
      if (!cloud) return 'A cloud it was made from is no longer in the job.';
      if (revision === cloudRevision(cloud, revision.startsWith('flags'))) return undefined;
      return revision.startsWith('flags')
        ? `Classes or flags of ${cloud.name} have changed.`
        : `Classes of ${cloud.name} have changed.`;
    }
    const input = bySeries.get(id);
    if (!input) return 'Something it was made from is no longer in the job.';
    if (String(input.id) !== revision) return `${input.name} has changed.`;
    return stale.has(id) ? `${input.name} is stale.` : undefined;
  };

  return rows.map((row) => {
    const inputs = storedJson(row.inputs) as ProductInput[];
    const staleBecause = inputs.map(changeOf).find((change) => change !== undefined);
    if (staleBecause !== undefined) stale.add(row.seriesId);
    return {
      id: row.id,
      seriesId: row.seriesId,
      kind: row.kind,
      name: row.name,
      operation: row.operation,
      parameters: storedJson(row.parameters) as Record<string, unknown>,
      madeAt: row.madeAt,
      inputs,
      isStale: staleBecause !== undefined,
      ...(staleBecause !== undefined && { staleBecause }),
      facts: storedJson(row.facts) as unknown,
    } as Product;
  });
}

/** The active product in the series that this one belongs to: itself, or the one that took its place. */
export async function presentOf(models: Models, productId: number): Promise<number | undefined> {
  const seriesId = await seriesOf(models, productId).catch(() => undefined);
  if (seriesId === undefined) return undefined;
  const row = (await models.products.findOne({
    where: { seriesId, isActive: true },
    attributes: ['id'],
    raw: true,
  })) as unknown as { id: number } | null;
  return row?.id;
}

export async function readProduct(models: Models, productId: number): Promise<Product>;
export async function readProduct<K extends ProductKindId>(
  models: Models,
  productId: number,
  kind: K,
): Promise<ProductOf<K>>;
export async function readProduct(models: Models, productId: number, kind?: ProductKindId): Promise<unknown> {
  const products = await listProducts(models);
  const product = products.find(({ id }) => id === productId);
  if (!product || (kind !== undefined && product.kind !== kind))
    throw await whyNoProduct(models, productId, kind, products);
  return product;
}

/** A product of another kind, one that was taken back or replaced, or a number that never was one. */
async function whyNoProduct(
  models: Models,
  productId: number,
  kind: ProductKindId | undefined,
  products: readonly Product[],
): Promise<JobError> {
  const named = kindById(kind ?? '')?.name ?? { one: 'Product', many: 'Products' };
  const there = products.filter((product) => kind === undefined || product.kind === kind);
  const other = products.find(({ id }) => id === productId);
  const never = notAmong({ one: named.one.toLowerCase(), several: named.many.toLowerCase() }, productId, there);
  if (other)
    return new JobError('not-found', {
      what: `${productId} is ${other.name}, not one of ${named.many.toLowerCase()}.`,
      ...(never.fix !== undefined && { fix: never.fix }),
    });
  const now = await presentOf(models, productId);
  if (now !== undefined)
    return new JobError('not-found', {
      what: `${named.one} ${productId} was made again since.`,
      fix: `It is number ${now} now.`,
    });
  const isKept = (await models.products.count({ where: { id: productId } })) > 0;
  return isKept
    ? new JobError('not-found', {
        what: `${named.one} ${productId} is no longer in the job.`,
        fix: 'It was undone or removed. The field book says when, and brings it back.',
      })
    : never;
}

export async function readProductBlob(models: Models, productId: number, part: string): Promise<Buffer> {
  const row = (await models.productBlobs.findOne({ where: { productId, part }, raw: true })) as unknown as {
    bytes: Buffer;
  } | null;
  if (!row) throw notFound(part, productId);
  return row.bytes;
}

/** The kind of a product, also of one that has just been taken back. */
export async function kindOfProduct(models: Models, productId: number): Promise<ProductKindId> {
  const row = (await models.products.findByPk(productId, { attributes: ['kind'], raw: true })) as unknown as {
    kind: ProductKindId;
  } | null;
  if (!row) throw notFound('product', productId);
  return row.kind;
}

/**
 * A part for the page to show, also of a product that has just been taken back: what the page asks for while another
 * undoes it is still kept for redo, and no fault.
 */
export async function readShownPart(
  models: Models,
  kind: ProductKindId,
  productId: number,
  part: string,
): Promise<Buffer> {
  const count = await models.products.count({ where: { id: productId, kind } });
  if (count === 0) throw notFound(kindById(kind)?.name.one.toLowerCase() ?? kind, productId);
  return readProductBlob(models, productId, part);
}
