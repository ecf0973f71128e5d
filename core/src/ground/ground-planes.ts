import { columnFrom } from '../columns/index.js';
import { eachSharedCell, type RasterFrame } from '../raster/index.js';
import { PointFlag, type PointBatch, type Quantisation } from '../cloud/index.js';

/** A batch's columns that finding ground looks at. */
export type GroundBatch = Pick<PointBatch, 'count' | 'x' | 'y' | 'z' | 'classification' | 'flags' | 'returns'>;

/** What the points near a surface add up to, by cell. Sums are of whole steps of the cloud's scale: exact in any order. */
export interface NearSums extends RasterFrame {
  readonly count: Uint32Array;
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly z: Float64Array;
  /** Points that stand over the band, up to a limit: what grows there. */
  readonly over: Uint32Array;
  /** All that could have been ground, near the surface or not. */
  readonly all: Uint32Array;
}

export function newNearSums(frame: RasterFrame): NearSums {
  const cells = frame.columns * frame.rows;
  const { east, north, cell, columns, rows } = frame;
  return {
    east,
    north,
    cell,
    columns,
    rows,
    count: new Uint32Array(cells),
    x: new Float64Array(cells),
    y: new Float64Array(cells),
    z: new Float64Array(cells),
    over: new Uint32Array(cells),
    all: new Uint32Array(cells),
  };
}

/** Height of a raster of heights at cell centres, between them bilinear, held at the edge; `u`, `v` in cells from the corner. */
export function heightAt(heights: ArrayLike<number>, columns: number, rows: number, u: number, v: number): number {
  const cu = Math.min(columns - 1, Math.max(0, u - 0.5));
  const cv = Math.min(rows - 1, Math.max(0, v - 0.5));
  const c = Math.min(Math.max(0, columns - 2), cu | 0);
  const r = Math.min(Math.max(0, rows - 2), cv | 0);
  const fu = cu - c;
  const fv = cv - r;
  const at = r * columns + c;
  const right = columns > 1 ? 1 : 0;
  const up = rows > 1 ? columns : 0;
  const south = heights[at]! + (heights[at + right]! - heights[at]!) * fu;
  const north = heights[at + up]! + (heights[at + up + right]! - heights[at + up]!) * fu;
  return south + (north - south) * fv;
}

/** Whether a point may be ground at all: a last return of a class that takes part, not withheld. */
export function mayBeGround({ classification, flags, returns }: GroundBatch, i: number, takes: Uint8Array): boolean {
  return (
    takes[classification[i]!] !== 0 &&
    (flags[i]! & PointFlag.withheld) === 0 &&
    (returns[i]! & 0x0f) >= returns[i]! >> 4
  );
}

/**
 * Enters the points within a band under and over a surface, and counts those that stand over it, up to `crowd` over the surface. `sums` may cover a part of the surface's frame.
 * @param isDoubtful - 1 for points that are no witness of the ground, if there are any
 */
export function addNearPoints(
  sums: NearSums,
  batch: GroundBatch,
  { scale, offset }: Quantisation,
  surface: RasterFrame & { readonly heights: Float64Array },
  [under, over]: readonly [number, number],
  crowd: number,
  takes: Uint8Array,
  isDoubtful?: Uint8Array,
): void {
  const { x, y, z } = batch;
  const { cell } = surface;
  const firstColumn = Math.round((sums.east - surface.east) / cell);
  const firstRow = Math.round((sums.north - surface.north) / cell);
  const ox = offset[0] - surface.east;
  const oy = offset[1] - surface.north;
  for (let i = 0; i < batch.count; i++) {
    if (isDoubtful?.[i] === 1 || !mayBeGround(batch, i, takes)) continue;
    const u = (x[i]! * scale[0] + ox) / cell;
    const v = (y[i]! * scale[1] + oy) / cell;
    const off = z[i]! * scale[2] + offset[2] - heightAt(surface.heights, surface.columns, surface.rows, u, v);
    const column = Math.min(sums.columns - 1, Math.max(0, Math.floor(u) - firstColumn));
    const row = Math.min(sums.rows - 1, Math.max(0, Math.floor(v) - firstRow));
    const at = row * sums.columns + column;
    sums.all[at]!++;
    if (off > crowd || off < -under) continue;
    if (off > over) {
      sums.over[at]!++;
      continue;
    }
    sums.count[at]!++;
    sums.x[at]! += x[i]!;
    sums.y[at]! += y[i]!;
    sums.z[at]! += z[i]!;
  }
}

