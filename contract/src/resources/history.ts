import { z } from 'zod';
import { figureSchema } from '../figures.js';
import { stageSchema } from '../stages.js';
import { problemSchema } from './problem.js';

export const historyStateSchema = z.enum([
  'running',
  'done',
  'undone',
  'dropped',
  'failed',
  'cancelled',
  'interrupted',
]);
export const historyEntrySchema = z.strictObject({
  id: z.int(),
  operation: z.string(),
  stage: stageSchema,
  title: z.string(),
  parameters: z.record(z.string(), z.unknown()),
  state: historyStateSchema,
  /** One line: what changed. */
  outcome: z.string(),
  figures: z.array(figureSchema),
  startedAt: z.iso.datetime(),
  durationMs: z.number(),
  /** Clouds and products that it brought. */
  made: z.array(z.strictObject({ kind: z.enum(['cloud', 'product']), id: z.int() })),
});
export type HistoryEntry = z.infer<typeof historyEntrySchema>;
export const historySchema = z.strictObject({
  entries: z.array(historyEntrySchema),
  /** The step that undo takes back next and the one that redo brings back; null where there is none. */
  undoes: z.int().nullable(),
  redoes: z.int().nullable(),
});
export type History = z.infer<typeof historySchema>;

export const runSchema = z.strictObject({
  id: z.string(),
  operation: z.string(),
  title: z.string(),
  state: z.enum(['queued', 'running', 'done', 'failed', 'cancelled']),
  /** 0 to 1. */
  progress: z.number(),
  /** What it is at: "Writing nodes". */
  step: z.string(),
  startedAt: z.iso.datetime(),
  elapsedMs: z.number(),
  secondsLeft: z.number().optional(),
  outcome: z.string().optional(),
  /** The field book's entry, once done. */
  historyId: z.int().optional(),
  /** What it made: a cloud or a product. */
  productId: z.int().optional(),
  error: problemSchema.optional(),
});
export type Run = z.infer<typeof runSchema>;
