import type { Quantisation } from './point-batch.js';

export interface OctreeOptions {
  /** Nodes with no more points than this are kept whole instead of being sampled and split. */
  readonly leafPoints: number;
  /** No node holds more points than this; 65 535 lets a point's place in its node fit in 16 bits. */
  readonly mostPoints: number;
}

export const octreeDefaults: OctreeOptions = { leafPoints: 32_768, mostPoints: 65_535 };

/** A node of the additive octree: its own points, which no other node holds. */
export interface OctreeNode {
  readonly level: number;
  /** Place among the 2^level nodes along each axis. */
  readonly cell: readonly [number, number, number];
  /** Indices of the node's points in the source. */
  readonly order: Uint32Array;
  /** Distance between neighbouring samples, in the units of the quantisation; 0 for a node that keeps all it got. */
  readonly spacing: number;
}

const CODE_BITS = 21;
const GRID_BITS = 7;

/**
 * Sorts points into an additive octree: each point lives in exactly one node, and a node holds an evenly spaced sample of
 * all below it, so that a prefix of levels is a picture and all levels together are the cloud. A node's cube is cut into
 * 128³ cells; of each cell the point nearest its centre stays in the node and the rest go down. A node that would get too
 * many is sampled on a coarser grid. Ties are broken by index, so the same cloud always gives the same tree.
 *
 * @param x - scaled integers of n points; likewise `y`, `z`
 * @returns the nodes, parents before children, and the root cube's least corner and side in coordinates
 */
