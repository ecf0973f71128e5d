import { Scratch } from './scratch.js';
import { CODE_BITS } from './octree-cube.js';

export interface OctreeOptions {
  /** Nodes with no more points than this are kept whole instead of being sampled and split. */
  readonly leafPoints: number;
  /** No node holds more points than this; 65 535 lets a point's place in its node fit in 16 bits. */
  readonly mostPoints: number;
  /**
   * Where the points are only those of one square of a larger cloud: the level of that square. Nodes above it are sampled
   * whatever their size, and hold only this square's share: see {@link buildOctree}.
   */
  readonly sharedLevels: number;
}

export const octreeDefaults: OctreeOptions = { leafPoints: 60_000, mostPoints: 65_535, sharedLevels: 0 };

/** A node of the additive octree: its own points, which no other node holds. */
export interface OctreeNode {
  readonly level: number;
  /** Place among the 2^level nodes along each axis. */
  readonly cell: readonly [number, number, number];
  /** Indices of the node's points in the source. */
  readonly order: Uint32Array;
  /** Distance between neighbouring samples as a share of the root cube's side; 0 for a node that keeps all it got. */
  readonly spacing: number;
}

/** Cells along a node's side on which it is sampled: 128. */
export const GRID_BITS = 7;

/**
 * Sorts points into an additive octree: each point lives in exactly one node, and a node holds an evenly spaced sample of
 * all below it, so that a prefix of levels is a picture and all levels together are the cloud. A node's cube is cut into
 * 128³ cells; of each cell the point nearest its centre stays in the node and the rest go down. A node that would get too
 * many is sampled on a coarser grid. Ties are broken by index, so the same cloud always gives the same tree. Where points
 * coincide beyond the codes' resolution, a cell has several nodes, none with more than it may hold.
 *
 * A cloud too large for memory is built square by square: as a sampling cell of any level above lies wholly in one square
 * (squares of level 7 at most), each square's share of a shared node can be chosen without seeing the others, and the
 * shares put together are the node.
 *
 * @param codes - places of n points in the root cube, x, y and z
 * @returns the nodes, parents before children
 */
export function buildOctree(
  codes: readonly [Int32Array, Int32Array, Int32Array],
  options: Partial<OctreeOptions> = {},
  scratch = new Scratch(),
): OctreeNode[] {
  const { leafPoints, mostPoints, sharedLevels } = { ...octreeDefaults, ...options };
  const count = codes[0].length;
  const order = scratch.uint32('tree order', count);
  for (let i = 0; i < count; i++) order[i] = i;
  const work: Work = {
    codes,
    order,
    scratch: scratch.uint32('tree moves', count),
    octants: scratch.uint8('octants', count),
    taken: scratch.uint8('taken', count).fill(0),
    best: scratch.int32('best', GRID_CELLS).fill(-1),
    misses: scratch.int32('misses', GRID_CELLS),
    touched: new Uint32Array(Math.min(count, GRID_CELLS) + 1),
  };
  const nodes: OctreeNode[] = [];
  const open = count > 0 ? [{ level: 0, cell: [0, 0, 0] as [number, number, number], start: 0, end: count }] : [];

  for (let node = open.pop(); node; node = open.pop()) {
    const { level, cell, start, end } = node;
    const isShared = level < sharedLevels;
    // Where the cells are as fine as the codes, points that share one coincide: sampling them again would only make a chain.
    const isFinest = level + GRID_BITS >= CODE_BITS;
    if (!isShared && (isFinest || end - start <= leafPoints)) {
      for (let from = start; from < end; from += mostPoints)
        nodes.push({ level, cell, order: order.slice(from, Math.min(end, from + mostPoints)), spacing: 0 });
      continue;
    }
    const limit = isShared ? GRID_CELLS : mostPoints;
    let gridBits = GRID_BITS;
    let sampled = sampleNode(work, level, gridBits, start, end, limit);
    while (sampled > limit) sampled = sampleNode(work, level, --gridBits, start, end, limit);
    nodes.push({ level, cell, order: takeSample(work, sampled), spacing: 2 ** -(level + gridBits) });
    const sizes = divide(work, CODE_BITS - 1 - level, start, end);
    for (let octant = 0, at = start; octant < 8; at += sizes[octant++]!) {
      const size = sizes[octant]!;
      if (size === 0) continue;
      open.push({
        level: level + 1,
        cell: [cell[0] * 2 + (octant & 1), cell[1] * 2 + ((octant >> 1) & 1), cell[2] * 2 + (octant >> 2)],
        start: at,
        end: at + size,
      });
    }
  }
  return nodes.sort(
    (a, b) => a.level - b.level || a.cell[2] - b.cell[2] || a.cell[1] - b.cell[1] || a.cell[0] - b.cell[0],
  );
}

