import { columnFrom } from '../columns/index.js';
import type { Places } from '../cleaning/neighbour-grid.js';
import { convexHull, narrowestRectangle } from '../measuring/index.js';
import { planCells } from './plan-cells.js';
import { eachSpread, eigenvalues, type Symmetric } from './covariance.js';

export interface RoofOptions {
  /** Points lower than this over the ground are no roof, job units. */
  readonly leastHeight: number;
  /** Smallest roof, square units. */
  readonly leastArea: number;
  /** How far the points of a roof lie off their plane, root mean square, job units. */
  readonly roughness: number;
  /** Piece of surface that is asked whether it is plane, job units; wider where the points are sparse. */
  readonly radius: number;
  /** Mean distance between points, job units. */
  readonly spacing: number;
  /** A roof whose middle lies lower than this must be wider than a vehicle, job units; every roof may be narrow where it is left out. */
  readonly wideBelow?: { readonly height: number; readonly width: number } | undefined;
}

/** Lids of vans lie lower than two metres or little over; none is wider than 2.6 m with its cells (2.55 m is the most on European roads, Directive 96/53/EC). */
export const WIDE_ROOFS = { height: 2.15, width: 3 } as const;

/** Points that a plane is laid through at least. */
const LEAST_POINTS = 6;
/** Of a piece of a line the second spread is next to nothing: a wire is no roof. */
const LEAST_WIDTH = 0.04;
/** A plane steeper than this is a wall: its normal lies flatter. */
const LEAST_UPWARDS = 0.4;

/**
 * Whether what lies about a point is one plane: the least eigenvalue of its covariance against the roughness, the second against
 * the largest (Pauly et al. 2002, "Efficient simplification of point-sampled surfaces", for the covariance; Weinmann et al.
 * 2015, ISPRS Journal 105, 286-304, for planarity).
 * @param isAsked - 1 for places that are asked about
 * @returns of each place 1 where its plane is a roof, 2 where it is a wall, 0 where there is none
 */
export function planarPoints(places: Places, options: RoofOptions, isAsked: Uint8Array): Uint8Array {
  const { roughness } = options;
  const out = new Uint8Array(places.count);
  eachSpread(places, pieceRadius(options), isAsked, (i, { count, covariance }) => {
    if (count < LEAST_POINTS) return;
    const [least, middle, most] = eigenvalues(covariance);
    if (least > roughness * roughness || middle < LEAST_WIDTH * most) return;
    out[i] = upwards(covariance, least) >= LEAST_UPWARDS ? 1 : 2;
  });
  return out;
}

