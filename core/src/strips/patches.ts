import { columnFrom } from '../columns/index.js';
import { NO_STRIP } from './strip-finder.js';

/** Points of a tile as patches are made of them; places in job units from a corner of the tile's choosing. */
export interface StripPoints {
  readonly count: number;
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly z: Float64Array;
  readonly time?: Float64Array | undefined;
  /** The strip of each point; {@link NO_STRIP} for those that don't count. */
  readonly strip: Uint16Array;
}

/** Little planes, one a strip and cell of the plan, in the order of cells and then of strips. */
export interface Patches {
  readonly count: number;
  readonly cell: Int32Array;
  readonly strip: Uint16Array;
  readonly points: Uint32Array;
  /** Mean of the points. */
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly z: Float64Array;
  readonly time: Float64Array;
  /** Slope of the plane to the east and to the north. */
  readonly slopeEast: Float64Array;
  readonly slopeNorth: Float64Array;
  /** Standard deviation of the points off the plane, upright. */
  readonly roughness: Float64Array;
  /** Mean square of the points' distances in plan from their mean, the lesser axis. */
  readonly spread: Float64Array;
}

/** Where the cells of a tile lie: a corner in the same coordinates as the points. */
export interface PatchFrame {
  readonly west: number;
  readonly south: number;
  readonly cell: number;
  readonly columns: number;
  readonly rows: number;
}

/** A plane has three unknowns; under so many points its roughness says nothing. */
export const LEAST_POINTS = 8;
/** Points along a line say nothing of the slope across it: the lesser axis, as a share of the cell. */
const LEAST_SPREAD = 0.12;
const SUMS = 10;

/**
 * Fits a plane to the points of each strip in each cell. Planes whose points are too few or lie along a line are left out; roughness and slope are for
 * who uses them to judge.
 */
export function fitPatches(points: StripPoints, frame: PatchFrame): Patches {
  const { west, south, cell, columns, rows } = frame;
  const { count, x, y, z, time, strip } = points;
  // Of all the strips of a flight few cross one tile: they are numbered anew here.
  const here = stripsIn(strip);
  const strips = here.length;
  const localOf = new Int32Array(NO_STRIP + 1).fill(-1);
  here.forEach((s, k) => (localOf[s] = k));
  const cells = columns * rows;
  const place = new Int32Array(count);
  const perKey = new Uint32Array(cells * strips);
  for (let i = 0; i < count; i++) {
    const s = strip[i]!;
    place[i] = -1;
    if (s === NO_STRIP) continue;
    const column = Math.floor((x[i]! - west) / cell);
    const row = Math.floor((y[i]! - south) / cell);
    if (column < 0 || row < 0 || column >= columns || row >= rows) continue;
    const key = (row * columns + column) * strips + localOf[s]!;
    place[i] = key;
    perKey[key]!++;
  }
  let slots = 0;
  const slotOf = new Int32Array(cells * strips).fill(-1);
  for (let key = 0; key < perKey.length; key++) if (perKey[key]! >= LEAST_POINTS) slotOf[key] = slots++;
  const keyOf = new Int32Array(slots);
  for (let key = 0; key < slotOf.length; key++) if (slotOf[key]! >= 0) keyOf[slotOf[key]!] = key;
  const sums = new Float64Array(slots * SUMS);
  const firstTime = time?.[0] ?? 0;
  // About the first point of each slot, so that squares stay small.
  const origin = new Float64Array(slots).fill(NaN);
  for (let i = 0; i < count; i++) {
    const key = place[i]!;
    if (key < 0) continue;
    const slot = slotOf[key]!;
    if (slot < 0) continue;
    const at = slot * SUMS;
    const inCell = (key - (key % strips)) / strips;
    const dx = x[i]! - west - ((inCell % columns) + 0.5) * cell;
    const dy = y[i]! - south - (Math.floor(inCell / columns) + 0.5) * cell;
    if (Number.isNaN(origin[slot]!)) origin[slot] = z[i]!;
    const dz = z[i]! - origin[slot]!;
    sums[at]! += dx;
    sums[at + 1]! += dy;
    sums[at + 2]! += dz;
    sums[at + 3]! += dx * dx;
    sums[at + 4]! += dx * dy;
    sums[at + 5]! += dy * dy;
    sums[at + 6]! += dx * dz;
    sums[at + 7]! += dy * dz;
    sums[at + 8]! += dz * dz;
    if (time) sums[at + 9]! += time[i]! - firstTime;
  }
  const made = emptyPatches(slots);
  const leastSpread = (LEAST_SPREAD * cell) ** 2;
  let used = 0;
  for (let slot = 0; slot < slots; slot++) {
    const key = keyOf[slot]!;
    const n = perKey[key]!;
    const at = slot * SUMS;
    const [mx, my, mz] = [sums[at]! / n, sums[at + 1]! / n, sums[at + 2]! / n];
    const xx = sums[at + 3]! / n - mx * mx;
    const xy = sums[at + 4]! / n - mx * my;
    const yy = sums[at + 5]! / n - my * my;
    const xz = sums[at + 6]! / n - mx * mz;
    const yz = sums[at + 7]! / n - my * mz;
    const zz = sums[at + 8]! / n - mz * mz;
    const half = (xx + yy) / 2;
    const lesser = half - Math.sqrt(((xx - yy) / 2) ** 2 + xy * xy);
    if (!(lesser >= leastSpread)) continue;
    const determinant = xx * yy - xy * xy;
    const slopeEast = (xz * yy - yz * xy) / determinant;
    const slopeNorth = (yz * xx - xz * xy) / determinant;
    const left = Math.max(0, zz - slopeEast * xz - slopeNorth * yz);
    const inCell = (key - (key % strips)) / strips;
    made.cell[used] = inCell;
    made.strip[used] = here[key % strips]!;
    made.points[used] = n;
    made.x[used] = west + ((inCell % columns) + 0.5) * cell + mx;
    made.y[used] = south + (Math.floor(inCell / columns) + 0.5) * cell + my;
    made.z[used] = origin[slot]! + mz;
    made.time[used] = firstTime + sums[at + 9]! / n;
    made.slopeEast[used] = slopeEast;
    made.slopeNorth[used] = slopeNorth;
    made.roughness[used] = Math.sqrt((left * n) / (n - 3));
    made.spread[used] = lesser;
    used++;
  }
  return cutPatches(made, used);
}

