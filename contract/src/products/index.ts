import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { accuracy } from './accuracy.js';
import { adjustment } from './adjustment.js';
import { classTable } from './class-table.js';
import { contours } from './contours.js';
import { grid } from './grid.js';
import { lines } from './lines.js';
import type { FileFormat, ProductKind } from './product-kind.js';
import { mask } from './mask.js';
import { photographs } from './photographs.js';
import { picture } from './picture.js';
import { plan } from './plan.js';
import { profile } from './profile.js';
import { proposals } from './proposals.js';
import { sections } from './sections.js';
import { shiftCheck } from './shift-check.js';
import { spots } from './spots.js';
import { stripDifferences } from './strip-differences.js';
import { strips } from './strips.js';
import { surface } from './surface.js';
export { newestLand } from './surface.js';
import { trajectory } from './trajectory.js';
import { volume } from './volume.js';

/** Every kind of product, in the order of the layers and of Deliver. The server finds the rest of each under its id. */
export const PRODUCT_KINDS = [
  surface,
  grid,
  picture,
  mask,
  photographs,
  lines,
  proposals,
  contours,
  volume,
  profile,
  sections,
  plan,
  accuracy,
  spots,
  classTable,
  shiftCheck,
  trajectory,
  strips,
  stripDifferences,
  adjustment,
] as const;

type Kinds = (typeof PRODUCT_KINDS)[number];
export type ProductKindId = Kinds['id'];
export type KindOf<K extends ProductKindId> = Extract<Kinds, { readonly id: K }>;
export type FactsOf<K extends ProductKindId> = z.output<KindOf<K>['facts']>;
export type FormatOf<K extends ProductKindId> = KindOf<K>['formats'][number]['id'];

/** What a product was made from, as it was then. */
export const inputSchema = z.strictObject({
  kind: z.enum(['cloud', 'product', 'control']),
  /** Of the cloud or product; 0 for the surveyed points. */
  id: z.int(),
  /** What of it is now another is no longer what was used. */
  revision: z.string(),
});
export type ProductInput = z.infer<typeof inputSchema>;

/** What every product has. */
const common = {
  id: z.int(),
  /** The same for a product and those that took its place, edited or built again. */
  seriesId: z.int(),
  name: z.string(),
  /** The operation that made it and its parameters: what is built again. */
  operation: z.string(),
  parameters: z.record(z.string(), z.unknown()),
  madeAt: z.iso.datetime(),
  inputs: z.array(inputSchema),
  isStale: z.boolean(),
  /** In words: what has changed since it was made. */
  staleBecause: z.string().optional(),
};

const schemas = PRODUCT_KINDS.map(({ id, facts }) => z.strictObject({ ...common, kind: z.literal(id), facts }));

/** A thing made in a job, with facts by its kind. */
export type ProductOf<K extends ProductKindId> = z.output<z.ZodObject<typeof common>> & {
  kind: K;
  facts: FactsOf<K>;
};
export type Product = { [K in ProductKindId]: ProductOf<K> }[ProductKindId];
export const productSchema = z.discriminatedUnion(
  'kind',
  schemas as unknown as [(typeof schemas)[number], ...(typeof schemas)[number][]],
) as unknown as z.ZodType<Product>;

export const productKindIds = PRODUCT_KINDS.map(({ id }) => id) as [ProductKindId, ...ProductKindId[]];

/** A kind as any other: for lists and switches over all of them. */
export function kindById(id: string): ProductKind | undefined {
  return PRODUCT_KINDS.find((kind) => kind.id === id) as ProductKind | undefined;
}

export function isKind<K extends ProductKindId>(kind: K): (product: Product) => product is ProductOf<K> & Product {
  return (product): product is ProductOf<K> & Product => product.kind === kind;
}

export function formatsOf(product: Pick<Product, 'kind'>): readonly FileFormat[] {
  return kindById(product.kind)?.formats ?? [];
}

export function describeProduct(product: Pick<Product, 'kind' | 'facts'>, unit: LengthUnit): string {
  return kindById(product.kind)?.describe(product.facts, unit) ?? '';
}

export { RECIPIENTS, type Recipient } from './product-kind.js';
export type { FileFormat, ProductKind } from './product-kind.js';
export { PICTURE_TILE, TILE_PARTS, type TilePart } from './picture.js';
export { maskPreviewSchema, maskRingSchema, type MaskPreview, type MaskRingResource } from './mask.js';
export { type Photograph } from './photographs.js';
export { tileShiftSchema } from './shift-check.js';
export { profileSchema, type ProfileResource } from './profile.js';
export { sectionsSchema, type SectionsResource } from './sections.js';
export { spotPointSchema, type SpotPoint } from './spots.js';
export { type DifferenceFigures, type StripAgreement } from './strip-differences.js';
export { type Strip } from './strips.js';
export { correctionSchema } from './adjustment.js';
export {
  accuracy,
  adjustment,
  contours,
  grid,
  lines,
  mask,
  photographs,
  picture,
  profile,
  proposals,
  sections,
  shiftCheck,
  spots,
  stripDifferences,
  strips,
  surface,
  trajectory,
  volume,
};
