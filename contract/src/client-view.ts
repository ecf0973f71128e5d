import { z } from 'zod';
import { linesOfText, lineOfText } from './text.js';

/** What goes into the one file that a client opens. */
export const clientViewOptionsSchema = z.strictObject({
  /** The surface that is shown. */
  surfaceId: z.int().positive(),
  /** Over the page; the job's name when left out. */
  title: lineOfText(120).min(1).optional(),
  /** A few words to whoever opens it. */
  words: linesOfText(2000).default(''),
  /** The file is no larger than so many megabytes. */
  megabytes: z.number().min(1, 'A page needs 1 MB at least.').max(200).default(20),
  /** Laid over the land. */
  pictureId: z.int().positive().optional(),
  contoursId: z.int().positive().optional(),
  /** Clouds whose points are shown, thinned to what fits. */
  clouds: z.array(z.int().positive()).max(50).default([]),
  withLines: z.boolean().default(true),
  /** Notes that were pinned in the job become named places. */
  withPlaces: z.boolean().default(true),
});
export type ClientViewOptions = z.output<typeof clientViewOptionsSchema>;
export type ClientViewOptionsInput = z.input<typeof clientViewOptionsSchema>;

/** What the page reads beside the packed land. */
export interface ClientViewFacts {
  readonly title: string;
  readonly words: string;
  readonly madeAt: string;
  /** "m", and how it is said: "metres". */
  readonly unit: { readonly short: string; readonly name: string };
  readonly system: string;
  /** Names and colours of the kinds of lines; contours first. */
  readonly kinds: readonly { readonly name: string; readonly colour: string; readonly isContour: boolean }[];
  /** Colours of heights, from low to high. */
  readonly ramp: readonly string[];
  readonly hasPicture: boolean;
  readonly pointCount: number;
  readonly pointsOf: number;
  readonly places: readonly { readonly words: string; readonly at: readonly [number, number, number] }[];
  /** What is not certain, in words. */
  readonly remarks: readonly string[];
}
