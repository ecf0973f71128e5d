import { z } from 'zod';
import { POINT_FILE_FORMATS } from '../exports.js';
import { lineOfText } from '../text.js';

/** Says in the file what it is, and in which version of this layout it was written. */
export const RUN_SHEET_FORMAT = 'pampero-run-sheet';
export const RUN_SHEET_VERSION = 1;

/** Names a step or a place within its sheet. */
const keySchema = z
  .string()
  .regex(/^[a-z][a-z0-9-]{0,39}$/, 'A key is made of small letters, digits and dashes and begins with a letter.');

/** What differs from job to job and is given when the sheet is run. */
export const sheetPlaceSchema = z.strictObject({
  key: keySchema,
  label: lineOfText(80).min(1, 'Label cannot be empty.'),
  help: lineOfText(300).default(''),
  /**
   * `files`: files that steps read, one or more. `clouds`: clouds that are in the job already. `value`: a parameter's value,
   * typed then.
   */
  kind: z.enum(['files', 'clouds', 'value']),
  isOptional: z.boolean().default(false),
});
export type SheetPlace = z.output<typeof sheetPlaceSchema>;

/**
 * A parameter is a value as the operation takes it, lengths best with their unit ("0.25 m"), or one of these rules:
 * `{"from": step}` what that step made; `{"place": key}` what was given for a place; `{"every": "cloud"}` all clouds of the
 * job, or all products of a kind; `{"spacings": 2}` so many times the point spacing of the cloud.
 */
export const sheetRuleSchema = z.union([
  z.strictObject({ from: keySchema }),
  z.strictObject({ place: keySchema }),
  z.strictObject({ every: z.string().min(1).max(40) }),
  z.strictObject({ spacings: z.number().positive().max(1000) }),
]);
export type SheetRule = z.output<typeof sheetRuleSchema>;

const common = {
  key: keySchema,
  /** In place of the operation's own title. */
  title: lineOfText(120).min(1).optional(),
  isOff: z.boolean().default(false),
};

export const workStepSchema = z.strictObject({
  ...common,
  kind: z.literal('work'),
  operation: z.string().min(1).max(60),
  /** The place whose files it reads; it is done once for each. */
  file: keySchema.optional(),
  /** A place or an earlier step: it is done once for each cloud or product of that. */
  each: keySchema.optional(),
  /** Begins with the settings proposed for the cloud; parameters given here come before them. */
  isProposed: z.boolean().default(false),
  parameters: z.record(z.string().max(60), z.unknown()).default({}),
});

export const GATE_RULES = ['at-most', 'at-least'] as const;
const figureGate = {
  /** The step whose figure is looked at. */
  of: keySchema,
  /** As the field book calls it: "RMSEz". */
  figure: lineOfText(120).min(1),
  must: z.enum(GATE_RULES),
  /** A number, or a length with its unit. */
  limit: z.union([z.number(), lineOfText(40).min(1)]),
};

/** Holds a run until a figure is as it must be, nothing is stale, or a person has looked. */
export const gateStepSchema = z.strictObject({
  ...common,
  kind: z.literal('gate'),
  gate: z.discriminatedUnion('rule', [
    z.strictObject({ rule: z.literal('figure'), ...figureGate }),
    z.strictObject({ rule: z.literal('nothing-stale') }),
    z.strictObject({ rule: z.literal('look'), question: lineOfText(300).min(1, 'Write what is to be looked at.') }),
  ]),
});

export const sheetStepSchema = z.discriminatedUnion('kind', [workStepSchema, gateStepSchema]);
export type WorkStep = z.output<typeof workStepSchema>;
export type GateStep = z.output<typeof gateStepSchema>;
export type SheetStep = z.output<typeof sheetStepSchema>;

/** What leaves at the end, by the step that made it. */
export const sheetOutputSchema = z.strictObject({
  of: keySchema,
  /** Of the product's kind, or of point files where the step made or changed a cloud. */
  format: z.string().min(1).max(40),
  /** Of a cloud: only points of these classes. */
  classes: z.array(z.int().min(0).max(255)).min(1).optional(),
});

/** A run sheet as it is kept and exchanged. */
export const runSheetSchema = z.strictObject({
  format: z.literal(RUN_SHEET_FORMAT, { error: `“format” has to be "${RUN_SHEET_FORMAT}".` }),
  version: z.literal(RUN_SHEET_VERSION),
  name: lineOfText(120).min(1, 'Give the run sheet a name.'),
  notes: lineOfText(2000).default(''),
  places: z.array(sheetPlaceSchema).max(40).default([]),
  steps: z.array(sheetStepSchema).min(1, 'A run sheet has one step at least.').max(200),
  outputs: z.array(sheetOutputSchema).max(200).default([]),
});
export type RunSheet = z.output<typeof runSheetSchema>;
export type RunSheetInput = z.input<typeof runSheetSchema>;

export const POINT_FORMATS: readonly string[] = POINT_FILE_FORMATS;

/** The rule that a parameter's value is, if it is one. */
export function ruleOf(value: unknown): SheetRule | undefined {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return undefined;
  const parsed = sheetRuleSchema.safeParse(value);
  return parsed.success ? parsed.data : undefined;
}

/** A parameter's value as the list it may be: rules stand in lists of clouds and products too. */
export function rulesIn(value: unknown): SheetRule[] {
  const rule = ruleOf(value);
  if (rule) return [rule];
  return Array.isArray(value) ? value.flatMap((each) => ruleOf(each) ?? []) : [];
}
