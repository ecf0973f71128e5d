import { connectedCells, eachNeighbour } from '../raster/index.js';
import type { GroundPlanes, NearSums } from './ground-planes.js';
import type { LowestRaster } from './lowest-raster.js';
import { standingOut } from './surroundings.js';

/** A patch stands out by at least so much, metres, and by so many tolerances. */
const LEAST_METRES = 0.3;
const LEAST_TOLERANCES = 3;
/** A patch that is wider, metres squared, may be what it seems. */
const WIDEST_SQUARE_METRES = 8;
/** Ground bears itself out where more than this share of what is seen is it, and more than this share of the cells about a patch are known. */
const [BARE, KNOWN] = [0.5, 0.3] as const;

/**
 * Empties cells of patches of a few cells that stand over, or lie under, a plane that all known cells about them agree on, up to a gap of
 * 15 m away, and that nothing bears out: more grows there than there is ground, or no cell beside them is known. In sparse woods those
 * are a few points on a bush, under a photographed crown wrong matches below the ground. Where the land itself is in steps its surroundings are no plane, and nothing is said.
 * @param planes - fitted to `near`
 * @param tolerance - job units
 * @returns how many cells were emptied
 */
export function refuseLonePatches(
  raster: LowestRaster,
  planes: GroundPlanes,
  near: NearSums,
  tolerance: number,
  metresPerUnit: number,
): number {
  const metre = 1 / metresPerUnit;
  const { cell, lowest } = raster;
  const least = Math.max(LEAST_METRES * metre, LEAST_TOLERANCES * tolerance);
  // Cells that the first surface went past may hold what the next one would fall into.
  const own = planes.height.map((height, i) => (Number.isNaN(height) && lowest[i] !== Infinity ? lowest[i]! : height));
  const off = standingOut(planes, planes.height, least, metre, own);
  for (let i = 0; i < off.length; i++) if (off[i]! > 0 && Number.isNaN(planes.height[i]!)) off[i] = 0;
  const widest = (WIDEST_SQUARE_METRES * metre * metre) / (cell * cell);
  let emptied = 0;
  for (const cells of connectedCells(
    raster,
    (i) => off[i] !== 0,
    (i, j) => off[i]! > 0 === off[j]! > 0,
  )) {
    if (cells.length > widest && cells.length > 1) continue;
    const seen = cells.reduce((sum, i) => sum + near.count[i]! + near.over[i]!, 0);
    const close = cells.reduce((sum, i) => sum + near.count[i]!, 0);
    if (close > BARE * seen && knownAbout(raster, planes, cells) > KNOWN) continue;
    for (const i of cells) {
      if (lowest[i] !== Infinity) emptied++;
      lowest[i] = Infinity;
    }
  }
  return emptied;
}

/** Of the cells beside a patch the share that has ground. */
function knownAbout(raster: LowestRaster, { height }: GroundPlanes, cells: readonly number[]): number {
  const own = new Set(cells);
  const beside = new Set<number>();
  for (const i of cells) eachNeighbour(raster, i, (j) => own.has(j) || beside.add(j));
  let known = 0;
  for (const j of beside) if (!Number.isNaN(height[j]!)) known++;
  return beside.size === 0 ? 0 : known / beside.size;
}
