import { ascending, columnFrom } from '../columns/index.js';
import type { Places } from '../cleaning/neighbour-grid.js';
import { planBounds } from '../raster/index.js';

export const THINNING_METHODS = ['spacing', 'lowest', 'highest', 'nearest-mean', 'median', 'random'] as const;
export type ThinningMethod = (typeof THINNING_METHODS)[number];

export interface ThinningOptions {
  readonly method: ThinningMethod;
  /** Least distance in space, or side of a cell in plan, job units. */
  readonly distance: number;
  /** Of the points, for `random`. */
  readonly share: number;
}

/** Chains of points that decide over each other reach maximum extent so many spacings, as far as any cloud has shown. */
const CHAIN = 16;

/** How far beyond a piece of land its points must be known. */
export function thinningMargin({ method, distance }: ThinningOptions): number {
  return method === 'random' ? 0 : method === 'spacing' ? CHAIN * distance : distance;
}

/**
 * Which points stay. Each point has a priority drawn from its own coordinates, so the outcome does not depend on order, on tiles or on
 * the number of threads.
 * - `spacing`: no two nearer than the distance; of those that are, the one with the better priority stays, and nothing could be added
 *   (greedy Poisson-disk elimination by random priorities; Cook 1986, ACM Transactions on Graphics 5(1), for Poisson disks)
 * - `lowest`, `highest`, `nearest-mean`, `median`: one real point a cell in plan, by its height
 * - `random`: each with the same chance
 * @param places - in job coordinates; the first `count` are judged, the others are the margin about them
 * @param priorities - see {@link priorityOf}
 * @returns of each judged point 1 where it stays
 */
export function thinPoints(
  places: Places,
  priorities: Uint32Array,
  { method, distance, share }: ThinningOptions,
  count = places.count,
): Uint8Array {
  switch (method) {
    case 'random': {
      const limit = share * 2 ** 32;
      return columnFrom(Uint8Array, { length: count }, (_, i) => (priorities[i]! < limit ? 1 : 0));
    }
    case 'spacing':
      return bySpacing(places, priorities, distance).subarray(0, count);
    default:
      return byCell(places, priorities, distance, method).subarray(0, count);
  }
}

/** A priority from a point's scaled integers: the same point draws the same priority everywhere. */
export function priorityOf(x: number, y: number, z: number): number {
  let h =
    Math.imul(x ^ 0x9e3779b9, 0x85ebca6b) ^
    Math.imul(y ^ 0x7f4a7c15, 0xc2b2ae35) ^
    Math.imul(z ^ 0x165667b1, 0x27d4eb2f);
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return (h ^ (h >>> 16)) >>> 0;
}

/**
 * Taken in the order of their priorities, each that is still free stays and sets aside all about it. Points are sorted into cells in plan
 * first (clouds are sheets), so that what lies about a point are three runs of memory.
 */
function bySpacing({ count, x, y, z }: Places, priorities: Uint32Array, distance: number): Uint8Array {
  const out = new Uint8Array(count);
  if (count === 0) return out;
  const cells = new PlanCells(x, y, count, distance);
  const { order, starts, columns } = cells;
  const sx = new Float64Array(count);
  const sy = new Float64Array(count);
  const sz = new Float64Array(count);
  const sortedPriorities = new Uint32Array(count);
  for (let k = 0; k < count; k++) {
    const i = order[k]!;
    sx[k] = x[i]!;
    sy[k] = y[i]!;
    sz[k] = z[i]!;
    sortedPriorities[k] = priorities[i]!;
  }
  const isAside = new Uint8Array(count);
  const limit = distance * distance;
  forEachByPriority(
    sortedPriorities,
    (k) => isAside[k] === 0,
    // Equal priorities, which are rare, in the order of their places, which are theirs wherever they stand in memory.
    (a, b) => sx[a]! - sx[b]! || sy[a]! - sy[b]! || sz[a]! - sz[b]!,
    (k) => {
      out[order[k]!] = 1;
      const px = sx[k]!;
      const py = sy[k]!;
      const pz = sz[k]!;
      const own = cells.cellOf(px, py);
      for (let row = own - columns; row <= own + columns; row += columns) {
        const end = starts[row + 2]!;
        for (let j = starts[row - 1]!; j < end; j++) {
          const dx = sx[j]! - px;
          const dy = sy[j]! - py;
          const dz = sz[j]! - pz;
          if (dx * dx + dy * dy + dz * dz < limit) isAside[j] = 1;
        }
      }
    },
  );
  return out;
}