const GRID_CELLS = 1 << (3 * GRID_BITS);

/** Arrays made once a tree. `best` is −1 in every cell between samplings. */
interface Work {
  readonly codes: readonly [Int32Array, Int32Array, Int32Array];
  /** Indices of the points, those of a node next to each other. */
  readonly order: Uint32Array;
  readonly scratch: Uint32Array;
  readonly octants: Uint8Array;
  readonly taken: Uint8Array;
  readonly best: Int32Array;
  /** How far the best of a cell is from its centre. */
  readonly misses: Int32Array;
  readonly touched: Uint32Array;
}

/** Leaves in `best` the point nearest each cell's centre and in `touched` the cells; returns how many, or one too many. */
function sampleNode(work: Work, level: number, gridBits: number, start: number, end: number, limit: number): number {
  const [cx, cy, cz] = work.codes;
  const { order, best, misses, touched } = work;
  const shift = Math.max(0, CODE_BITS - level - gridBits);
  const mask = (1 << gridBits) - 1;
  // Distances within a cell are reckoned in 1/1024 of its side, so that their squares stay small integers.
  const fine = Math.max(0, shift - 10);
  const within = (1 << (shift - fine)) - 1;
  const half = (within + 1) >> 1;
  let cells = 0;
  for (let k = start; k < end; k++) {
    const i = order[k]!;
    const x = cx[i]!;
    const y = cy[i]!;
    const z = cz[i]!;
    const c = (((((z >> shift) & mask) << gridBits) | ((y >> shift) & mask)) << gridBits) | ((x >> shift) & mask);
    const dx = ((x >> fine) & within) - half;
    const dy = ((y >> fine) & within) - half;
    const dz = ((z >> fine) & within) - half;
    const miss = dx * dx + dy * dy + dz * dz;
    const held = best[c]!;
    if (held === -1) {
      if (cells === limit) {
        for (let t = 0; t < cells; t++) best[touched[t]!] = -1;
        return cells + 1;
      }
      best[c] = i;
      misses[c] = miss;
      touched[cells++] = c;
    } else {
      const heldMiss = misses[c]!;
      if (miss < heldMiss || (miss === heldMiss && i < held)) {
        best[c] = i;
        misses[c] = miss;
      }
    }
  }
  return cells;
}

/** The sampled points in ascending order; marks them as taken and clears `best`. */
function takeSample({ best, touched, taken }: Work, sampled: number): Uint32Array {
  const own = new Uint32Array(sampled);
  for (let i = 0; i < sampled; i++) {
    const at = touched[i]!;
    const point = best[at]!;
    best[at] = -1;
    own[i] = point;
    taken[point] = 1;
  }
  return own.sort();
}

/** Moves what was not taken into eight groups by octant, in place, each in its old order; returns their sizes. */
function divide(work: Work, bit: number, start: number, end: number): Uint32Array {
  const [cx, cy, cz] = work.codes;
  const { order, scratch, octants, taken } = work;
  const sizes = new Uint32Array(8);
  let kept = 0;
  for (let k = start; k < end; k++) {
    const i = order[k]!;
    if (taken[i] === 1) continue;
    const octant = ((cx[i]! >> bit) & 1) | (((cy[i]! >> bit) & 1) << 1) | (((cz[i]! >> bit) & 1) << 2);
    scratch[kept] = i;
    octants[kept++] = octant;
    sizes[octant]!++;
  }
  const next = new Uint32Array(8);
  for (let octant = 0, at = start; octant < 8; at += sizes[octant++]!) next[octant] = at;
  for (let k = 0; k < kept; k++) order[next[octants[k]!]!++] = scratch[k]!;
  return sizes;
}
