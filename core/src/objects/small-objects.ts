import { connectedCells } from '../raster/index.js';
import type { Places } from '../cleaning/neighbour-grid.js';
import { markFences } from './fences.js';
import { beside, planCells, type ByCell, type PlanCells } from './plan-cells.js';
import { poleKind, spanEnds, TOWER_WIDTH } from './poles.js';
import { SMALL_OBJECT, STANDS_FROM } from './small-object-kind.js';
import { isVehicle, markLids } from './vehicles.js';

/** What narrow, long and low things are sought; undefined where one kind is not. */
export interface SmallObjectOptions {
  /** How many job units a metre has: things made by people have sizes of their own. */
  readonly metre: number;
  /** Mean distance between points, job units. */
  readonly spacing: number;
  /** Poles, masts and towers at least this high. */
  readonly poles: { readonly leastHeight: number } | undefined;
  /** Fences and walls at least this long. */
  readonly fences: { readonly leastLength: number } | undefined;
  readonly hasVehicles: boolean;
}

/** How far beyond a piece of land its points must be known. */
export function smallObjectMargin({ metre, spacing, fences }: SmallObjectOptions): number {
  return TOWER_WIDTH * metre + 4 * cellOf(metre, spacing) + (fences?.leastLength ?? 0);
}

/** Three points a cell, so that few cells of a thing are empty by chance and it hangs together. */
const cellOf = (metre: number, spacing: number): number => Math.max(0.4 * metre, 1.7 * spacing);
const poleCellOf = (metre: number, spacing: number): number => Math.max(0.4 * metre, 1.2 * spacing);

/**
 * Poles, fences and vehicles among points that are neither ground, roof nor wire.
 * - A pole is slender: narrow in plan and high, its lower part a shaft; what carries a wire may be wider, as a tower is.
 * - A fence or wall is a line in plan, no higher than a fence, that runs on.
 * - A vehicle fills a box of the size vehicles have, and most of what is seen of it is its top.
 *
 * Shape in plan from the covariance of places about a cell, as for lines in imagery (Hu 1962, IRE Transactions on Information
 * Theory 8, 179-187); sizes are common practice, no source.
 * @param heights - over the ground, of each place
 * @param isFree - 1 for places that may belong to such a thing
 * @param isWire - 1 for places on wires
 * @param isBuilding - 1 for places of buildings: a narrow piece beside one is its edge and no pole
 * @returns of each place one of {@link SMALL_OBJECT}
 */
export function smallObjects(
  places: Places,
  heights: Float32Array,
  options: SmallObjectOptions,
  isFree: Uint8Array,
  isWire: Uint8Array | undefined,
  isBuilding: Uint8Array | undefined,
): Uint8Array {
  const out = new Uint8Array(places.count);
  const { metre, spacing } = options;
  const standing = planCells(places, cellOf(metre, spacing));
  // Poles are told apart from what stands beside them by narrower cells: theirs have many points over one another.
  const narrow = planCells(places, poleCellOf(metre, spacing));
  if (!standing || !narrow) return out;
  if (options.fences) markFences(places, heights, options.fences.leastLength, metre, isFree, standing, out);
  if (options.poles) {
    const { leastHeight } = options.poles;
    const isRoof = new Uint8Array(narrow.columns * narrow.rows);
    isBuilding?.forEach((is, i) => is === 1 && (isRoof[narrow.cellAt(i)] = 1));
    const isBesideRoof = (at: number): boolean =>
      beside(at, narrow.columns, isRoof.length, 2).some((k) => isRoof[k] === 1);
    const wires = isWire ? placesOf(isWire) : [];
    eachThing(places, heights, metre, isFree, narrow, out, (points, cells, byCell) => {
      const kind = poleKind(places, heights, points, leastHeight, metre, wires);
      if (!kind || cells.some(isBesideRoof)) return;
      if (kind === 'slender' && !standsFree(places, heights, points, cells, byCell, narrow, metre)) return;
      for (const i of points) out[i] = SMALL_OBJECT.pole;
      if (kind === 'carries') for (const i of spanEnds(places, heights, points, metre)) out[i] = SMALL_OBJECT.wire;
    });
  }
  if (options.hasVehicles)
    eachThing(places, heights, metre, isFree, standing, out, (points, cells, byCell) => {
      if (isVehicle(places, heights, points, cells.length, standing.cell, metre))
        for (const i of points) out[i] = SMALL_OBJECT.vehicle;
      else markLids(places, heights, cells, byCell, standing, metre, out);
    });
  return out;
}

