import type { ContourSet } from './contour-set.js';

export interface ContourFacts {
  readonly lines: number;
  readonly indexLines: number;
  readonly vertices: number;
  readonly levels: number;
  readonly lowest: number | undefined;
  readonly highest: number | undefined;
  /** Sum of all lines in plan, job units. */
  readonly length: number;
  /** Of it where few points stand behind the lines. */
  readonly obscured: number;
  readonly depressions: number;
}

export function contourFacts(contours: ContourSet): ContourFacts {
  const { level, isIndex, isObscured, isDepression, starts, easting, northing } = contours;
  let [length, obscured] = [0, 0];
  let indexLines = 0;
  const levels = new Set<number>();
  for (let l = 0; l < level.length; l++) {
    levels.add(level[l]!);
    indexLines += isIndex[l]!;
    for (let v = starts[l]! + 1; v < starts[l + 1]!; v++) {
      const step = Math.hypot(easting[v]! - easting[v - 1]!, northing[v]! - northing[v - 1]!);
      length += step;
      if (isObscured[l] === 1) obscured += step;
    }
  }
  return {
    lines: level.length,
    indexLines,
    vertices: easting.length,
    levels: levels.size,
    lowest: level.length ? level[0] : undefined,
    highest: level.length ? level[level.length - 1] : undefined,
    length,
    obscured,
    depressions: isDepression.reduce((sum, is) => sum + is, 0),
  };
}
