import { z } from 'zod';
import { clientViewOptionsSchema } from './client-view.js';
import { POINT_FILE_FORMATS } from './exports.js';
import { formatsOf, type Product, type Recipient } from './products/index.js';
import { reportOptionsSchema } from './report.js';
import type { Cloud } from './resources/cloud.js';
import { linesOfText, lineOfText } from './text.js';

/** A file of a package: a product or a cloud in a form. */
export const handOverItemSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('product'), id: z.int().positive(), format: z.string().min(1).max(40) }),
  z.strictObject({
    kind: z.literal('cloud'),
    id: z.int().positive(),
    format: z.enum(POINT_FILE_FORMATS),
    /** All classes when left out. */
    classes: z.array(z.int().min(0).max(255)).min(1).optional(),
    withheld: z.enum(['kept', 'left-out']).optional(),
  }),
  z.strictObject({ kind: z.literal('report'), report: reportOptionsSchema }),
  /** The one file that a client opens. */
  z.strictObject({ kind: z.literal('view'), view: clientViewOptionsSchema }),
]);
export type HandOverItem = z.output<typeof handOverItemSchema>;

/** What a name pattern may hold. */
export const NAME_PARTS = ['job', 'name', 'kind', 'date', 'epsg'] as const;
const UNKNOWN_PART = new RegExp(`\\{(?!(?:${NAME_PARTS.join('|')})\\})[^}]*\\}`);

export const handOverSchema = z.strictObject({
  items: z.array(handOverItemSchema).max(500).default([]),
  /** Names of the files, without their endings. */
  pattern: lineOfText(120)
    .min(1, 'The name pattern cannot be empty.')
    .refine((text) => !UNKNOWN_PART.test(text), `A name pattern holds ${NAME_PARTS.map((p) => `{${p}}`).join(', ')}.`)
    .default('{job} - {name}'),
  /** Words to whoever opens it, for its README. */
  note: linesOfText(4000).default(''),
});
export type HandOver = z.output<typeof handOverSchema>;
export type HandOverInput = z.input<typeof handOverSchema>;

/** What is said of a package after it was put together. */
export const handedOverSchema = z.strictObject({
  files: z.array(z.strictObject({ name: z.string(), bytes: z.number(), sha256: z.string(), what: z.string() })),
  /** What could not be written, and why. */
  missing: z.array(z.strictObject({ name: z.string(), because: z.string() })),
});
export type HandedOver = z.output<typeof handedOverSchema>;

/** What suits a recipient of what there is in a job: every product in the forms that say so, and the clouds where points are wanted. */
export function itemsFor(
  recipient: Recipient,
  products: readonly Pick<Product, 'id' | 'kind'>[],
  clouds: readonly Pick<Cloud, 'id'>[],
): HandOverItem[] {
  const items: HandOverItem[] = products.flatMap((product) =>
    formatsOf(product)
      .filter(({ suits }) => suits?.includes(recipient))
      .map(({ id: format }) => ({ kind: 'product' as const, id: product.id, format })),
  );
  const newest = (kind: Product['kind']): number | undefined =>
    products.reduce<number | undefined>(
      (last, each) => (each.kind === kind && each.id > (last ?? 0) ? each.id : last),
      undefined,
    );
  const [surfaceId, pictureId, contoursId] = [newest('surface'), newest('picture'), newest('contours')];
  if (recipient === 'client' && surfaceId !== undefined)
    items.push({
      kind: 'view',
      view: clientViewOptionsSchema.parse({
        surfaceId,
        ...(pictureId !== undefined && { pictureId }),
        ...(contoursId !== undefined && { contoursId }),
        clouds: clouds.map(({ id }) => id),
      }),
    });
  if (recipient === 'gis') for (const { id } of clouds) items.push({ kind: 'cloud', id, format: 'laz' });
  return items;
}
