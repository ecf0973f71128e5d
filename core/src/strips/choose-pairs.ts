import { choosePairs, type PatchPairs } from './patches.js';
import { FACING_SLOPE } from './differences.js';

const SECTORS = 8;

/**
 * Chooses at most so many pairs, evenly over the pairs of strips and over the ways the ground faces, so that flat land does not swamp what little
 * slope there is. The same pairs give the same choice, in whichever order they come.
 */
export function balancedPairs(pairs: PatchPairs, most: number): PatchPairs {
  if (pairs.count <= most) return pairs;
  const bins = new Map<number, number[]>();
  for (let k = 0; k < pairs.count; k++) {
    const [e, n] = [pairs.slopeEast[k]!, pairs.slopeNorth[k]!];
    const steep = Math.hypot(e, n);
    const sector =
      steep < FACING_SLOPE ? 0 : 1 + (Math.floor(((Math.atan2(n, e) + Math.PI) / (2 * Math.PI)) * SECTORS) % SECTORS);
    const key = (pairs.one[k]! * 65_536 + pairs.two[k]!) * (SECTORS + 1) + sector;
    const list = bins.get(key);
    if (list) list.push(k);
    else bins.set(key, [k]);
  }
  // The smallest bins are taken whole; what they leave is shared by the others.
  const lists = [...bins.entries()].sort(([a, p], [b, q]) => p.length - q.length || a - b).map(([, list]) => list);
  const chosen: number[] = [];
  lists.forEach((list, at) => {
    const share = Math.floor((most - chosen.length) / (lists.length - at));
    if (list.length <= share) chosen.push(...list);
    else
      chosen.push(
        ...list
          .map((k) => ({ k, draw: scatter(pairs.x[k]!, pairs.y[k]!) }))
          .sort((a, b) => a.draw - b.draw || a.k - b.k)
          .slice(0, share)
          .map(({ k }) => k),
      );
  });
  return choosePairs(pairs, Uint32Array.from(chosen).sort());
}

/** A number that follows from a place and nothing else, spread like drawn ones. */
function scatter(x: number, y: number): number {
  let h = Math.imul(Math.round(x * 100) | 0, 0x9e3779b1) ^ Math.imul(Math.round(y * 100) | 0, 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d);
  return (h ^ (h >>> 13)) >>> 0;
}
