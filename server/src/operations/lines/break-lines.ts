import { BREAK_CODES, type FoundLine } from '@pampero/contract';
import type { BreakKind, BreakOptions } from '@pampero/core/breaks';
import { shapeOf, simplifyLine, sourceNumber, type LineShape } from '@pampero/core/lines';
import { formatNumber } from '@pampero/core/wording';
import type { MadeLine } from './made-lines.js';

/** The lines of a break, each strand under its code. */
export function linesOfBreak({ strands, isClosed }: FoundLine, kind: BreakKind): MadeLine[] {
  const codes: Readonly<Record<string, string>> = BREAK_CODES[kind];
  return Object.entries(strands).flatMap(([strand, corners]) => {
    const code = codes[strand];
    return code === undefined ? [] : [{ code, shape: found(corners, isClosed) }];
  });
}

/** A line that was found, told by as few corners as the tolerance allows. */
export function simplified(line: FoundLine, tolerance: number): FoundLine {
  if (tolerance <= 0) return line;
  return {
    ...line,
    strands: Object.fromEntries(
      Object.entries(line.strands).map(([strand, corners]) => {
        const { easting, northing, elevation } = simplifyLine(found(corners, line.isClosed), tolerance);
        return [strand, Array.from(easting, (e, k): [number, number, number] => [e, northing[k]!, elevation[k]!])];
      }),
    ),
  };
}

/** What a task gives, as the contract has it. */
export function foundLine(line: {
  readonly strands: Readonly<Record<string, readonly (readonly [number, number, number])[]>>;
}): FoundLine {
  return line as unknown as FoundLine;
}

/** The settings of a search without what is not the search's own. */
export function breakOptions(
  parameters: Omit<BreakOptions, 'reach'> & { readonly reach?: number },
  usualReach: number,
): BreakOptions {
  const { kind, leastHeight, mostHeight, faceWidth, stoneWidth, leastTurn, halfProfile, longestGap, reach } =
    parameters;
  return { kind, leastHeight, mostHeight, faceWidth, stoneWidth, leastTurn, halfProfile, longestGap, reach: reach ?? usualReach }; // prettier-ignore
}

/** "9.4 m bridged, 2 gaps", or nothing. */
export function gapsOf(lines: readonly FoundLine[], unit: string): string {
  const gaps = lines.flatMap(({ bridged }) => bridged);
  const length = gaps.reduce((sum, gap) => sum + gap.length, 0);
  return gaps.length === 0 ? '' : `${gaps.length} gaps bridged, ${formatNumber(length, 1)} ${unit}`;
}

function found(corners: readonly (readonly [number, number, number])[], isClosed: boolean): LineShape {
  return shapeOf(
    corners.map(([e, n, z]) => ({ e, n, z, source: sourceNumber('found') })),
    isClosed,
  );
}
