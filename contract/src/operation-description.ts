import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import type { ParameterMeta } from './length.js';
import type { Stage } from './stages.js';

/** Settings that suit a kind of land or work; what they do not name is left at its default. Lengths in metres. */
export interface Preset {
  readonly label: string;
  readonly values: Readonly<Record<string, number | string | boolean>>;
}

/**
 * An operation is the unit of all work. This one description feeds the sheet, the API, its OpenAPI page, the field book and
 * the docs. `parameters` is made for a job's unit, since lengths, their defaults and their ranges are in it.
 */
export interface OperationDescription<S extends z.ZodObject = z.ZodObject> {
  readonly id: string;
  readonly stage: Stage;
  /** What the button says. */
  readonly title: string;
  /** One sentence: what it does. */
  readonly does: string;
  /** Where the method was published. */
  readonly method?: string;
  /** Settings for common cases, lengths in metres. */
  readonly presets?: readonly Preset[];
  /** Done by hand and in a moment: nobody is told how far it is, and what follows waits for it. */
  readonly isQuick?: boolean;
  readonly parameters: (unit: LengthUnit) => S;
}

/** Facts of a parameter, for zod to carry. */
export const meta = (facts: ParameterMeta): ParameterMeta & Record<string, unknown> => ({ ...facts });

/** The name of something that is made. */
export const productName = (label: string, help: string) =>
  z
    .string()
    .trim()
    .min(1, `${label} cannot be empty.`)
    .max(120)
    .optional()
    .meta(meta({ label, help, quantity: 'name' }));

/** The cloud an operation works on. */
export const cloudChoice = (help: string) =>
  z
    .int()
    .positive()
    .meta(meta({ label: 'Cloud', help, quantity: 'cloud' }));