/** How far upwards the normal of the plane points: 1 for a flat roof, 0 for a wall. */
function upwards([xx, xy, xz, yy, yz, zz]: Symmetric, least: number): number {
  const rows = [
    [xx - least, xy, xz],
    [xy, yy - least, yz],
    [xz, yz, zz - least],
  ] as const;
  let best = 0;
  let up = 0;
  for (const [p, q] of [
    [0, 1],
    [0, 2],
    [1, 2],
  ] as const) {
    const [a, b] = [rows[p], rows[q]];
    const n = [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
    const size = Math.hypot(n[0]!, n[1]!, n[2]!);
    if (size <= best) continue;
    best = size;
    up = Math.abs(n[2]!) / size;
  }
  return up;
}

/** Walls under a roof belong to it from this share of the least height on; what is lower may be a plant. */
const WALL_FROM = 0.2;
/** Points that tell that something stands in a cell. */
const BEYOND = 2;
const BESIDE = [-1, 0, 1].flatMap((row) => [-1, 0, 1].map((column) => [row, column] as const));
/** Cells of a wall hold more points of the wall than of the roof's edge, so that the roof itself ends a cell short of it. */
const WALL_BESIDE = [-2, -1, 0, 1, 2].flatMap((row) => [-2, -1, 0, 1, 2].map((column) => [row, column] as const));

/** Cells of a roof map: half a metre or so, a roof of the least area has a dozen of them; wider where most would be empty. */
export function roofCell({ leastArea, spacing }: RoofOptions): number {
  return Math.max(Math.sqrt(leastArea) / 4, 1.5 * spacing);
}

/** So wide that eighteen points lie within: a plane through ten is off as often as not where they lie unevenly. */
function pieceRadius({ radius, spacing }: RoofOptions): number {
  return Math.max(radius, spacing * Math.sqrt(18 / Math.PI));
}

/** How far beyond a piece of land its points must be known, so that every roof in it is judged by enough of itself. */
export function roofMargin(options: RoofOptions): number {
  // A connected patch that is large enough shows so within as many cells as the least area has.
  const cell = roofCell(options);
  // Three cells more tell whether what stands beside it goes on.
  return pieceRadius(options) + Math.max(3 * cell, options.leastArea / cell) + 3 * cell;
}

/**
 * Roofs: cells in which most of what is high is plane, grown together where they touch and no step lies between, kept where they
 * are large enough, and one cell wider for their edges.
 * @param heights - over the ground, of each place
 * @param isGreen - 1 for points that are green, where the cloud has colours: no roofs
 * @returns of each place 1 where it belongs to a building
 */
export function buildingPoints(
  places: Places,
  heights: Float32Array,
  options: RoofOptions,
  isAsked: Uint8Array,
  isGreen?: Uint8Array,
): Uint8Array {
  const { count, z } = places;
  const out = new Uint8Array(count);
  const cell = roofCell(options);
  const cells = planCells(places, cell);
  if (!cells) return out;
  const { columns, rows, cellAt: cellOf } = cells;
  const isSparse = cell > Math.sqrt(options.leastArea) / 4;
  const isHigh = columnFrom(Uint8Array, heights, (height, i) =>
    isAsked[i] === 1 && height >= options.leastHeight && isGreen?.[i] !== 1 ? 1 : 0,
  );
  const planar = planarPoints(places, options, isHigh);
  const high = new Uint32Array(columns * rows);
  const plane = new Uint32Array(columns * rows);
  const sum = new Float64Array(columns * rows);
  const over = new Float64Array(columns * rows);
  for (let i = 0; i < count; i++) {
    if (isHigh[i] === 0) continue;
    const at = cellOf(i);
    high[at]!++;
    if (planar[i] !== 1) continue;
    plane[at]!++;
    sum[at]! += z[i]!;
    over[at]! += heights[i]!;
  }
  const isRoof = columnFrom(Uint8Array, plane, (n, at) => (n > 0 && 2 * n > high[at]! ? 1 : 0));
  const level = sum.map((total, at) => total / Math.max(1, plane[at]!));
  const least = Math.ceil(options.leastArea / (cell * cell));
  const { wideBelow } = options;
  const isWide = (patch: ArrayLike<number> & Iterable<number>): boolean => {
    if (!wideBelow) return true;
    const tops = Array.from(patch, (at) => over[at]! / plane[at]!).sort((a, b) => a - b);
    if (tops[tops.length >> 1]! >= wideBelow.height) return true;
    const corners = Array.from(patch, (at) => [(at % columns) * cell, Math.floor(at / columns) * cell] as const);
    return narrowestRectangle(convexHull(corners)).width + cell > wideBelow.width;
  };
  const kept = largePatches(isRoof, level, columns, least, 1.2 * cell + 4 * options.roughness, isWide);
  /** Beside a roof: its edge, its walls, and plants at them. */
  const isNear = columnFrom(Uint8Array, kept, (_, at) => (WALL_BESIDE.some(([dr, dc]) => kept[at + dr * columns + dc] === 1) ? 1 : 0)); // prettier-ignore
  const standing = new Uint32Array(kept.length);
  for (let i = 0; i < count; i++)
    if (isAsked[i] === 1 && planar[i] !== 2 && heights[i]! >= options.leastHeight * WALL_FROM) standing[cellOf(i)]!++;
  /** A wall has nothing beyond it: where something stands on there too it is a plant. */
  const goesOn = columnFrom(Uint8Array, isNear, (near, at) => {
    if (near === 0 || kept[at] === 1) return 0;
    return WALL_BESIDE.some(([dr, dc]) => {
      const beyond = at + dr * columns + dc;
      return isNear[beyond] === 0 && standing[beyond]! >= BEYOND;
    })
      ? 1
      : 0;
  });
  const topAbout = (at: number, about: typeof BESIDE): number => {
    let top = -Infinity;
    for (const [dr, dc] of about) {
      const near = at + dr * columns + dc;
      if (kept[near] === 1 && level[near]! > top) top = level[near]!;
    }
    return top;
  };
  // The highest roof level of a cell and its neighbours, for points at eaves and ridges.
  for (let i = 0; i < count; i++) {
    if (isAsked[i] === 0 || heights[i]! < options.leastHeight * WALL_FROM) continue;
    const at = cellOf(i);
    const top = topAbout(at, BESIDE);
    // Branches over a roof are no roof; what is under it is its wall.
    if (isGreen?.[i] === 1) continue;
    const reach = cell + 3 * options.roughness;
    const isOfIt = goesOn[at] === 0 || planar[i]! > 0 || z[i]! >= top - reach;
    if (z[i]! <= top + reach && isOfIt) out[i] = 1;
    // Where points are so sparse that cells are wide, pieces at a roof's edge hold its walls too and lie in no plane: it ends a cell sooner.
    else if (isSparse && isNear[at] === 1 && goesOn[at] === 0 && z[i]! <= topAbout(at, WALL_BESIDE)) out[i] = 1;
    else if (planar[i] === 2)
      for (const [dr, dc] of WALL_BESIDE) {
        const near = at + dr * columns + dc;
        if (kept[near] === 1 && z[i]! <= level[near]! + cell) out[i] = 1;
      }
  }
  return out;
}

/** Of connected cells those that are many enough; cells whose levels differ by more than a step are not connected. */
function largePatches(
  isRoof: Uint8Array,
  level: Float64Array,
  columns: number,
  least: number,
  step: number,
  isWanted: (patch: Uint32Array) => boolean,
): Uint8Array {
  const kept = new Uint8Array(isRoof.length);
  const seen = new Uint8Array(isRoof.length);
  const queue = new Uint32Array(isRoof.length);
  for (let start = 0; start < isRoof.length; start++) {
    if (isRoof[start] === 0 || seen[start] === 1) continue;
    let [head, tail] = [0, 0];
    queue[tail++] = start;
    seen[start] = 1;
    while (head < tail) {
      const at = queue[head++]!;
      for (const to of [at - 1, at + 1, at - columns, at + columns]) {
        if (to < 0 || to >= isRoof.length || isRoof[to] === 0 || seen[to] === 1) continue;
        if (Math.abs(level[to]! - level[at]!) > step) continue;
        seen[to] = 1;
        queue[tail++] = to;
      }
    }
    if (tail >= least && isWanted(queue.subarray(0, tail))) for (let k = 0; k < tail; k++) kept[queue[k]!] = 1;
  }
  return kept;
}
