import { densifyLine } from './densify-line.js';
import { fillElevations, gradeLine } from './grade-line.js';
import { reverseLine } from './cut-line.js';
import type { LineShape } from './line-shape.js';
import { offsetLine } from './offset-line.js';
import { simplifyLine } from './simplify-line.js';
import { smoothLine } from './smooth-line.js';

/** What becomes of a line by itself; lengths in job units. */
export const LINE_SHAPERS = {
  simplify: (line: LineShape, { tolerance }: ShapingSettings) => simplifyLine(line, tolerance),
  smooth: (line: LineShape, { tolerance }: ShapingSettings) => smoothLine(line, tolerance),
  densify: (line: LineShape, { step }: ShapingSettings) => densifyLine(line, step),
  offset: (line: LineShape, { distance, rise }: ShapingSettings) => offsetLine(line, distance, rise),
  grade: (line: LineShape, { from, to }: ShapingSettings) => gradeLine(line, from, to),
  fill: fillElevations,
  turn: reverseLine,
} as const;

export interface ShapingSettings {
  readonly tolerance: number;
  readonly step: number;
  readonly distance: number;
  readonly rise: number;
  readonly from?: number | undefined;
  readonly to?: number | undefined;
}