/** Strips that have points here, in their order. */
function stripsIn(strip: Uint16Array): number[] {
  const seen = new Uint8Array(NO_STRIP);
  for (const s of strip) if (s !== NO_STRIP) seen[s] = 1;
  return [...seen.keys()].filter((s) => seen[s] === 1);
}

function emptyPatches(count: number): Patches {
  const doubles = () => new Float64Array(count);
  return {
    count,
    cell: new Int32Array(count),
    strip: new Uint16Array(count),
    points: new Uint32Array(count),
    x: doubles(),
    y: doubles(),
    z: doubles(),
    time: doubles(),
    slopeEast: doubles(),
    slopeNorth: doubles(),
    roughness: doubles(),
    spread: doubles(),
  };
}

function cutPatches(patches: Patches, count: number): Patches {
  const cut = Object.entries(patches).map(([name, values]) => [
    name,
    typeof values === 'number' ? count : (values as Float64Array).subarray(0, count),
  ]);
  return Object.fromEntries(cut) as Patches;
}

/** Two strips over the same ground: the patches of a cell, the earlier strip first. */
export interface PatchPairs {
  readonly count: number;
  readonly one: Uint16Array;
  readonly two: Uint16Array;
  /** The place in plan where both are compared, half-way between their means, and the height of each plane there. */
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly heightOne: Float64Array;
  readonly heightTwo: Float64Array;
  readonly timeOne: Float64Array;
  readonly timeTwo: Float64Array;
  /** Mean slope of the two. */
  readonly slopeEast: Float64Array;
  readonly slopeNorth: Float64Array;
  /** Standard deviation of the difference of the heights that the roughness of both lets expect. */
  readonly sigma: Float64Array;
}

export interface PatchLimits {
  /** Standard deviation off the plane at most. */
  readonly roughness: number;
  /** Rise over run at most. */
  readonly slope: number;
  /** Two planes whose slopes differ by more see different things. */
  readonly slopeApart: number;
}

/** Planes further apart than that see different things: a roof and the ground under it. */
const FURTHEST_APART = 5;

