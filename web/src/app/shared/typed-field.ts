import { readFigure, readLength, type LengthUnit } from '@pampero/core/geodesy';

/** What was typed into a field: a value, or a sentence on why the field goes back to what it was. */
export type TypedValue = { readonly value: number } | { readonly fault: string };

/** What a field takes. */
export interface FieldRules {
  /** What the field is called, as it stands in a sentence: "section depth". */
  readonly name: string;
  /** For lengths and elevations: the job's unit. Left out for plain figures. */
  readonly unit?: LengthUnit;
  /** Why a figure that can be read will not do, or nothing. */
  readonly refuse?: (value: number) => string | undefined;
}

/**
 * Reads what was typed, as people write figures.
 * @example readTyped('a bit', { name: 'depth', unit: 'metre' }) // { fault: 'The depth stays as it was. “a bit” is not a length. …' }
 */
export function readTyped(text: string, { name, unit, refuse }: FieldRules): TypedValue {
  const read = unit === undefined ? readFigure(text) : readLength(text, unit);
  const fault = 'fault' in read ? read.fault : refuse?.(read.value);
  return fault === undefined ? (read as TypedValue) : { fault: `The ${name} stays as it was. ${fault}` };
}

export const mustBePositive = (value: number): string | undefined =>
  value > 0 ? undefined : 'It must be more than 0.';
