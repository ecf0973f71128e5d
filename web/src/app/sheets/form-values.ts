import type { OperationDescription, ParameterField } from '@pampero/contract';
import type { LengthUnit } from '@pampero/core/geodesy';

export type Values = Readonly<Record<string, unknown>>;

/** A choice of a field: a cloud or product by its number, a class, or a word. */
export interface Option {
  readonly value: unknown;
  readonly label: string;
}

/** What clouds and products a field may point at, by what it refers to; classes and other choices likewise. */
export type OptionsOf = (field: ParameterField) => readonly Option[];

/**
 * What a form holds: what was entered, else what the chosen set of settings says, else what is usual. What was entered of a
 * cloud or product that is there no longer is forgotten.
 */
export function formValues(
  fields: readonly ParameterField[],
  entered: Values,
  set: Values,
  optionsOf: OptionsOf,
): Record<string, unknown> {
  return Object.fromEntries(
    fields.map((field) => {
      const options = optionsOf(field);
      const value = field.name in entered ? present(field, entered[field.name], options) : undefined;
      const isThere = field.name in entered && (value !== undefined || entered[field.name] === undefined);
      return [field.name, isThere ? value : (set[field.name] ?? usual(field, options))];
    }),
  );
}

/** What of an entered value is still there to be chosen. */
function present(field: ParameterField, value: unknown, options: readonly Option[]): unknown {
  if (!field.refersTo) return value;
  const isThere = (id: unknown): boolean => options.some((option) => option.value === id);
  if (Array.isArray(value)) {
    const left = value.filter(isThere);
    return left.length > 0 || value.length === 0 ? left : undefined;
  }
  return isThere(value) ? value : undefined;
}

/** The newest cloud or product; all lines there are; nothing where nothing may be chosen; otherwise the default. */
function usual(field: ParameterField, options: readonly Option[]): unknown {
  if (!field.refersTo) return field.default ?? options.at(-1)?.value;
  if (field.none !== undefined) return undefined;
  const newest = options.at(-1)?.value;
  if (field.type !== 'array') return newest;
  // A list with a default may be empty: then all there are is meant.
  if (field.default !== undefined) return options.map(({ value }) => value);
  return newest === undefined ? undefined : [newest];
}

/** Whether a field is asked at all: one that applies, and has more than one answer. */
export function isAsked(field: ParameterField, values: Values, options: readonly Option[]): boolean {
  if (field.appliesTo && ![field.appliesTo.is].flat().includes(String(values[field.appliesTo.name]))) return false;
  if (!field.refersTo) return true;
  const mayBeNone = field.none !== undefined || (field.type === 'array' && field.default !== undefined);
  return options.length > (mayBeNone ? 0 : 1);
}

/** What goes to the server: empty fields are left out, so that they fall back to their defaults. */
export function givenValues(values: Values): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(values)
      .map(([name, value]): [string, unknown] => [name, typeof value === 'string' ? value.trim() : value])
      .filter(([, value]) => value !== undefined && value !== ''),
  );
}

/** What is wrong with what a form holds, a sentence a field; parsed values where nothing is. */
export function checkValues(
  operation: OperationDescription,
  unit: LengthUnit,
  given: Values,
): { readonly faults: Readonly<Record<string, string>>; readonly parsed?: Record<string, unknown> } {
  const result = operation.parameters(unit).safeParse(given);
  if (result.success) return { faults: {}, parsed: result.data };
  return {
    faults: Object.fromEntries(
      // The first of several is the one to fix.
      [...result.error.issues].reverse().map((issue) => [String(issue.path[0] ?? ''), issue.message]),
    ),
  };
}