/** Priorities are sorted by their upper bits first, and the rest only among those that are still wanted when their turn comes. */
const UPPER_BITS = 8;
const LOWER_BITS = 32 - UPPER_BITS;
const LOWER_MASK = 2 ** LOWER_BITS - 1;
/** A priority's lower bits and an index in one number: such numbers are sorted many times faster than indices by a rule. */
const INDEXES = 2 ** (53 - LOWER_BITS);

/** Visits the wanted indices in the order of their priorities; `wanted` is asked again right before each visit. */
function forEachByPriority(
  priorities: Uint32Array,
  wanted: (index: number) => boolean,
  equal: (a: number, b: number) => number,
  visit: (index: number) => void,
): void {
  const starts = new Uint32Array(2 ** UPPER_BITS + 1);
  for (let i = 0; i < priorities.length; i++) starts[(priorities[i]! >>> LOWER_BITS) + 1]!++;
  for (let d = 0; d < 2 ** UPPER_BITS; d++) starts[d + 1]! += starts[d]!;
  const next = starts.slice();
  const order = new Uint32Array(priorities.length);
  for (let i = 0; i < priorities.length; i++) order[next[priorities[i]! >>> LOWER_BITS]!++] = i;
  const keys = new Float64Array(starts.reduce((most, start, d) => Math.max(most, start - (starts[d - 1] ?? 0)), 0));
  for (let d = 0; d < 2 ** UPPER_BITS; d++) {
    let count = 0;
    for (let k = starts[d]!; k < starts[d + 1]!; k++)
      if (wanted(order[k]!)) keys[count++] = (priorities[order[k]!]! & LOWER_MASK) * INDEXES + order[k]!;
    const turn = keys.subarray(0, count).sort();
    for (let from = 0; from < count;) {
      let to = from + 1;
      while (to < count && Math.floor(turn[to]! / INDEXES) === Math.floor(turn[from]! / INDEXES)) to++;
      const same = to - from > 1 ? [...turn.subarray(from, to)].map((key) => key % INDEXES).sort(equal) : undefined;
      for (let k = from; k < to; k++) {
        const i = same ? same[k - from]! : turn[k]! % INDEXES;
        if (wanted(i)) visit(i);
      }
      from = to;
    }
  }
}

/** Cells a side holds at most; a wider land has larger cells. */
const MOST_CELLS_A_SIDE = 4096;

/** Places sorted into cells in plan, with an empty rim all round, so that nothing is asked at its edges. */
class PlanCells {
  /** Which place stands where, cell by cell and row by row. */
  readonly order: Uint32Array;
  /** Where the places of each cell begin, and the end. */
  readonly starts: Uint32Array;
  readonly columns: number;
  private readonly west: number;
  private readonly south: number;
  private readonly perUnit: number;

  constructor(x: Float64Array, y: Float64Array, count: number, least: number) {
    const { west, south, east, north } = planBounds(x, y, count);
    this.west = west;
    this.south = south;
    this.perUnit = 1 / Math.max(least, Math.max(east - west, north - south) / MOST_CELLS_A_SIDE);
    this.columns = Math.floor((east - west) * this.perUnit) + 3;
    const cells = this.columns * (Math.floor((north - south) * this.perUnit) + 3);
    this.starts = new Uint32Array(cells + 1);
    const cellOf = new Uint32Array(count);
    for (let i = 0; i < count; i++) {
      const cell = this.cellOf(x[i]!, y[i]!);
      cellOf[i] = cell;
      this.starts[cell + 1]!++;
    }
    for (let cell = 0; cell < cells; cell++) this.starts[cell + 1]! += this.starts[cell]!;
    const next = this.starts.slice();
    this.order = new Uint32Array(count);
    for (let i = 0; i < count; i++) this.order[next[cellOf[i]!]!++] = i;
  }

  cellOf(px: number, py: number): number {
    const column = Math.floor((px - this.west) * this.perUnit) + 1;
    return (Math.floor((py - this.south) * this.perUnit) + 1) * this.columns + column;
  }
}

function byCell(
  places: Places,
  priorities: Uint32Array,
  side: number,
  method: Exclude<ThinningMethod, 'spacing' | 'random'>,
): Uint8Array {
  const { count, x, y, z } = places;
  const out = new Uint8Array(count);
  const cellOf = (i: number): number => Math.floor(x[i]! / side) * 2 ** 26 + Math.floor(y[i]! / side);
  const cells = columnFrom(Float64Array, { length: count }, (_, i) => cellOf(i));
  // By cell, then by height, then by priority and place.
  const order = ascending(count).sort(
    (a, b) =>
      cells[a]! - cells[b]! || z[a]! - z[b]! || priorities[a]! - priorities[b]! || x[a]! - x[b]! || y[a]! - y[b]!,
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
