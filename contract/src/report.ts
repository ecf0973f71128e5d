import { z } from 'zod';
import { linesOfText, lineOfText } from './text.js';

/** The parts of a report, in their order. */
export const REPORT_PARTS = [
  'came-in',
  'done',
  'density',
  'strips',
  'accuracy',
  'map',
  'surfaces',
  'volumes',
  'pictures',
  'uncertain',
] as const;
export type ReportPart = (typeof REPORT_PARTS)[number];

export const REPORT_PART_NAMES: Readonly<Record<ReportPart, string>> = {
  'came-in': 'What came in',
  done: 'What was done',
  density: 'Point density',
  strips: 'Strips',
  accuracy: 'Check points and accuracy',
  map: 'Map',
  surfaces: 'Surfaces and contours',
  volumes: 'Volumes',
  pictures: 'Pictures',
  uncertain: 'What is not certain',
};

/** A PNG or JPEG as base 64. */
const picture = z
  .string()
  .max(4_000_000, 'A picture has 3 MB at most.')
  .regex(/^(?:iVBORw0KGgo|\/9j\/)[A-Za-z0-9+/]+={0,2}$/, 'A picture is a PNG or JPEG.');

export const reportOptionsSchema = z.strictObject({
  format: z.enum(['pdf', 'html']).default('pdf'),
  title: lineOfText(120).min(1).optional(),
  /** Who signs. */
  surveyor: lineOfText(120).default(''),
  /** The surveyor's own words, before everything else; Markdown. */
  words: linesOfText(20_000).default(''),
  logo: picture.optional(),
  parts: z.array(z.enum(REPORT_PARTS)).default([...REPORT_PARTS]),
  /** Views as the surveyor placed them. */
  pictures: z
    .array(z.strictObject({ caption: lineOfText(200), image: picture }))
    .max(12)
    .default([]),
});
export type ReportOptions = z.output<typeof reportOptionsSchema>;
export type ReportOptionsInput = z.input<typeof reportOptionsSchema>;
