import {
  densifyLine,
  fillElevations,
  gradeLine,
  joinEnds,
  LineError,
  offsetLine,
  packLines,
  reverseLine,
  simplifyLine,
  smoothLine,
  unpackLines,
  type FeatureLine,
  type LineShape,
} from '@pampero/core/lines';
import { drapeLine } from '@pampero/core/profiles';
import { PamperoError } from '@pampero/core/task';
import { unpackTin, type Tin } from '@pampero/core/terrain';
import { FacetIndex } from '@pampero/core/volumes';
import type { ShapeLinesParameters } from '@pampero/contract';

export interface ShapedLines {
  /** As {@link packLines} has them, each with the key of the line it was made of; the first of several. */
  readonly lines: Uint8Array<ArrayBuffer>;
  /** Lines that went into another. */
  readonly gone: readonly number[];
  /** Lines that were left as they are, and why, one sentence each. */
  readonly left: readonly string[];
}

type Shaping = Omit<ShapeLinesParameters, 'keys' | 'codes' | 'surfaceId' | 'newCode'>;

/** Gives lines another shape; one that cannot have it stays, and the reason is told. */
export function shapeLines(task: {
  readonly lines: Uint8Array;
  readonly how: Shaping;
  readonly tin?: Uint8Array;
}): ShapedLines {
  const lines = unpackLines(task.lines);
  const { how } = task;
  if (how.shaping === 'join') return joined(lines, how.gap);
  const shape = shaper(how, task.tin && unpackTin(task.tin));
  const out: FeatureLine[] = [];
  const left: string[] = [];
  for (const line of lines) {
    try {
      out.push({ ...shape(line), key: line.key, entry: line.entry });
    } catch (error) {
      if (!(error instanceof LineError)) throw error;
      left.push(`Line ${line.key}: ${error.what}`);
    }
  }
  if (out.length === 0 && left.length > 0)
    throw new PamperoError('no-line-shaped', { what: left[0]!, fix: 'Change the settings, or choose other lines.' });
  return { lines: packLines(out), gone: [], left };
}

function joined(lines: readonly FeatureLine[], gap: number): ShapedLines {
  const all = joinEnds(lines, gap).filter(({ of }) => of.length > 1);
  if (all.length === 0)
    throw new PamperoError('no-line-shaped', {
      what: 'No two ends of these lines lie that near to each other.',
      fix: 'Allow a larger gap.',
    });
  const keyOf = (k: number): number => lines[k]!.key;
  return {
    lines: packLines(all.map(({ shape, of }) => ({ ...shape, key: keyOf(of[0]!), entry: 0 }))),
    gone: all.flatMap(({ of }) => of.slice(1).map(keyOf)),
    left: [],
  };
}

function shaper(how: Shaping, tin: Tin | undefined): (line: LineShape) => LineShape {
  switch (how.shaping) {
    case 'simplify':
      return (line) => simplifyLine(line, how.tolerance);
    case 'smooth':
      return (line) => smoothLine(line, how.tolerance);
    case 'densify':
      return (line) => densifyLine(line, how.step);
    case 'offset':
      return (line) => offsetLine(line, how.distance, how.rise);
    case 'grade':
      return (line) => gradeLine(line, how.from, how.to);
    case 'fill':
      return fillElevations;
    case 'turn':
    case 'join':
      return reverseLine;
    case 'drape': {
      if (!tin) throw new PamperoError('no-surface', { what: 'No surface was chosen.', fix: 'Choose the surface to drape on.' }); // prettier-ignore
      const index = new FacetIndex(tin, tin.origin);
      return (line) => drapeLine(line, tin, index);
    }
  }
}
