import {
  cornerBetween,
  cornersOf,
  densifyLine,
  LineError,
  selfCrossings,
  shapeOf,
  type Corner,
} from '../lines/index.js';
import { triangulate, type TerrainLine, type Tin } from '../terrain/index.js';
import { volumeBetween, type Volume } from '../volumes/index.js';
import type { DesignTop } from './design-top.js';
import { sideSlopes, type SlopeLine, type SlopeSettings } from './side-slopes.js';

export interface Earthwork {
  /** The design from its top to where it meets the ground. */
  readonly tin: Tin;
  /** From the ground to the design: cut is dug away, fill is brought. */
  readonly volume: Volume;
  readonly slopeLines: number;
  /** Slope lines that do not meet the ground's surface: it ends before, or they are longer than the reach. */
  readonly open: number;
}

/**
 * Side slopes from a top until they meet the ground, as one surface: its edges are the top, the slope lines and the line along which they meet the ground.
 * @throws LineError `line-off-surface` where no part of the edge has ground under it
 */
export function earthworkOn(ground: Tin, { edge, inside }: DesignTop, settings: SlopeSettings): Earthwork {
  const slopes = sideSlopes(edge, ground, settings);
  const open = slopes.filter(({ endsAt }) => endsAt === 'nothing').length;
  if (open === slopes.length)
    throw new LineError('line-off-surface', {
      what: 'The design meets the ground nowhere: the line lies off the surface, or the slopes would be longer than they are followed.',
      fix: 'Choose the surface under the line, or follow slopes further.',
    });
  const feet = withoutLoops(slopes.filter(({ endsAt }) => endsAt !== 'slope').map(({ foot }) => foot));
  const lines: TerrainLine[] = [
    terrainLine(
      slopes.map(({ top }) => top),
      true,
    ),
    ...slopes.filter(hasLength).map(({ top, foot }) => terrainLine([top, foot], false)),
    ...inside.map((line) => terrainLine(cornersOf(densifyLine(line, settings.step)), line.isClosed)),
    { ...terrainLine(feet, true), role: 'boundary' },
  ];
  const none = new Float64Array();
  const { tin } = triangulate(none, none, none, { maximumEdge: 0 }, lines);
  return { tin, volume: volumeBetween(tin, ground), slopeLines: slopes.length, open };
}

/** Feet of two slopes that meet may be this near, job units. */
const SAME = 1e-3;

/** The ring of the feet. Where two slopes meet their last feet lie at one place, by more or less than nothing: no loop is left there. */
function withoutLoops(feet: readonly Corner[]): Corner[] {
  let ring = feet.filter(({ e, n }, k) => {
    const before = feet.at(k - 1)!;
    return Math.hypot(e - before.e, n - before.n) > SAME;
  });
  for (let turn = 0; turn < feet.length; turn++) {
    const [crossing] = selfCrossings(shapeOf(ring, true));
    if (!crossing) break;
    const { legA, legB, shareA } = crossing;
    const at = cornerBetween(ring[legA]!, ring[(legA + 1) % ring.length]!, shareA);
    // The shorter way round is the loop.
    ring =
      legB - legA <= ring.length / 2
        ? [...ring.slice(0, legA + 1), at, ...ring.slice(legB + 1)]
        : [at, ...ring.slice(legA + 1, legB + 1)];
  }
  return ring;
}

function hasLength({ top, foot }: SlopeLine): boolean {
  return top.e !== foot.e || top.n !== foot.n;
}

function terrainLine(corners: readonly Corner[], isClosed: boolean): TerrainLine {
  return {
    role: 'breakline',
    isClosed,
    easting: corners.map(({ e }) => e),
    northing: corners.map(({ n }) => n),
    elevation: corners.map(({ z }) => z),
  };
}