/** More than its own points as high as its top, so near, metres, are a tree that it is a part of. */
const [TREE_WITHIN, TREE_TOP] = [3, 1] as const;
/** What is seen of it begins below this share of its height; what hangs higher has no foot. */
const FOOT = 0.5;

/** Whether a slender thing has a foot and a top of its own: a bough at the edge of a crown has neither. */
function standsFree(
  { x, y }: Places,
  heights: Float32Array,
  points: readonly number[],
  cells: readonly number[],
  { first, next }: ByCell,
  { cell, columns, rows }: PlanCells,
  metre: number,
): boolean {
  let [top, foot, east, north] = [0, Infinity, 0, 0];
  for (const i of points) {
    top = Math.max(top, heights[i]!);
    foot = Math.min(foot, heights[i]!);
    east += x[i]! / points.length;
    north += y[i]! / points.length;
  }
  if (foot > FOOT * top) return false;
  const own = new Set(cells);
  const reach = Math.ceil((TREE_WITHIN * metre) / cell);
  let higher = 0;
  for (const at of beside(cells[0]!, columns, columns * rows, reach + cells.length)) {
    if (own.has(at)) continue;
    for (let i = first[at]!; i >= 0; i = next[i]!)
      if (heights[i]! > top - TREE_TOP * metre && Math.hypot(x[i]! - east, y[i]! - north) < TREE_WITHIN * metre)
        higher++;
  }
  return higher <= points.length;
}

/** Visits what stands free, piece by piece; what spreads further than a tower is a wood, whatever it holds. */
function eachThing(
  places: Places,
  heights: Float32Array,
  metre: number,
  isFree: Uint8Array,
  standing: PlanCells,
  out: Uint8Array,
  visit: (points: readonly number[], cells: readonly number[], byCell: ByCell) => void,
): void {
  const byCell = pointsByCell(places, heights, STANDS_FROM * metre, isFree, out, standing);
  for (const cells of connectedCells(standing, (at) => byCell.first[at]! >= 0)) {
    if (cells.length * standing.cell ** 2 > (TOWER_WIDTH * metre) ** 2) continue;
    const points: number[] = [];
    for (const at of cells) for (let i = byCell.first[at]!; i >= 0; i = byCell.next[i]!) points.push(i);
    visit(points, cells, byCell);
  }
  takeFeet(heights, metre, isFree, standing, byCell, out);
}

function pointsByCell(
  { count }: Places,
  heights: Float32Array,
  from: number,
  isFree: Uint8Array,
  taken: Uint8Array,
  { columns, rows, cellAt }: PlanCells,
): ByCell {
  const first = new Int32Array(columns * rows).fill(-1);
  const next = new Int32Array(count).fill(-1);
  for (let i = 0; i < count; i++) {
    if (isFree[i] === 0 || taken[i] !== 0 || heights[i]! < from) continue;
    const at = cellAt(i);
    next[i] = first[at]!;
    first[at] = i;
  }
  return { first, next };
}

/** Lower points in the cells of a pole or vehicle are its own: the foot of the mast, the wheels. */
function takeFeet(
  heights: Float32Array,
  metre: number,
  isFree: Uint8Array,
  { cellAt }: PlanCells,
  { first }: ByCell,
  out: Uint8Array,
): void {
  for (let i = 0; i < out.length; i++) {
    if (isFree[i] === 0 || out[i] !== SMALL_OBJECT.none || heights[i]! < 0.25 * metre) continue;
    if (heights[i]! >= STANDS_FROM * metre) continue;
    const own = first[cellAt(i)]!;
    if (own >= 0 && (out[own] === SMALL_OBJECT.pole || out[own] === SMALL_OBJECT.vehicle)) out[i] = out[own]!;
  }
}

function placesOf(mask: Uint8Array): number[] {
  const out: number[] = [];
  mask.forEach((is, i) => is === 1 && out.push(i));
  return out;
}