/** Pairs the smooth patches of each cell, every two strips once. */
export function pairPatches(patches: Patches, limits: PatchLimits): PatchPairs {
  const rows: number[][] = [];
  const good = (k: number): boolean =>
    patches.roughness[k]! <= limits.roughness &&
    Math.hypot(patches.slopeEast[k]!, patches.slopeNorth[k]!) <= limits.slope;
  for (let first = 0; first < patches.count;) {
    let end = first;
    while (end < patches.count && patches.cell[end] === patches.cell[first]) end++;
    for (let a = first; a < end; a++) {
      if (!good(a)) continue;
      for (let b = a + 1; b < end; b++) {
        if (!good(b)) continue;
        const row = comparison(patches, a, b, limits);
        if (row) rows.push(row);
      }
    }
    first = end;
  }
  const column = (k: number): Float64Array => columnFrom(Float64Array, rows, (row) => row[k]!);
  return {
    count: rows.length,
    one: columnFrom(Uint16Array, rows, (row) => row[0]!),
    two: columnFrom(Uint16Array, rows, (row) => row[1]!),
    x: column(2),
    y: column(3),
    heightOne: column(4),
    heightTwo: column(5),
    timeOne: column(6),
    timeTwo: column(7),
    slopeEast: column(8),
    slopeNorth: column(9),
    sigma: column(10),
  };
}

function comparison(p: Patches, a: number, b: number, limits: PatchLimits): number[] | undefined {
  const apart = Math.hypot(p.slopeEast[a]! - p.slopeEast[b]!, p.slopeNorth[a]! - p.slopeNorth[b]!);
  if (apart > limits.slopeApart) return undefined;
  const [x, y] = [(p.x[a]! + p.x[b]!) / 2, (p.y[a]! + p.y[b]!) / 2];
  const height = (k: number): number => p.z[k]! + p.slopeEast[k]! * (x - p.x[k]!) + p.slopeNorth[k]! * (y - p.y[k]!);
  const [one, two] = [height(a), height(b)];
  if (Math.abs(one - two) > FURTHEST_APART) return undefined;
  const variance = (k: number): number =>
    (p.roughness[k]! ** 2 / p.points[k]!) * (1 + ((x - p.x[k]!) ** 2 + (y - p.y[k]!) ** 2) / p.spread[k]!);
  return [
    p.strip[a]!,
    p.strip[b]!,
    x,
    y,
    one,
    two,
    p.time[a]!,
    p.time[b]!,
    (p.slopeEast[a]! + p.slopeEast[b]!) / 2,
    (p.slopeNorth[a]! + p.slopeNorth[b]!) / 2,
    Math.sqrt(variance(a) + variance(b)),
  ];
}

/** Patches of several tiles as one list. */
export function joinPairs(parts: readonly PatchPairs[]): PatchPairs {
  const count = parts.reduce((sum, part) => sum + part.count, 0);
  const join = <T extends Float64Array | Uint16Array>(name: keyof PatchPairs, out: T): T => {
    let at = 0;
    for (const part of parts) {
      out.set(part[name] as T, at);
      at += part.count;
    }
    return out;
  };
  const doubles = (name: keyof PatchPairs): Float64Array => join(name, new Float64Array(count));
  return {
    count,
    one: join('one', new Uint16Array(count)),
    two: join('two', new Uint16Array(count)),
    x: doubles('x'),
    y: doubles('y'),
    heightOne: doubles('heightOne'),
    heightTwo: doubles('heightTwo'),
    timeOne: doubles('timeOne'),
    timeTwo: doubles('timeTwo'),
    slopeEast: doubles('slopeEast'),
    slopeNorth: doubles('slopeNorth'),
    sigma: doubles('sigma'),
  };
}

/** The pairs named, in that order. */
export function choosePairs(pairs: PatchPairs, order: Uint32Array): PatchPairs {
  const chosen = Object.entries(pairs).map(([name, values]) => [
    name,
    typeof values === 'number'
      ? order.length
      : (values as Float64Array).constructor === Uint16Array
        ? columnFrom(Uint16Array, order, (k) => (values as unknown as Uint16Array)[k]!)
        : columnFrom(Float64Array, order, (k) => (values as Float64Array)[k]!),
  ]);
  return Object.fromEntries(chosen) as PatchPairs;
}

/**
 * How rough hard ground is in this cloud: the smooth patches' own roughness, from the patches that are smoother than most. Grass and crowns are
 * rougher, however much of the land they cover.
 * @returns NaN where there are no patches
 */
export function smoothRoughness(roughness: Float64Array): number {
  const sorted = Float64Array.from(roughness).sort();
  return sorted.length === 0 ? NaN : sorted[Math.floor(0.25 * (sorted.length - 1))]!;
}
