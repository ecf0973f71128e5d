import { readTypedNumber, typedNumberFault } from '@pampero/core/geodesy';
import { z } from 'zod';
import { lineOfText } from '../text.js';
import { classCodeSchema } from '../classes.js';
import { meta, type ParameterMeta, type Referable } from './parameter-meta.js';

/** A number that may come as text, read the way it was written. */
const typed = <S extends z.ZodType>(label: string, schema: S) =>
  z.preprocess((given, context) => {
    if (typeof given !== 'string') return given;
    if (given.trim() === '') return undefined;
    const read = readTypedNumber(given);
    if ('value' in read) return read.value;
    context.addIssue({ code: 'custom', message: `${label}: ${typedNumberFault(given)}` });
    return z.NEVER;
  }, schema);

interface Range {
  readonly min?: number | undefined;
  readonly max?: number | undefined;
}

function within(schema: z.ZodNumber, label: string, { min, max }: Range): z.ZodNumber {
  let out = schema;
  if (min !== undefined) out = out.min(min, `${label} cannot be under ${min}.`);
  if (max !== undefined) out = out.max(max, `${label} cannot be over ${max}.`);
  return out;
}

const numberIn = (label: string, range: Range) => within(z.number({ error: `${label}: type a number.` }), label, range);

/** A number with a range and a default. */
export const figure = ({ default: usual, min, max, ...facts }: ParameterMeta & Range & { readonly default: number }) =>
  typed(facts.label, numberIn(facts.label, { min, max })).default(usual).meta(meta(facts));

/** A number with a range that may be left out. */
export const figureOrNone = ({ min, max, ...facts }: ParameterMeta & Range) =>
  typed(facts.label, numberIn(facts.label, { min, max }).optional()).meta(meta(facts));

/** A number with a range that has to be given. */
export const figureNeeded = ({ min, max, ...facts }: ParameterMeta & Range) =>
  typed(facts.label, numberIn(facts.label, { min, max })).meta(meta(facts));

/** A whole number with a range and a default. */
export const count = ({ default: usual, min, max, ...facts }: ParameterMeta & Range & { readonly default: number }) =>
  typed(facts.label, within(z.int(`${facts.label}: type a whole number.`), facts.label, { min, max }))
    .default(usual)
    .meta(meta({ quantity: 'count', ...facts }));

export const degrees = (facts: ParameterMeta & Range & { readonly default: number }) =>
  figure({ quantity: 'degrees', ...facts });

export const flag = ({ default: usual, ...facts }: ParameterMeta & { readonly default: boolean }) =>
  z.boolean().default(usual).meta(meta(facts));

export const choice = <const C extends readonly [string, ...string[]], D extends C[number]>(
  values: C,
  { default: usual, ...facts }: ParameterMeta & { readonly default: D },
) =>
  z
    .enum(values as unknown as [C[number], ...C[number][]])
    .default(usual)
    .meta(meta(facts));

/** An elevation in the job's datum; `optional` where it may be left out. */
export const elevation = (facts: ParameterMeta) =>
  typed(facts.label, z.number({ error: `${facts.label}: type an elevation.` }).optional()).meta(
    meta({ quantity: 'elevation', ...facts }),
  );
export const elevationOr = (usual: number, facts: ParameterMeta) =>
  typed(facts.label, z.number({ error: `${facts.label}: type an elevation.` }))
    .default(usual)
    .meta(meta({ quantity: 'elevation', ...facts }));

export const classList = (facts: ParameterMeta) =>
  z
    .array(z.int().min(0).max(255))
    .min(1, 'Choose at least one class.')
    .default([2])
    .meta(meta({ quantity: 'class-list', ...facts }));

export const classChoice = (usual: number, facts: ParameterMeta) =>
  classCodeSchema.default(usual).meta(meta({ quantity: 'class', ...facts }));

/** The name of something that is made. */
export const productName = (help: string) =>
  lineOfText(120)
    .min(1, 'Name cannot be empty.')
    .optional()
    .meta(meta({ label: 'Name', help, quantity: 'name' }));

export const words = ({
  default: usual,
  max = 120,
  ...facts
}: ParameterMeta & { readonly default: string; readonly max?: number }) =>
  lineOfText(max)
    .default(usual)
    .meta(meta({ quantity: 'name', ...facts }));

const reference = z.int().positive();

/** One cloud or product. */
export const one = (refersTo: Referable, facts: Omit<ParameterMeta, 'refersTo'>) =>
  reference.meta(meta({ ...facts, refersTo }));

/** One cloud or product, or none. */
export const oneOrNone = (refersTo: Referable, facts: Omit<ParameterMeta, 'refersTo'> & { readonly none: string }) =>
  reference.optional().meta(meta({ ...facts, refersTo }));

/** Which line of a code something is made along. */
export const lineKey = () =>
  reference
    .optional()
    .meta(meta({ label: 'Line', help: 'Key of the line; left out, the longest of the code.', isHidden: true }));

/** At least one. */
export const some = (refersTo: Referable, facts: Omit<ParameterMeta, 'refersTo'>) =>
  z
    .array(reference, { error: `${facts.label}: give a list of their numbers, [1] or [1, 2].` })
    .min(1, `Choose at least one: ${facts.label.toLowerCase()}.`)
    .max(200)
    .meta(meta({ ...facts, refersTo }));

/** Any number of them, also none. */
export const any = (refersTo: Referable, facts: Omit<ParameterMeta, 'refersTo'>) =>
  z
    .array(reference)
    .max(200)
    .default([])
    .meta(meta({ ...facts, refersTo }));

/** The clouds an operation works on. */
export const clouds = (help: string, more: Partial<ParameterMeta> = {}) =>
  some('cloud', { label: 'Clouds', help, ...more });
