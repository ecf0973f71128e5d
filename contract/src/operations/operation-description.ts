import type { LengthUnit } from '@pampero/core/geodesy';
import type { z } from 'zod';
import type { Stage } from '../stages.js';

/** Settings that suit a kind of land or work; what they do not name is left at its default. Lengths in metres. */
export interface Preset {
  readonly label: string;
  readonly values: Readonly<Record<string, number | string | boolean>>;
}

/**
 * An operation is the unit of all work. This one description feeds the sheet, the API, its OpenAPI page, the field book, the
 * graph of what hangs on what and the docs. `parameters` is made for a job's unit, since lengths, their defaults and their
 * ranges are in it.
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
  /** It works from a file that is sent or lies in the server's folder. */
  readonly takesFile?: boolean;
  /** It works from the surveyed points of the job. */
  readonly readsControl?: boolean;
  /** It looks at flags such as key-point, not at classes and withheld alone. */
  readonly readsFlags?: (parameters: Readonly<Record<string, unknown>>) => boolean;
  /** Why what it made cannot be made again by itself, where that is so. */
  readonly cannotRebuild?: (parameters: Readonly<Record<string, unknown>>) => string | undefined;
  readonly parameters: (unit: LengthUnit) => S;
}
