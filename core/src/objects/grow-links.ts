import { NeighbourGrid, RANGES, type Places } from '../cleaning/neighbour-grid.js';
import { chosenPlaces } from './chosen-places.js';

/**
 * Of marked places those whose connected patch reaches far enough: links no longer than `reach`, and a box about the patch, in
 * plan, that is `leastLength` across its diagonal.
 */
export function growLinks(places: Places, isMarked: Uint8Array, reach: number, leastLength: number): Uint8Array {
  const { places: marked, which: chosen } = chosenPlaces(places, (i) => isMarked[i] === 1);
  const out = new Uint8Array(places.count);
  if (chosen.length === 0) return out;
  const grid = new NeighbourGrid(marked, reach);
  const { x, y, z, order } = grid;
  const limit = reach * reach;
  const seen = new Uint8Array(chosen.length);
  const queue = new Uint32Array(chosen.length);
  const ranges = new Uint32Array(RANGES);
  for (let start = 0; start < chosen.length; start++) {
    if (seen[start] === 1) continue;
    let [head, tail] = [0, 0];
    let [west, east, south, north] = [Infinity, -Infinity, Infinity, -Infinity];
    queue[tail++] = start;
    seen[start] = 1;
    while (head < tail) {
      const k = queue[head++]!;
      west = Math.min(west, x[k]!);
      east = Math.max(east, x[k]!);
      south = Math.min(south, y[k]!);
      north = Math.max(north, y[k]!);
      const used = grid.around(x[k]!, y[k]!, z[k]!, ranges);
      for (let r = 0; r < used; r += 2)
        for (let j = ranges[r]!; j < ranges[r + 1]!; j++) {
          if (seen[j] === 1) continue;
          if ((x[j]! - x[k]!) ** 2 + (y[j]! - y[k]!) ** 2 + (z[j]! - z[k]!) ** 2 > limit) continue;
          seen[j] = 1;
          queue[tail++] = j;
        }
    }
    if (Math.hypot(east - west, north - south) >= leastLength)
      for (let q = 0; q < tail; q++) out[chosen[order[queue[q]!]!]!] = 1;
  }
  return out;
}
