import { noProgress, type Progress } from '../task/index.js';
import { nextSide, type Tin } from '../terrain/index.js';
import type { ContourOptions, ContourSet, TracedContours } from './contour-set.js';
import { eachLevel, facetRanges, levelNumbers, levelsOf, LineCollector } from './level-lines.js';

/**
 * Traces contours on the facets themselves, exactly: no gridding, no smoothing. Each lies with the higher ground on its
 * right. A corner at the very level counts as above it, so contours of different levels never touch, every line ends at the
 * rim or closes, and a level facet draws nothing.
 * @throws TerrainError `interval-wrong`, `too-many-contours`
 */
export function traceContours(...given: Parameters<typeof traceWithFacets>): ContourSet {
  return traceWithFacets(...given).contours;
}

/** As {@link traceContours}, and says which facet each vertex was reached through. */
export function traceWithFacets(
  tin: Tin,
  options: ContourOptions,
  progress: Progress = noProgress,
  signal?: { readonly aborted: boolean },
): TracedContours {
  const { easting, northing, elevation, facets, twins } = tin;
  const { low, high } = facetRanges(facets, levelNumbers(elevation, options));
  const levels = levelsOf(low, high, options);
  const seenAt = new Int32Array(facets.length / 3).fill(-1);
  const lines = new LineCollector(options, tin.origin);
  eachLevel(levels, options, progress, signal, (at, k, crossed) => {
    // First the lines that come in over the rim, then those left, which close.
    for (const closes of [false, true])
      for (const facet of crossed) {
        if (seenAt[facet] === k) continue;
        const entry = risingSide(facet, at);
        if (!closes && twins[entry]! >= 0) continue;
        lines.begin();
        walk(entry, at, k);
        lines.end(at, levels.firstLevel + k, closes);
      }
  });
  return lines.finish(tin.origin);

  /** The half-edge of a crossed facet that goes from below the level to at or above it: there is exactly one. */
  function risingSide(facet: number, at: number): number {
    const h = 3 * facet;
    const above0 = elevation[facets[h]!]! >= at;
    const above1 = elevation[facets[h + 1]!]! >= at;
    const above2 = elevation[facets[h + 2]!]! >= at;
    if (!above0 && above1) return h;
    return !above1 && above2 ? h + 1 : h + 2;
  }

  /** Follows a line from its entry side until it leaves over the rim or is back. */
  function walk(entry: number, at: number, levelIndex: number): void {
    let side = entry;
    addCrossing(side, at);
    for (;;) {
      const facet = (side / 3) | 0;
      seenAt[facet] = levelIndex;
      // The falling side: of the two others, the one whose start is at or above the level and whose end is below.
      let exit = nextSide(side);
      const exitEnd = facets[nextSide(exit)]!;
      if (elevation[exitEnd]! >= at) exit = nextSide(exit);
      addCrossing(exit, at);
      const next = twins[exit]!;
      if (next < 0 || next === entry) return;
      side = next;
    }
  }

  /** Where the level crosses a side; reckoned from the corner with the lower index, so both facets agree to the last bit. */
  function addCrossing(side: number, at: number): void {
    let a = facets[side]!;
    let b = facets[nextSide(side)]!;
    if (a > b) [a, b] = [b, a];
    const share = (at - elevation[a]!) / (elevation[b]! - elevation[a]!);
    lines.add(
      easting[a]! + (easting[b]! - easting[a]!) * share,
      northing[a]! + (northing[b]! - northing[a]!) * share,
      (side / 3) | 0,
    );
  }
}
