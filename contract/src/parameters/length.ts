import { lengthUnits, metresPer, readLength, type LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import type { ParameterMeta } from './parameter-meta.js';

interface Metres {
  readonly min: number;
  readonly max: number;
}
interface LengthRange<M extends Metres> extends ParameterMeta {
  /** The default in a job in feet, where it is another round figure than that of the metres. */
  readonly feet?: number;
  /** Metres; turned into the job's unit and rounded to a figure one would type. */
  readonly metres: M;
}

/** Metres in the job's unit, rounded to a figure one would type. */
export function lengthInUnit(metres: number, unit: LengthUnit): number {
  return unit === 'metre' ? metres : Number((metres / metresPer(unit)).toPrecision(2));
}

/** Makes length parameters for jobs in `unit`: they take a number in job units or text with a unit ("8 in", "10cm"). */
export function lengthIn(unit: LengthUnit) {
  return ({ metres, feet, ...meta }: LengthRange<Metres & { readonly default: number }>) =>
    read(unit, meta.label, within(unit, meta.label, metres))
      .default(unit !== 'metre' && feet !== undefined ? feet : lengthInUnit(metres.default, unit))
      .meta({ quantity: 'length', ...meta });
}

/** Lengths that may be left out. */
export function lengthOrNone(unit: LengthUnit) {
  return ({ metres, ...meta }: LengthRange<Metres>) =>
    read(unit, meta.label, within(unit, meta.label, metres).optional()).meta({ quantity: 'length', ...meta });
}

function within(unit: LengthUnit, label: string, { min, max }: Metres): z.ZodNumber {
  const [least, most] = [lengthInUnit(min, unit), lengthInUnit(max, unit)];
  const { short } = lengthUnits[unit];
  return z
    .number({
      error: (issue) =>
        `${label}: “${String(issue.input)}” is not a length. Type a number, with a unit if you like: 0.5, 8 in, 10 cm.`,
    })
    .min(least, `${label} cannot be under ${least} ${short}.`)
    .max(most, `${label} cannot be over ${most} ${short}.`);
}

/** A length as it was typed, in whatever unit. */
function read<S extends z.ZodType>(unit: LengthUnit, label: string, schema: S) {
  return z.preprocess((given, context) => {
    if (typeof given !== 'string') return given;
    if (given.trim() === '' && schema.isOptional()) return undefined;
    const length = readLength(given, unit);
    if ('value' in length) return length.value;
    context.addIssue({ code: 'custom', message: `${label}: ${length.fault}` });
    return z.NEVER;
  }, schema);
}
