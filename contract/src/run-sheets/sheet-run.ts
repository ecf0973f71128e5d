import { z } from 'zod';
import { incomingFileSchema } from '../incoming.js';
import { figureSchema } from '../figures.js';
import { lineOfText } from '../text.js';

/** What was given for the places of a sheet, by their keys. */
export const givenPlacesSchema = z.record(
  z.string().max(40),
  z.union([
    z.strictObject({ files: z.array(incomingFileSchema).min(1).max(10_000) }),
    z.strictObject({ clouds: z.array(z.int().positive()).min(1).max(1000) }),
    z.strictObject({ value: z.unknown() }),
  ]),
);
export type GivenPlaces = z.output<typeof givenPlacesSchema>;

/** How a step of a run stands. `waiting`: a gate that did not hold, or a look that is asked for. */
export const STEP_STATES = ['to-do', 'running', 'done', 'waiting', 'accepted', 'failed', 'off'] as const;

export const sheetRunStepSchema = z.strictObject({
  /** The step's key, with "#2" and so on where it is done several times. */
  key: z.string(),
  title: z.string(),
  kind: z.enum(['work', 'gate']),
  state: z.enum(STEP_STATES),
  /** What became of it, or what it waits for. */
  outcome: z.string(),
  figures: z.array(figureSchema),
  /** The field book's entry, where there is one. */
  historyId: z.int().optional(),
  durationMs: z.number().optional(),
  /** Why it was accepted though it did not hold, as typed. */
  reason: z.string().optional(),
});
export type SheetRunStep = z.output<typeof sheetRunStepSchema>;

export const SHEET_RUN_STATES = ['running', 'waiting', 'stopped', 'done', 'cancelled'] as const;

/** A run sheet on its way through a job. */
export const sheetRunSchema = z.strictObject({
  id: z.int(),
  name: z.string(),
  state: z.enum(SHEET_RUN_STATES),
  steps: z.array(sheetRunStepSchema),
  startedAt: z.iso.datetime(),
  endedAt: z.iso.datetime().optional(),
  /** Share of the steps done, 0 to 1, with that of the one that runs. */
  progress: z.number(),
  secondsLeft: z.number().optional(),
  /** Why it stopped. */
  because: z.string().optional(),
  /** What leaves at the end, as numbers of clouds and products. */
  outputs: z.array(
    z.strictObject({
      kind: z.enum(['cloud', 'product']),
      id: z.int(),
      format: z.string(),
      classes: z.array(z.int()).optional(),
    }),
  ),
});
export type SheetRun = z.output<typeof sheetRunSchema>;

export const newSheetRunSchema = z.strictObject({ sheet: z.unknown(), places: givenPlacesSchema.default({}) });
export const acceptStepSchema = z.strictObject({
  step: z.string().min(1).max(60),
  reason: lineOfText(500).min(3, 'Write why it is accepted.'),
});
