import { lengthUnits, metresPer, readLength, type LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import type { ParameterMeta } from './parameter-meta.js';

interface LengthRange extends ParameterMeta {
  /** Metres; turned into the job's unit and rounded to a figure one would type. */
  readonly metres: { readonly default: number; readonly min: number; readonly max: number };
}

/** Metres in the job's unit, rounded to a figure one would type. */
export function lengthInUnit(metres: number, unit: LengthUnit): number {
  return unit === 'metre' ? metres : Number((metres / metresPer(unit)).toPrecision(2));
}

/** Makes length parameters for jobs in `unit`: they take a number in job units or text with a unit ("8 in", "10cm"). */
export function lengthIn(unit: LengthUnit) {
  const inUnit = (metres: number): number => lengthInUnit(metres, unit);
  return ({ metres, ...meta }: LengthRange) =>
    z
      .preprocess(
        (given, context) => {
          if (typeof given !== 'string') return given;
          const read = readLength(given, unit);
          if ('value' in read) return read.value;
          context.addIssue({ code: 'custom', message: `${meta.label}: ${read.fault}` });
          return z.NEVER;
        },
        z
          .number({
            error: (issue) =>
              `${meta.label}: “${String(issue.input)}” is not a length. Type a number, with a unit if you like: 0.5, 8 in, 10 cm.`,
          })
          .min(inUnit(metres.min), `${meta.label} cannot be under ${inUnit(metres.min)} ${lengthUnits[unit].short}.`)
          .max(inUnit(metres.max), `${meta.label} cannot be over ${inUnit(metres.max)} ${lengthUnits[unit].short}.`),
      )
      .default(inUnit(metres.default))
      .meta({ quantity: 'length', ...meta });
}