/** Adds sums that cover a part of the frame, cell on cell. */
export function mergeNearSums(into: NearSums, other: NearSums): void {
  eachSharedCell(into, other, (at, i) => {
    into.over[at]! += other.over[i]!;
    into.all[at]! += other.all[i]!;
    if (other.count[i] === 0) return;
    into.count[at]! += other.count[i]!;
    into.x[at]! += other.x[i]!;
    into.y[at]! += other.y[i]!;
    into.z[at]! += other.z[i]!;
  });
}

/** A piece of plane in each cell that has ground: height at the cell's centre and slopes; NaN where there is none. */
export interface GroundPlanes extends RasterFrame {
  readonly height: Float64Array;
  readonly eastSlope: Float32Array;
  readonly northSlope: Float32Array;
  /** Of what was seen near and over the plane of a cell and its neighbours the share that stands over it: 0 bare, 1 overgrown. */
  readonly crowd: Float32Array;
  /** The same of a cell alone. */
  readonly ownCrowd: Float32Array;
}

/**
 * Planes through the mean points of the cells. Each slope is the gentler of those to the two neighbours and none where they
 * fall apart (the minmod limiter, Roe 1986, Annual Review of Fluid Mechanics 18, 337-365), so that the plane of a plateau stays
 * level to its brink and that of the foot of a wall does not climb it.
 */
export function groundPlanes(sums: NearSums, { scale, offset }: Quantisation): GroundPlanes {
  const { east, north, cell, columns, rows, count } = sums;
  const cells = columns * rows;
  const me = new Float64Array(cells);
  const mn = new Float64Array(cells);
  const height = new Float64Array(cells).fill(NaN);
  for (let i = 0; i < cells; i++) {
    if (count[i] === 0) continue;
    me[i] = (sums.x[i]! / count[i]!) * scale[0] + offset[0] - east;
    mn[i] = (sums.y[i]! / count[i]!) * scale[1] + offset[1] - north;
    height[i] = (sums.z[i]! / count[i]!) * scale[2] + offset[2];
  }
  const eastSlope = new Float32Array(cells);
  const northSlope = new Float32Array(cells);
  const slope = (i: number, j: number, place: Float64Array): number => {
    const reach = place[j]! - place[i]!;
    return count[j] === 0 || Math.abs(reach) < 0.3 * cell ? NaN : (height[j]! - height[i]!) / reach;
  };
  for (let row = 0, i = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, i++) {
      if (count[i] === 0) continue;
      eastSlope[i] = gentler(column > 0 ? slope(i, i - 1, me) : NaN, column < columns - 1 ? slope(i, i + 1, me) : NaN);
      northSlope[i] = gentler(
        row > 0 ? slope(i, i - columns, mn) : NaN,
        row < rows - 1 ? slope(i, i + columns, mn) : NaN,
      );
    }
  for (let row = 0, i = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, i++)
      if (count[i] !== 0)
        height[i]! += eastSlope[i]! * ((column + 0.5) * cell - me[i]!) + northSlope[i]! * ((row + 0.5) * cell - mn[i]!);
  return {
    east,
    north,
    cell,
    columns,
    rows,
    height,
    eastSlope,
    northSlope,
    crowd: crowdOf(sums),
    ownCrowd: columnFrom(Float32Array, sums.count, (n, i) => sums.over[i]! / Math.max(1, n + sums.over[i]!)),
  };
}

/** Over three by three cells: of seven points in one cell the share would be chance. */
function crowdOf({ columns, rows, count, over }: NearSums): Float32Array {
  const crowd = new Float32Array(columns * rows);
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++) {
      let [near, high] = [0, 0];
      for (let r = Math.max(0, row - 1); r <= Math.min(rows - 1, row + 1); r++)
        for (let c = Math.max(0, column - 1); c <= Math.min(columns - 1, column + 1); c++) {
          near += count[r * columns + c]!;
          high += over[r * columns + c]!;
        }
      crowd[row * columns + column] = near + high === 0 ? 0 : high / (near + high);
    }
  return crowd;
}

function gentler(a: number, b: number): number {
  if (Number.isNaN(a)) return Number.isNaN(b) ? 0 : b;
  if (Number.isNaN(b)) return a;
  return a * b <= 0 ? 0 : Math.abs(a) < Math.abs(b) ? a : b;
}

