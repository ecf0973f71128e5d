import { connectedCells } from '../raster/index.js';
import type { Places } from '../cleaning/neighbour-grid.js';
import { convexHull, narrowestRectangle } from '../measuring/plan-outline.js';
import { planCells, type PlanCells } from './plan-cells.js';

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

/** Wires among them are the ends of spans, too short to run as lines, that hang on a pole. */
export const SMALL_OBJECT = { none: 0, pole: 1, fence: 2, vehicle: 3, wire: 4 } as const;

/** Metres. Where no source is named these are sizes of made things as met in practice, no source. */
const STANDS_FROM = 0.6;
const POLE_WIDTH = 3;
const TOWER_WIDTH = 14;
/** Shaft of a pole, seen by a beam some centimetres wide, root mean square about its axis. */
const SHAFT = 0.35;
/** A wire this near the top of something is carried by it. */
const CARRIES_WITHIN = 1.8;
/**
 * Half way up, between these shares of its height, a mast or a lattice tower keeps within this share of it, root mean square about its
 * axis; a tree that a wire passes is as wide there as anywhere.
 */
const [WAIST, WAIST_WIDTH] = [[0.35, 0.65], 0.16] as const;
/** Within these shares of its height there is nothing on a pole but its shaft; above, what lies further from its axis than an arm is wire. */
const BARE_SHAFT = [0.3, 0.65] as const;
const ARM = 0.75;
const FENCE_HEIGHT = 2.6;
const FENCE_WINDOW = 2.5;
/** Half a metre wide at most, root mean square about the line. */
const FENCE_SCATTER = 0.25;
const VEHICLE = { least: 1.1, most: 4.2, shortest: 2.2, longest: 12, narrowest: 1.3, widest: 3.2 } as const;
const CAR_HEIGHT = 2.3;
/** How much of the box about it a vehicle fills, which an ellipse does to 0.785, and how much of what is seen of it is its top. */
const FILLS = 0.83;
const ON_TOP = 0.6;

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
    eachThing(places, heights, metre, isFree, narrow, out, (points, cells) => {
      const kind = poleKind(places, heights, points, leastHeight, metre, wires);
      if (!kind || cells.some(isBesideRoof)) return;
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

interface ByCell {
  readonly first: Int32Array;
  readonly next: Int32Array;
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

/** Points of a slender pole that lie away from its axis near its top: ends of the spans it carries. None of a tower, which is wide; all where there is no pole. */
function spanEnds({ x, y }: Places, heights: Float32Array, points: readonly number[], metre: number): number[] {
  const top = points.reduce((most, i) => Math.max(most, heights[i]!), 0);
  const upper = points.filter((i) => heights[i]! >= BARE_SHAFT[1] * top);
  if (upper.length === points.length) return upper; // nothing holds it up: a piece of a span
  const shaft = points.filter((i) => heights[i]! >= BARE_SHAFT[0] * top && heights[i]! < BARE_SHAFT[1] * top);
  if (shaft.length === 0) return [];
  const [east, north] = [x, y].map((v) => shaft.reduce((sum, i) => sum + v[i]!, 0) / shaft.length) as [number, number];
  const off = (i: number): number => Math.hypot(x[i]! - east, y[i]! - north);
  if (shaft.some((i) => off(i) > (POLE_WIDTH / 2) * metre)) return [];
  return upper.filter((i) => off(i) > ARM * metre);
}

/** Whether points make a pole, and whether as one that carries wires. */
function poleKind(
  { x, y, z }: Places,
  heights: Float32Array,
  points: readonly number[],
  leastHeight: number,
  metre: number,
  wires: readonly number[],
): 'carries' | 'slender' | undefined {
  let [west, south, east, north, top, topZ] = [Infinity, Infinity, -Infinity, -Infinity, -Infinity, -Infinity];
  for (const i of points) {
    west = Math.min(west, x[i]!);
    east = Math.max(east, x[i]!);
    south = Math.min(south, y[i]!);
    north = Math.max(north, y[i]!);
    top = Math.max(top, heights[i]!);
    topZ = Math.max(topZ, z[i]!);
  }
  const width = Math.hypot(east - west, north - south);
  if (top < leastHeight || points.length < 3) return undefined;
  const isNarrow = width <= POLE_WIDTH * metre && top >= 2 * width;
  if (!isNarrow && (width > TOWER_WIDTH * metre || top < width)) return undefined;
  if (carries(west, south, east, north, topZ) && (isNarrow || hasWaist(x, y, heights, points, top))) return 'carries';
  if (!isNarrow) return undefined;
  // Its shaft: what is under the top fifth, about a line that may lean.
  const shaft = points.filter((i) => heights[i]! < 0.8 * top);
  if (shaft.length < 4) return undefined;
  const spread = (v: Float64Array): number => {
    let [n, sh, sv, hh, hv, vv] = [0, 0, 0, 0, 0, 0];
    for (const i of shaft) {
      const [h, value] = [heights[i]!, v[i]! - v[shaft[0]!]!];
      n++;
      sh += h;
      sv += value;
      hh += h * h;
      hv += h * value;
      vv += value * value;
    }
    const across = hh / n - (sh / n) ** 2;
    const along = hv / n - (sh / n) * (sv / n);
    return Math.max(0, vv / n - (sv / n) ** 2 - (across > 0 ? (along * along) / across : 0));
  };
  return Math.sqrt(spread(x) + spread(y)) <= SHAFT * metre ? 'slender' : undefined;

  function carries(w: number, s: number, e: number, n: number, level: number): boolean {
    const reach = CARRIES_WITHIN * metre;
    return wires.some(
      (i) =>
        x[i]! > w - reach &&
        x[i]! < e + reach &&
        y[i]! > s - reach &&
        y[i]! < n + reach &&
        Math.abs(z[i]! - level) < reach,
    );
  }
}

/** Whether points are as narrow half way up as what is built to carry is. */
function hasWaist(
  x: Float64Array,
  y: Float64Array,
  heights: Float32Array,
  points: readonly number[],
  top: number,
): boolean {
  const waist = points.filter((i) => heights[i]! > WAIST[0] * top && heights[i]! < WAIST[1] * top);
  const mean = (v: Float64Array): number => waist.reduce((sum, i) => sum + v[i]!, 0) / waist.length;
  const [east, north] = [mean(x), mean(y)];
  const square = waist.reduce((sum, i) => sum + (x[i]! - east) ** 2 + (y[i]! - north) ** 2, 0) / waist.length;
  return waist.length > 0 && Math.sqrt(square) <= WAIST_WIDTH * top;
}

function isVehicle(
  { x, y }: Places,
  heights: Float32Array,
  points: readonly number[],
  cellCount: number,
  cell: number,
  metre: number,
): boolean {
  if (points.length < 8) return false;
  let top = -Infinity;
  for (const i of points) top = Math.max(top, heights[i]!);
  if (top < VEHICLE.least * metre || top > VEHICLE.most * metre) return false;
  const hull = convexHull(points.map((i) => [x[i]!, y[i]!] as [number, number]));
  const box = narrowestRectangle(hull);
  // Beams fall beside its edges as often as on them: it is about half a spacing larger all round.
  const [length, width] = [box.length, box.width];
  if (length < VEHICLE.shortest * metre || length > VEHICLE.longest * metre) return false;
  if (width < VEHICLE.narrowest * metre || width > VEHICLE.widest * metre) return false;
  if (box.area < FILLS * length * width) return false;
  if (cellCount * cell * cell < 0.7 * length * width) return false;
  // Most of what is seen is its top, and that is smooth: of a bush the beams come from all through it.
  const keyOf = (i: number): number => Math.round(x[i]! / (0.5 * metre)) * 65_536 + Math.round(y[i]! / (0.5 * metre));
  const tops = new Map<number, number>();
  for (const i of points) tops.set(keyOf(i), Math.max(tops.get(keyOf(i)) ?? -Infinity, heights[i]!));
  let onTop = 0;
  for (const i of points) if (tops.get(keyOf(i))! - heights[i]! < 0.2 * metre) onTop++;
  return onTop >= ON_TOP * points.length;
}

/** Vehicles under and beside trees: cells whose lower points lie on a lid, where they make up the outline of a vehicle. */
function markLids(
  places: Places,
  heights: Float32Array,
  cells: readonly number[],
  { first, next }: ByCell,
  { cell, columns, rows }: PlanCells,
  metre: number,
  out: Uint8Array,
): void {
  const low = new Map<number, number[]>();
  for (const at of cells) {
    const points: number[] = [];
    let top = -Infinity;
    for (let i = first[at]!; i >= 0; i = next[i]!)
      if (heights[i]! <= CAR_HEIGHT * metre) {
        points.push(i);
        top = Math.max(top, heights[i]!);
      }
    if (points.filter((i) => top - heights[i]! < 0.2 * metre).length >= ON_TOP * points.length && points.length > 0)
      low.set(at, points);
  }
  for (const start of low.keys()) {
    const group = [start];
    const points = [...low.get(start)!];
    low.delete(start);
    for (const at of group)
      for (const k of beside(at, columns, columns * rows, 1)) {
        const more = low.get(k);
        if (!more) continue;
        low.delete(k);
        group.push(k);
        points.push(...more);
      }
    if (isVehicle(places, heights, points, group.length, cell, metre))
      for (const i of points) out[i] = SMALL_OBJECT.vehicle;
  }
}

/** Cells whose points, with those about them, lie on a line in plan; where they run on, what stands in them is a fence. */
function markFences(
  { count, x, y }: Places,
  heights: Float32Array,
  leastLength: number,
  metre: number,
  isFree: Uint8Array,
  { cell, columns, rows, cellAt }: PlanCells,
  out: Uint8Array,
): void {
  const cells = columns * rows;
  const [n, sx, sy, xx, xy, yy] = Array.from({ length: 6 }, () => new Float64Array(cells)) as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  const isTall = new Uint8Array(cells);
  const [x0, y0] = [x[0]!, y[0]!];
  for (let i = 0; i < count; i++) {
    if (isFree[i] === 0 || heights[i]! < STANDS_FROM * metre) continue;
    const at = cellAt(i);
    if (heights[i]! > FENCE_HEIGHT * metre) {
      isTall[at] = 1;
      continue;
    }
    const [dx, dy] = [x[i]! - x0, y[i]! - y0];
    n[at]!++;
    sx[at]! += dx;
    sy[at]! += dy;
    xx[at]! += dx * dx;
    xy[at]! += dx * dy;
    yy[at]! += dy * dy;
  }
  const linear = (at: number): Line | undefined => {
    const window = FENCE_WINDOW * metre;
    const reach = Math.max(1, Math.round(window / cell));
    const [row, column] = [Math.floor(at / columns), at % columns];
    let [m, ax, ay, axx, axy, ayy] = [0, 0, 0, 0, 0, 0];
    for (let r = Math.max(0, row - reach); r <= Math.min(rows - 1, row + reach); r++)
      for (let c = Math.max(0, column - reach); c <= Math.min(columns - 1, column + reach); c++) {
        const k = r * columns + c;
        if (isTall[k] === 1 && Math.abs(r - row) <= 1 && Math.abs(c - column) <= 1) return undefined;
        m += n[k]!;
        ax += sx[k]!;
        ay += sy[k]!;
        axx += xx[k]!;
        axy += xy[k]!;
        ayy += yy[k]!;
      }
    if (m < 5) return undefined;
    const [vx, vy, c] = [axx / m - (ax / m) ** 2, ayy / m - (ay / m) ** 2, axy / m - (ax * ay) / m / m];
    const half = Math.sqrt(((vx - vy) / 2) ** 2 + c * c);
    const [major, minor] = [(vx + vy) / 2 + half, Math.max(0, (vx + vy) / 2 - half)];
    if (minor > (FENCE_SCATTER * metre) ** 2 || major < (0.3 * window) ** 2) return undefined;
    const turn = Math.atan2(2 * c, vx - vy) / 2;
    return { x: ax / m, y: ay / m, ux: Math.cos(turn), uy: Math.sin(turn) };
  };
  const isLine = new Uint8Array(cells);
  const lines = new Map<number, Line>();
  for (let at = 0; at < cells; at++) {
    const line = n[at]! > 0 ? linear(at) : undefined;
    if (!line) continue;
    isLine[at] = 1;
    lines.set(at, line);
  }
  // Posts and rails leave gaps: cells within three of one another belong together.
  const kept = new Uint8Array(cells);
  const seen = new Uint8Array(cells);
  for (let start = 0; start < cells; start++) {
    if (isLine[start] === 0 || seen[start] === 1) continue;
    const run = [start];
    seen[start] = 1;
    let [west, east, south, north] = [Infinity, -Infinity, Infinity, -Infinity];
    for (let head = 0; head < run.length; head++) {
      const at = run[head]!;
      const [row, column] = [Math.floor(at / columns), at % columns];
      west = Math.min(west, column);
      east = Math.max(east, column);
      south = Math.min(south, row);
      north = Math.max(north, row);
      for (const k of beside(at, columns, cells, 3))
        if (isLine[k] === 1 && seen[k] === 0) {
          seen[k] = 1;
          run.push(k);
        }
    }
    if (Math.hypot(east - west, north - south) * cell >= leastLength) for (const at of run) kept[at] = 1;
  }
  // At corners and beside other things a piece is no line; there the lines that lead up to it say what lies on them.
  const reach = Math.round((1.6 * FENCE_WINDOW * metre) / cell);
  const isNear = new Uint8Array(cells);
  for (let at = 0; at < cells; at++)
    if (kept[at] === 1) for (const k of beside(at, columns, cells, reach)) isNear[k] = 1;
  for (let i = 0; i < count; i++) {
    if (isFree[i] === 0 || heights[i]! < 0.25 * metre || heights[i]! > FENCE_HEIGHT * metre) continue;
    const at = cellAt(i);
    const isOn =
      kept[at] === 1 ||
      (isNear[at] === 1 &&
        isTall[at] === 0 &&
        beside(at, columns, cells, reach).some((k) => {
          const line = kept[k] === 1 ? lines.get(k) : undefined;
          if (!line) return false;
          const [dx, dy] = [x[i]! - x0 - line.x, y[i]! - y0 - line.y];
          return Math.abs(dx * line.uy - dy * line.ux) <= FENCE_SCATTER * metre;
        }));
    if (isOn) out[i] = SMALL_OBJECT.fence;
  }
}

/** A line in plan about a cell. */
interface Line {
  readonly x: number;
  readonly y: number;
  readonly ux: number;
  readonly uy: number;
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

/** Cells within so many of one, in the square about it, as far as the map goes. */
function beside(at: number, columns: number, cells: number, reach: number): number[] {
  const [row, column] = [Math.floor(at / columns), at % columns];
  const out: number[] = [];
  for (let r = Math.max(0, row - reach); r <= Math.min(cells / columns - 1, row + reach); r++)
    for (let c = Math.max(0, column - reach); c <= Math.min(columns - 1, column + reach); c++)
      if (r !== row || c !== column) out.push(r * columns + c);
  return out;
}
