import type { Places } from '../cleaning/neighbour-grid.js';

export const THINNING_METHODS = ['spacing', 'lowest', 'highest', 'nearest-mean', 'median', 'random'] as const;
export type ThinningMethod = (typeof THINNING_METHODS)[number];

export interface ThinningOptions {
  readonly method: ThinningMethod;
  /** Least distance in space, or side of a cell in plan, job units. */
  readonly distance: number;
  /** Of the points, for `random`. */
  readonly share: number;
}

/** Chains of points that decide over each other reach no further than so many spacings, as far as any cloud has shown. */
const CHAIN = 16;

/** How far beyond a piece of land its points must be known. */
export function thinningMargin({ method, distance }: ThinningOptions): number {
  return method === 'random' ? 0 : method === 'spacing' ? CHAIN * distance : distance;
}

/**
 * Which points stay. Each point has a lot drawn from its own coordinates, so the outcome does not depend on order, on tiles or on
 * the number of threads.
 * - `spacing`: no two nearer than the distance; of those that are, the one with the better lot stays, and nothing could be added
 *   (greedy Poisson-disk elimination by random priorities; Cook 1986, ACM Transactions on Graphics 5(1), for Poisson disks)
 * - `lowest`, `highest`, `nearest-mean`, `median`: one real point a cell in plan, by its height
 * - `random`: each with the same chance
 * @param places - in job coordinates; the first `count` are judged, the others are the margin about them
 * @param lots - see {@link lotOf}
 * @returns of each judged point 1 where it stays
 */
export function thinPoints(
  places: Places,
  lots: Uint32Array,
  { method, distance, share }: ThinningOptions,
  count = places.count,
): Uint8Array {
  switch (method) {
    case 'random': {
      const limit = share * 2 ** 32;
      return Uint8Array.from({ length: count }, (_, i) => (lots[i]! < limit ? 1 : 0));
    }
    case 'spacing':
      return bySpacing(places, lots, distance).subarray(0, count);
    default:
      return byCell(places, lots, distance, method).subarray(0, count);
  }
}

/** A lot from a point's scaled integers: the same point draws the same lot everywhere. */
export function lotOf(x: number, y: number, z: number): number {
  let h =
    Math.imul(x ^ 0x9e3779b9, 0x85ebca6b) ^
    Math.imul(y ^ 0x7f4a7c15, 0xc2b2ae35) ^
    Math.imul(z ^ 0x165667b1, 0x27d4eb2f);
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return (h ^ (h >>> 16)) >>> 0;
}

/** Points in the order of their lots; equal ones by place, which is theirs wherever they stand in memory. */
function orderOf({ count, x, y, z }: Places, lots: Uint32Array): Uint32Array {
  // A lot and an index in one number: such numbers are sorted many times faster than indices by a rule.
  const indexes = 2 ** 21;
  if (count > indexes)
    return Uint32Array.from({ length: count }, (_, i) => i).sort((a, b) => lots[a]! - lots[b]! || byPlace(a, b));
  const keys = new Float64Array(count);
  for (let i = 0; i < count; i++) keys[i] = lots[i]! * indexes + i;
  keys.sort();
  const order = Uint32Array.from(keys, (key) => key % indexes);
  // Equal lots, which are rare, in the order of their places.
  for (let from = 0; from < count;) {
    let to = from + 1;
    while (to < count && lots[order[to]!] === lots[order[from]!]) to++;
    if (to - from > 1) order.subarray(from, to).sort(byPlace);
    from = to;
  }
  return order;

  function byPlace(a: number, b: number): number {
    return x[a]! - x[b]! || y[a]! - y[b]! || z[a]! - z[b]!;
  }
}

function bySpacing(places: Places, lots: Uint32Array, distance: number): Uint8Array {
  const { count, x, y, z } = places;
  const out = new Uint8Array(count);
  if (count === 0) return out;
  let [west, south, east] = [Infinity, Infinity, -Infinity];
  for (let i = 0; i < count; i++) {
    if (x[i]! < west) west = x[i]!;
    if (x[i]! > east) east = x[i]!;
    if (y[i]! < south) south = y[i]!;
  }
  // Cells in plan, hashed row by row: clouds are sheets, and few of those that stay lie over each other.
  const columns = Math.floor((east - west) / distance) + 3;
  let slots = 1024;
  while (slots < count) slots *= 2;
  const first = new Int32Array(slots).fill(-1);
  const next = new Int32Array(count).fill(-1);
  const limit = distance * distance;
  for (const i of orderOf(places, lots)) {
    const [px, py, pz] = [x[i]!, y[i]!, z[i]!];
    const column = Math.floor((px - west) / distance) + 1;
    const row = Math.floor((py - south) / distance) + 1;
    let isFree = true;
    search: for (let r = row - 1; r <= row + 1; r++)
      for (let c = column - 1; c <= column + 1; c++)
        for (let j = first[(r * columns + c) & (slots - 1)]!; j >= 0; j = next[j]!)
          if ((x[j]! - px) ** 2 + (y[j]! - py) ** 2 + (z[j]! - pz) ** 2 < limit) {
            isFree = false;
            break search;
          }
    if (!isFree) continue;
    out[i] = 1;
    const slot = (row * columns + column) & (slots - 1);
    next[i] = first[slot]!;
    first[slot] = i;
  }
  return out;
}

function byCell(
  places: Places,
  lots: Uint32Array,
  side: number,
  method: Exclude<ThinningMethod, 'spacing' | 'random'>,
): Uint8Array {
  const { count, x, y, z } = places;
  const out = new Uint8Array(count);
  const cellOf = (i: number): number => Math.floor(x[i]! / side) * 2 ** 26 + Math.floor(y[i]! / side);
  const cells = Float64Array.from({ length: count }, (_, i) => cellOf(i));
  // By cell, then by height, then by lot and place.
  const order = Uint32Array.from({ length: count }, (_, i) => i).sort(
    (a, b) => cells[a]! - cells[b]! || z[a]! - z[b]! || lots[a]! - lots[b]! || x[a]! - x[b]! || y[a]! - y[b]!,
  );
  for (let start = 0; start < count;) {
    let end = start + 1;
    while (end < count && cells[order[end]!] === cells[order[start]!]) end++;
    out[order[chosenOf(order, z, start, end, method)]!] = 1;
    start = end;
  }
  return out;
}

/** Of the points from `start` to `end`, lowest first, the place of the one that stays. */
function chosenOf(order: Uint32Array, z: Float64Array, start: number, end: number, method: string): number {
  if (method === 'lowest') return start;
  if (method === 'highest') return end - 1;
  if (method === 'median') return start + ((end - start - 1) >> 1);
  let sum = 0;
  for (let k = start; k < end; k++) sum += z[order[k]!]! - z[order[start]!]!;
  const mean = z[order[start]!]! + sum / (end - start);
  let best = start;
  for (let k = start; k < end; k++) if (Math.abs(z[order[k]!]! - mean) < Math.abs(z[order[best]!]! - mean)) best = k;
  return best;
}