/** Distance over which a point may lie under a plane, for each unit over which it may lie above: ground has no lower side. */
const BELOW = 1.2;
/** By this share the distance over a plane shrinks where nothing but what grows was seen. */
const CROWDED = 0.4;
/**
 * Where this share of what is seen stands over the ground, a point over the plane of its own cell, by no more than so many tolerances, is
 * like grass: the planes of two cells beside it have to say that it is ground, for one alone is more often a plane through grass.
 */
const [OVERGROWN, GRASS_TOLERANCES, WITNESSES] = [0.1, 6, 2];
/** Levels this many tolerances apart have a face between them; what is like grass needs a taller one. */
const [FACE, FACE_IN_GRASS] = [3, 12];
/** A point near the first surface is ground too, but has to lie nearer: the surface is of lowest points. */
const NEAR_FIRST = 0.7;

/**
 * New classes by planes: ground is what lies within `tolerance` of the plane of its own cell or of one beside it, which is what
 * lets both sides of a step be ground to its very edge; and what lies between two levels that meet there, the face of a kerb or
 * a wall no taller than `tallestStep`. Only last returns can be ground; withheld points and classes not in
 * `takes` stay as they are.
 * @param doubt - 0 to 1 of each point, if known: the tolerance shrinks with it
 * @returns the new class column; a new array
 */
export function classifyAgainstPlanes(
  batch: GroundBatch,
  { scale, offset }: Quantisation,
  planes: GroundPlanes,
  first: Float64Array,
  { tolerance, tallestStep }: { readonly tolerance: number; readonly tallestStep: number },
  takes: Uint8Array,
  doubt?: Float32Array,
): Uint8Array {
  const { columns, rows, cell, height, eastSlope, northSlope, crowd } = planes;
  const { x, y, z, classification, flags } = batch;
  const next = classification.slice();
  const ox = offset[0] - planes.east;
  const oy = offset[1] - planes.north;
  for (let i = 0; i < batch.count; i++) {
    const old = classification[i]!;
    if (takes[old] === 0 || (flags[i]! & PointFlag.withheld) !== 0) continue;
    next[i] = isGround(i) ? 2 : old === 2 ? 1 : old;
  }
  return next;

  function isGround(i: number): boolean {
    if (!mayBeGround(batch, i, takes)) return false;
    const full = doubt ? tolerance * (1 - doubt[i]!) : tolerance;
    const east = x[i]! * scale[0] + ox;
    const north = y[i]! * scale[1] + oy;
    const elevation = z[i]! * scale[2] + offset[2];
    const column = Math.min(columns - 1, Math.max(0, Math.floor(east / cell)));
    const row = Math.min(rows - 1, Math.max(0, Math.floor(north / cell)));
    let lowest = Infinity;
    let highest = -Infinity;
    // Where much grows, a point as high as grass is more likely grass.
    const within = full * (1 - CROWDED * crowd[row * columns + column]!);
    const isNear = (c: number, r: number): boolean => {
      const at = r * columns + c;
      const plane =
        height[at]! + eastSlope[at]! * (east - (c + 0.5) * cell) + northSlope[at]! * (north - (r + 0.5) * cell);
      if (plane < lowest) lowest = plane;
      if (plane > highest) highest = plane;
      return elevation - plane <= within && elevation - plane >= -BELOW * full;
    };
    // Most points lie on the plane of their own cell.
    if (isNear(column, row)) return true;
    // Without a plane of its own the cell says nothing of grass.
    const over = elevation - highest;
    const isLikeGrass = over > 0 && over <= GRASS_TOLERANCES * full && crowd[row * columns + column]! > OVERGROWN;
    let wanted = isLikeGrass ? WITNESSES : 1;
    for (let r = Math.max(0, row - 1); r <= Math.min(rows - 1, row + 1); r++)
      for (let c = Math.max(0, column - 1); c <= Math.min(columns - 1, column + 1); c++)
        if ((c !== column || r !== row) && isNear(c, r) && --wanted === 0) return true;
    // Between two levels of ground that meet here: the face of a kerb or a wall.
    const face = highest - lowest;
    const leastFace = (isLikeGrass ? FACE_IN_GRASS : FACE) * within;
    if (elevation > lowest && elevation < highest && face > leastFace && face < tallestStep) return true;
    return Math.abs(elevation - heightAt(first, columns, rows, east / cell, north / cell)) <= NEAR_FIRST * within;
  }
}
