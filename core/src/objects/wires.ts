import { NeighbourGrid, RANGES, type Places } from '../cleaning/neighbour-grid.js';
import { chosenPlaces } from './chosen-places.js';
import { growLinks } from './grow-links.js';

export interface WireOptions {
  /** Wires hang at least this high over the ground, job units. */
  readonly leastHeight: number;
  /** Piece of wire that is asked whether it is a line, job units. */
  readonly radius: number;
  /** Shortest run of line that counts, job units. */
  readonly leastLength: number;
}

/** Points on a line at least, the one asked about among them. */
const LEAST_POINTS = 5;
/** More points than this about one are a crown or a roof, and not asked further. */
const MOST_POINTS = 48;
/** Points lie on a line within this share of the piece looked at. */
const OFF_LINE = 0.05;
/** A line that rises more than this, as the sine of its slope, is a post. */
const STEEP = 0.7;

/** How far beyond a piece of land its points must be known. */
export function wireMargin({ radius, leastLength }: WireOptions): number {
  return radius + leastLength;
}

/**
 * Points on wires: through each and one of its neighbours goes a line that several others lie on, to some length, level rather than
 * steep; and such points run on. Lines are tried through pairs of points (after Fischler and Bolles 1981, Communications of the
 * ACM 24(6), 381-395, but all pairs, so that nothing is left to chance), so wires beside each other do not disturb.
 * @param heights - over the ground, of each place
 * @returns of each place 1 where it is on a wire
 */
export function wirePoints(
  places: Places,
  heights: Float32Array,
  { leastHeight, radius, leastLength }: WireOptions,
  isAsked: Uint8Array,
): Uint8Array {
  const isLine = new Uint8Array(places.count);
  const grid = new NeighbourGrid(places, radius);
  const { x, y, z, order } = grid;
  const ranges = new Uint32Array(RANGES);
  const near = new Float64Array(3 * MOST_POINTS);
  const limit = radius * radius;
  for (let k = 0; k < order.length; k++) {
    const i = order[k]!;
    if (isAsked[i] === 0 || heights[i]! < leastHeight) continue;
    let found = 0;
    const used = grid.around(x[k]!, y[k]!, z[k]!, ranges);
    search: for (let r = 0; r < used; r += 2)
      for (let j = ranges[r]!; j < ranges[r + 1]!; j++) {
        const dx = x[j]! - x[k]!;
        const dy = y[j]! - y[k]!;
        const dz = z[j]! - z[k]!;
        if (j === k || dx * dx + dy * dy + dz * dz > limit) continue;
        if (found === MOST_POINTS) {
          found = 0;
          break search;
        }
        near[3 * found] = dx;
        near[3 * found + 1] = dy;
        near[3 * found++ + 2] = dz;
      }
    if (found + 1 >= LEAST_POINTS && liesOnLine(near, found, radius)) isLine[i] = 1;
  }
  return growLinks(places, isLine, radius, leastLength);
}

/**
 * Takes walls out of what seems to be wires: rows of points on a facade lie on lines too, but beside them in plan stands a building that
 * reaches as high. Over a roof a wire stays.
 * @param buildings - 1 for points of roofs and walls
 * @param reach - in plan, to the building
 */
export function freeWires(
  places: Places,
  wires: Uint8Array,
  buildings: Uint8Array,
  { radius, leastLength }: WireOptions,
  reach: number,
): Uint8Array {
  if (!wires.includes(1)) return wires;
  const { places: standing } = chosenPlaces(places, (i) => buildings[i] === 1 && wires[i] === 0);
  if (standing.count === 0) return wires;
  const grid = new NeighbourGrid(standing, reach, true);
  const { x, y, z } = grid;
  const ranges = new Uint32Array(RANGES);
  const free = wires.slice();
  for (let i = 0; i < places.count; i++) {
    if (wires[i] === 0) continue;
    const [px, py, pz] = [places.x[i]!, places.y[i]!, places.z[i]!];
    const used = grid.around(px, py, 0, ranges);
    search: for (let r = 0; r < used; r += 2)
      for (let j = ranges[r]!; j < ranges[r + 1]!; j++)
        if (z[j]! >= pz - reach / 2 && (x[j]! - px) ** 2 + (y[j]! - py) ** 2 <= reach * reach) {
          free[i] = 0;
          break search;
        }
  }
  return growLinks(places, free, radius, leastLength);
}

/** Whether a line through the origin holds enough of the points about it, over at least the radius. */
function liesOnLine(near: Float64Array, found: number, radius: number): boolean {
  const off = (OFF_LINE * radius) ** 2;
  for (let p = 0; p < found; p++) {
    const [px, py, pz] = [near[3 * p]!, near[3 * p + 1]!, near[3 * p + 2]!];
    const length = Math.hypot(px, py, pz);
    // Through two points close together a line may go anywhere.
    if (length < radius / 4 || Math.abs(pz) > STEEP * length) continue;
    const [ux, uy, uz] = [px / length, py / length, pz / length];
    let [on, least, most] = [1, 0, 0];
    for (let q = 0; q < found; q++) {
      const [qx, qy, qz] = [near[3 * q]!, near[3 * q + 1]!, near[3 * q + 2]!];
      const along = qx * ux + qy * uy + qz * uz;
      if (qx * qx + qy * qy + qz * qz - along * along > off) continue;
      on++;
      least = Math.min(least, along);
      most = Math.max(most, along);
    }
    if (on >= LEAST_POINTS && most - least >= radius) return true;
  }
  return false;
}
