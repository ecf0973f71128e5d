import { lengthUnits, metresPer, parseLength, type LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';

/** What a form, the API and the docs need to know of a parameter besides its type. */
export interface ParameterMeta {
  readonly label: string;
  /** One line: what it does for the surveyor. */
  readonly help: string;
  readonly quantity?:
    | 'length'
    | 'elevation'
    | 'degrees'
    | 'count'
    | 'class'
    | 'class-list'
    | 'cloud'
    | 'surface'
    | 'contours'
    | 'lines'
    | 'lines-list'
    | 'grid'
    /** A grid without which it cannot be done. */
    | 'grid-needed'
    | 'name';
  /** Shown only when asked for. */
  readonly isAdvanced?: boolean;
  /** Never in the form: set by what is done by hand. */
  readonly isHidden?: boolean;
  /** Shown only where another parameter has a value. */
  readonly appliesTo?: { readonly name: string; readonly is: string | readonly string[] };
  /** What the choices are called, where they are not called by their values. */
  readonly choices?: Readonly<Record<string, string>>;
}

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
        (given) => (typeof given === 'string' ? (parseLength(given, unit) ?? given) : given),
        z
          .number({
            error: (issue) =>
              `${meta.label}: "${String(issue.input)}" is not a length. Type a number, with a unit if you like: 0.5, 8 in, 10 cm.`,
          })
          .min(inUnit(metres.min), `${meta.label} cannot be under ${inUnit(metres.min)} ${lengthUnits[unit].short}.`)
          .max(inUnit(metres.max), `${meta.label} cannot be over ${inUnit(metres.max)} ${lengthUnits[unit].short}.`),
      )
      .default(inUnit(metres.default))
      .meta({ quantity: 'length', ...meta });
}
