import {
  cornerAt,
  cornersOf,
  LineError,
  offsetLine,
  shapeOf,
  sourceNumber,
  stationsOf,
  type LineShape,
} from '../lines/index.js';
import { signedArea } from '../measuring/index.js';

export const LEVEL_RULES = ['drawn', 'level', 'grade'] as const;

/** Which elevations a design line has. */
export interface DesignLevels {
  /** Those it was drawn with, one level, or a grade from its beginning on. */
  readonly rule: (typeof LEVEL_RULES)[number];
  /** The level, or where a grade begins; job units. */
  readonly level?: number;
  /** Rise over run along the line. */
  readonly grade?: number;
  /** Added to elevations as drawn, job units. */
  readonly raise?: number;
}

/** The top of a design: its edge, counter-clockwise and with elevations, and lines inside it at which it may bend. */
export interface DesignTop {
  readonly edge: LineShape;
  readonly inside: readonly LineShape[];
}

/**
 * A line with the elevations of a design.
 * @throws LineError `line-without-elevation` where it was drawn without and none are given
 */
export function withLevels(line: LineShape, { rule, level = 0, grade = 0, raise = 0 }: DesignLevels): LineShape {
  const stations = stationsOf(line);
  const corners = cornersOf(line).map((corner, k) => {
    const z = rule === 'drawn' ? corner.z + raise : level + (rule === 'grade' ? grade * stations[k]! : 0);
    return { ...corner, z, source: sourceNumber('typed') };
  });
  const bare = corners.filter(({ z }) => Number.isNaN(z)).length;
  if (bare > 0)
    throw new LineError('line-without-elevation', {
      what: `${bare} of the line’s ${corners.length} vertices have no elevation.`,
      fix: 'Choose one level or a grade, or give the line elevations in Lines.',
    });
  return shapeOf(corners, line.isClosed);
}

/** A pad within a closed line. */
export function padTop(outline: LineShape): DesignTop {
  return { edge: counterClockwise(outline), inside: [] };
}

/**
 * The crest of a bank or the formation of a road along an open line: level across, or falling to both sides.
 * @param crossfall - fall over run from the middle to the edges
 */
export function crestTop(line: LineShape, width: number, crossfall: number): DesignTop {
  const drop = -crossfall * (width / 2);
  const [right, left] = [offsetLine(line, width / 2, drop), offsetLine(line, -width / 2, drop)];
  const [first, last] = [cornerAt(line, 0), cornerAt(line, line.easting.length - 1)];
  // The ends of the line belong to the edge, or it would be level where the crest falls to both sides.
  const edge = shapeOf([...cornersOf(right), last, ...cornersOf(left).reverse(), first], true);
  return { edge: counterClockwise(edge), inside: [line] };
}

function counterClockwise(edge: LineShape): LineShape {
  const corners = cornersOf(edge);
  return signedArea(corners.map(({ e, n }) => [e, n] as const)) >= 0 ? edge : shapeOf(corners.reverse(), true);
}