export function buildOctree(
  x: Int32Array,
  y: Int32Array,
  z: Int32Array,
  quantisation: Quantisation,
  options: OctreeOptions = octreeDefaults,
): { nodes: OctreeNode[]; origin: [number, number, number]; side: number } {
  const count = x.length;
  const { codes, origin, side } = cubeCodes([x, y, z], quantisation);
  const [cx, cy, cz] = codes;
  const order = new Uint32Array(count);
  const scratch = new Uint32Array(count);
  for (let i = 0; i < count; i++) order[i] = i;
  const best = new Int32Array(1 << (3 * GRID_BITS)).fill(-1);
  const touched = new Uint32Array(options.mostPoints + 1);
  const taken = new Uint8Array(count);
  const nodes: OctreeNode[] = [];
  const open = [{ level: 0, cell: [0, 0, 0] as [number, number, number], start: 0, end: count }];

  for (let node = open.pop(); node; node = open.pop()) {
    const { level, cell, start, end } = node;
    if (end - start <= options.leafPoints) {
      nodes.push({ level, cell, order: order.slice(start, end).sort(), spacing: 0 });
      continue;
    }
    let gridBits = GRID_BITS;
    let sampled = sampleNode(level, gridBits, start, end);
    while (sampled > options.mostPoints) sampled = sampleNode(level, --gridBits, start, end);
    const own = new Uint32Array(sampled);
    for (let i = 0; i < sampled; i++) {
      own[i] = best[touched[i]!]!;
      best[touched[i]!] = -1;
      taken[own[i]!] = 1;
    }
    nodes.push({ level, cell, order: own.sort(), spacing: side / 2 ** (level + gridBits) });
    openChildren(level, cell, start, end);
  }
  nodes.sort((a, b) => a.level - b.level || a.cell[2] - b.cell[2] || a.cell[1] - b.cell[1] || a.cell[0] - b.cell[0]);
  return { nodes, origin, side };

  /** Leaves in `best` the point nearest each cell's centre and in `touched` the cells; returns how many, or one too many. */
  function sampleNode(level: number, gridBits: number, start: number, end: number): number {
    const shift = Math.max(0, CODE_BITS - level - gridBits);
    const mask = (1 << gridBits) - 1;
    const half = shift > 0 ? 1 << (shift - 1) : 0;
    let cells = 0;
    for (let k = start; k < end; k++) {
      const i = order[k]!;
      const gx = cx[i]! >> shift;
      const gy = cy[i]! >> shift;
      const gz = cz[i]! >> shift;
      const c = ((((gz & mask) << gridBits) | (gy & mask)) << gridBits) | (gx & mask);
      const held = best[c]!;
      if (held === -1) {
        if (cells === options.mostPoints) {
          for (let t = 0; t < cells; t++) best[touched[t]!] = -1;
          return cells + 1;
        }
        best[c] = i;
        touched[cells++] = c;
      } else {
        const ox = (gx << shift) + half;
        const oy = (gy << shift) + half;
        const oz = (gz << shift) + half;
        const near = (cx[i]! - ox) ** 2 + (cy[i]! - oy) ** 2 + (cz[i]! - oz) ** 2;
        const heldNear = (cx[held]! - ox) ** 2 + (cy[held]! - oy) ** 2 + (cz[held]! - oz) ** 2;
        if (near < heldNear || (near === heldNear && i < held)) best[c] = i;
      }
    }
    return cells;
  }

  /** Moves what was not taken into eight groups by octant. Below the last bit of the codes, all go into one: coinciding
   * points then form a chain of nodes, each with its share. */
  function openChildren(level: number, cell: readonly [number, number, number], start: number, end: number): void {
    const bit = CODE_BITS - 1 - level;
    const sizes = new Uint32Array(8);
    const octant = (i: number): number =>
      bit < 0 ? 0 : ((cx[i]! >> bit) & 1) | (((cy[i]! >> bit) & 1) << 1) | (((cz[i]! >> bit) & 1) << 2);
    for (let k = start; k < end; k++) {
      const i = order[k]!;
      if (taken[i] === 0) sizes[octant(i)]!++;
    }
    const next = new Uint32Array(8);
    for (let o = 0, at = start; o < 8; at += sizes[o++]!) next[o] = at;
    for (let k = start; k < end; k++) {
      const i = order[k]!;
      if (taken[i] === 0) scratch[next[octant(i)]!++] = i;
    }
    for (let o = 0, at = start; o < 8; at += sizes[o++]!) {
      const size = sizes[o]!;
      if (size === 0) continue;
      order.set(scratch.subarray(at, at + size), at);
      open.push({
        level: level + 1,
        cell: [cell[0] * 2 + (o & 1), cell[1] * 2 + ((o >> 1) & 1), cell[2] * 2 + (o >> 2)],
        start: at,
        end: at + size,
      });
    }
  }
}

/** Places in the root cube as 21-bit integers an axis, so that levels and cells are shifts whatever the axes' scales are. */
function cubeCodes(
  integers: [Int32Array, Int32Array, Int32Array],
  { scale, offset }: Quantisation,
): { codes: [Int32Array, Int32Array, Int32Array]; origin: [number, number, number]; side: number } {
  const lows = [0, 0, 0];
  let side = 0;
  for (const [axis, values] of integers.entries()) {
    let low = Infinity;
    let high = -Infinity;
    for (let i = 0; i < values.length; i++) {
      if (values[i]! < low) low = values[i]!;
      if (values[i]! > high) high = values[i]!;
    }
    lows[axis] = low;
    side = Math.max(side, (high - low) * scale[axis]!);
  }
  side = Math.max(side * (1 + 2 ** -CODE_BITS), Math.min(...scale));
  const codes = integers.map((values, axis) => {
    const low = lows[axis]!;
    const steps = (2 ** CODE_BITS * scale[axis]!) / side;
    const most = 2 ** CODE_BITS - 1;
    const out = new Int32Array(values.length);
    for (let i = 0; i < values.length; i++) out[i] = Math.min(most, (values[i]! - low) * steps);
    return out;
  }) as [Int32Array, Int32Array, Int32Array];
  return {
    codes,
    origin: [0, 1, 2].map((axis) => lows[axis]! * scale[axis]! + offset[axis]!) as [number, number, number],
    side,
  };
}
