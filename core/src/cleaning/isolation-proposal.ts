import { ascending, columnFrom } from '../columns/index.js';
import { isolatedPoints, type IsolatedOptions } from './isolated-points.js';
import type { Places } from './neighbour-grid.js';

/** Radii tried, each so many times the one before, from so many point spacings on. */
const STEP = 1.4;
const FIRST = 2;
const MOST_RADII = 11;
/** The largest radius tried, in point spacings. */
export const FURTHEST_SPACINGS = FIRST * STEP ** (MOST_RADII - 1);
/** Fewer neighbours than this: pairs and small clusters of false points keep each other company. */
const LEAST_NEIGHBOURS = 4;
/**
 * Sparse twigs and far walls find company as soon as one looks a little further; false points do not. Where this share of what was
 * alone is still alone a step further on, what is left are false points.
 */
const STAYS = 0.75;

/** How many of some points are alone at each radius, the radii rising. */
export interface Loneliness {
  readonly radii: readonly number[];
  readonly alone: readonly number[];
  readonly judged: number;
}

/**
 * Counts points without company at radii that rise by a fixed ratio. Who has company at a radius has it at a larger one, so each
 * radius looks only at those left over.
 * @param spacing - between points if they lay evenly, job units
 * @param count - points to be judged: the first of `places`
 */
export function lonelinessOf(places: Places, spacing: number, count = places.count): Loneliness {
  const radii = Array.from({ length: MOST_RADII }, (_, k) => spacing * FIRST * STEP ** k);
  const alone: number[] = [];
  let [open, left] = [places, count];
  for (const radius of radii) {
    const found = isolatedPoints(open, { radius, leastNeighbours: LEAST_NEIGHBOURS }, left);
    const isLeft = (i: number): boolean => i < found.length && found[i] === 1;
    const all = ascending(open.count);
    const lonely = all.filter(isLeft);
    alone.push(lonely.length);
    if (lonely.length === 0) break;
    open = inOrder(open, [lonely, all.filter((i) => !isLeft(i))]);
    left = lonely.length;
  }
  return { radii: radii.slice(0, alone.length), alone, judged: count };
}

/** The same places in another order, lists one behind another. */
function inOrder({ count, x, y, z }: Places, lists: readonly Uint32Array[]): Places {
  const order = new Uint32Array(count);
  let at = 0;
  for (const list of lists) {
    order.set(list, at);
    at += list.length;
  }
  const of = (values: Float64Array): Float64Array => columnFrom(Float64Array, order, (i) => values[i]!);
  return { count, x: of(x), y: of(y), z: of(z) };
}

/** Of several pieces of one cloud, looked at with one spacing, all together. */
export function addLoneliness(parts: readonly Loneliness[]): Loneliness {
  const longest = parts.reduce(
    (best, part) => (part.radii.length > best.length ? part.radii : best),
    parts[0]?.radii ?? [],
  );
  return {
    radii: longest,
    alone: longest.map((_, k) => parts.reduce((sum, { alone }) => sum + (alone[k] ?? 0), 0)),
    judged: parts.reduce((sum, { judged }) => sum + judged, 0),
  };
}

/** The radius at which what is alone stays alone (our own; the usual test leaves it to be typed). */
export function proposeIsolation({ radii, alone }: Loneliness): IsolatedOptions {
  if (radii.length === 0) return { radius: 1, leastNeighbours: LEAST_NEIGHBOURS };
  let k = 0;
  while (k + 1 < radii.length && alone[k + 1]! < STAYS * alone[k]!) k++;
  return { radius: Number(radii[k]!.toPrecision(2)), leastNeighbours: LEAST_NEIGHBOURS };
}
