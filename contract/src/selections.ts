import { RANGE_ATTRIBUTES, RETURN_KINDS, type Selection } from '@pampero/core/selection';
import { z } from 'zod';

const place = z.tuple([z.number(), z.number()]);
const triple = z.tuple([z.number(), z.number(), z.number()]);

export const drawnViewSchema = z.strictObject({
  matrix: z.array(z.number()).length(16),
  origin: triple,
  width: z.number().int().min(1).max(20_000),
  height: z.number().int().min(1).max(20_000),
  name: z.enum(['plan', 'section', 'model']).optional(),
});

/** One bit a point, lowest first, as base 64. */
const bitsSchema = z.base64().transform((text) => z.util.base64ToUint8Array(text));

export const nodeBitsSchema = z.strictObject({ nodeId: z.int().positive(), bits: bitsSchema });

const MOST_CORNERS = 20_000;
const shapeSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('outline'), view: drawnViewSchema, corners: z.array(place).max(MOST_CORNERS) }),
  z.strictObject({
    kind: z.literal('stroke'),
    view: drawnViewSchema,
    path: z.array(place).max(MOST_CORNERS),
    radius: z.number(),
  }),
  z.strictObject({ kind: z.literal('boundary'), corners: z.array(place).max(MOST_CORNERS), buffer: z.number() }),
  z.strictObject({
    kind: z.literal('range'),
    attribute: z.enum(RANGE_ATTRIBUTES),
    from: z.number().optional(),
    to: z.number().optional(),
  }),
  z.strictObject({ kind: z.literal('returns'), which: z.array(z.enum(RETURN_KINDS)) }),
  z.strictObject({ kind: z.literal('classes'), classes: z.array(z.int().min(0).max(255)) }),
  z.strictObject({ kind: z.literal('points'), nodes: z.array(nodeBitsSchema) }),
  z.strictObject({ kind: z.literal('all') }),
]);

export const visibleSchema = z.strictObject({
  clouds: z.array(z.int()).optional(),
  hiddenClasses: z.array(z.int().min(0).max(255)),
  withWithheld: z.boolean(),
  box: z.strictObject({ min: triple, max: triple }).optional(),
  get focus(): z.ZodOptional<typeof selectionSchema> {
    return selectionSchema.optional();
  },
});

export const selectionStepSchema = z.strictObject({
  how: z.enum(['add', 'take', 'keep', 'invert']),
  shape: shapeSchema,
  visible: visibleSchema,
  seenOnly: z.boolean().optional(),
  thickness: z.number().min(0).optional(),
});

/** Steps that tell which points are meant; see `Selection` in the core. */
export const selectionSchema: z.ZodArray<typeof selectionStepSchema> = z.array(selectionStepSchema).max(500);

/** What the core knows as a selection is what the schema lets through. */
export const asSelection = (given: z.output<typeof selectionSchema>): Selection => given as Selection;

export const selectionCountSchema = z.strictObject({
  points: z.number(),
  withheld: z.number(),
  classCounts: z.record(z.string(), z.number()),
  /** Of how many clouds. */
  clouds: z.int(),
});
export type SelectionCount = z.infer<typeof selectionCountSchema>;

export const patchRequestSchema = z.strictObject({
  /** The point touched. */
  seed: triple,
  /** Points this near to one of the patch belong to it, job units. */
  reach: z.number().positive(),
  /** ... where they are no higher or lower than this from it. */
  heightStep: z.number().positive().optional(),
  /** ... and of about its colour: distance in red, green and blue, 0 to 1 each. */
  colourStep: z.number().positive().max(2).optional(),
  /** The patch ends this far from the point touched, job units. */
  limit: z.number().positive(),
  visible: visibleSchema,
});
export type PatchRequest = z.input<typeof patchRequestSchema>;

export const patchSchema = z.strictObject({
  points: z.number(),
  /** The patch goes on beyond the limit. */
  isCut: z.boolean(),
  nodes: z.array(z.strictObject({ nodeId: z.int(), bits: z.string() })),
});
export type Patch = z.infer<typeof patchSchema>;
