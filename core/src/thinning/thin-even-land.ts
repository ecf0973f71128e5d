import { ascending, columnFrom, picked } from '../columns/index.js';
import { seamReach, type Seams } from '../squares/index.js';
import { numberCells } from './cell-numbers.js';
import { onePointPerCell } from './one-point-per-cell.js';

/** A plane is held against at least so many points. */
const LEAST_POINTS = 6;
/** A cell whose points scatter by more than this many times the usual scatter about its plane is broken by something. */
const UNEVEN = 1.7;
/** Broken cells are halved this often. */
const HALVINGS = 2;
/** Fewer cells than this say nothing about what is usual. */
const LEAST_CELLS = 20;

export interface EvenLandOptions {
  /**
   * Lines near which what is usual is told from the land about alone, so that the square on the other side of the line comes to the same
   * points. Where the points are those of a tile, its edges have to be edges of {@link blockCells} blocks.
   */
  readonly seams?: Seams | undefined;
  /** How much the points of a cell may scatter, where it is known from a larger piece of land: {@link evenLimit}. */
  readonly limit?: number | undefined;
}

/**
 * One point a cell where the land is even, as {@link onePointPerCell} has it; where it breaks, at a kerb, a wall, the foot of a bank,
 * cells of a half and a quarter of the side. Broken are cells whose points lie off their own plane by more than those of most
 * cells do, so that the limit is the cloud's own noise and not a figure. Our own; no source.
 * @param easting - n coordinates, job units; likewise `northing`, `elevation`
 * @returns indices of the kept points, ascending; a new array
 */
export function thinEvenLand(
  easting: Float64Array,
  northing: Float64Array,
  elevation: Float64Array,
  cell: number,
  { seams, limit: given }: EvenLandOptions = {},
): Uint32Array {
  const kept: Uint32Array[] = [];
  let limit = given;
  let nearSeams: NearSeams | undefined;
  let open = ascending(easting.length);
  for (let halving = 0, side = cell; open.length > 0; halving++, side /= 2) {
    const [x, y, z] = [picked(easting, open), picked(northing, open), picked(elevation, open)];
    let isBroken: Uint8Array | undefined;
    if (halving < HALVINGS) {
      const cellOf = new Uint32Array(open.length);
      const scatter = planeScatter(x, y, z, cellOf, numberCells(x, y, side, cellOf));
      limit ??= evenLimit(scatter);
      const whole = limit;
      if (seams) nearSeams ??= new NearSeams(seams, cell, { x, y, cellOf, scatter });
      const near = nearSeams;
      isBroken = columnFrom(Uint8Array, cellOf, (c, k) =>
        scatter[c]! > (near?.limitAt(x[k]!, y[k]!) ?? whole) ? 1 : 0,
      );
    }
    const even = isBroken ? ascending(x.length).filter((k) => isBroken[k] === 0) : ascending(x.length);
    kept.push(onePointPerCell(picked(x, even), picked(y, even), picked(z, even), side).map((k) => open[even[k]!]!));
    open = open.filter((_, k) => isBroken?.[k] === 1);
  }
  const all = new Uint32Array(kept.reduce((sum, list) => sum + list.length, 0));
  let at = 0;
  for (const list of kept) {
    all.set(list, at);
    at += list.length;
  }
  return all.sort();
}

/** How much the points of each cell scatter about their own plane, of those cells that tell; in no order that means anything. */
export function cellScatters(
  easting: Float64Array,
  northing: Float64Array,
  elevation: Float64Array,
  cell: number,
): Float64Array {
  const cellOf = new Uint32Array(easting.length);
  const cells = numberCells(easting, northing, cell, cellOf);
  return planeScatter(easting, northing, elevation, cellOf, cells).filter((scatter) => !Number.isNaN(scatter));
}

/** How much the points of a cell may scatter, by the scatters of all cells of the land. */
export const evenLimit = (scatters: Float64Array): number => UNEVEN * usual(scatters);

/** Cells along the side of a block in which what is usual near seams is told. */
export const blockCells = ({ known, reach }: Seams, cell: number): number =>
  Math.max(1, Math.floor((known - reach) / cell));

/** More blocks than there are from south to north in any system of coordinates: their numbers are told apart by it. */
const BLOCK_ROWS = 2 ** 26;

/** What is usual near seams, block by block; the blocks lie on whole multiples of their side, and both squares know all of theirs. */
class NearSeams {
  private readonly side: number;
  private readonly limits = new Map<number, number>();

  constructor(
    private readonly seams: Seams,
    cell: number,
    {
      x,
      y,
      cellOf,
      scatter,
    }: {
      readonly x: Float64Array;
      readonly y: Float64Array;
      readonly cellOf: Uint32Array;
      readonly scatter: Float64Array;
    },
  ) {
    this.side = blockCells(seams, cell) * cell;
    const blocks = new Map<number, number[]>();
    const isSeen = new Uint8Array(scatter.length);
    for (let i = 0; i < x.length; i++) {
      const c = cellOf[i]!;
      if (isSeen[c] === 1) continue;
      isSeen[c] = 1;
      // A block that is asked for begins within reach, and ends where all points are known.
      if (seamReach(seams, x[i]!, y[i]!) > seams.known) continue;
      const key = this.blockOf(x[i]!, y[i]!);
      const scatters = blocks.get(key);
      if (scatters) scatters.push(scatter[c]!);
      else blocks.set(key, [scatter[c]!]);
    }
    for (const [key, scatters] of blocks) this.limits.set(key, evenLimit(Float64Array.from(scatters)));
  }

  /** The limit at a place, where it lies near a seam. */
  limitAt(easting: number, northing: number): number | undefined {
    if (seamReach(this.seams, easting, northing) > this.seams.reach) return undefined;
    return this.limits.get(this.blockOf(easting, northing));
  }

  private blockOf(easting: number, northing: number): number {
    return Math.floor(easting / this.side) * BLOCK_ROWS + Math.floor(northing / this.side);
  }
}

/** Median of the cells that have one; +∞ where too few say anything, so that nothing counts as broken. */
function usual(scatter: Float64Array): number {
  const known = scatter.filter((value) => !Number.isNaN(value)).sort();
  return known.length < LEAST_CELLS ? Infinity : known[known.length >> 1]!;
}

/** Root mean square of the points of each cell about their least-squares plane; NaN where they are too few or lie in a line. */
function planeScatter(
  x: Float64Array,
  y: Float64Array,
  z: Float64Array,
  cellOf: Uint32Array,
  cells: number,
): Float64Array {
  const n = new Uint32Array(cells);
  const [mx, my, mz] = [new Float64Array(cells), new Float64Array(cells), new Float64Array(cells)];
  for (let i = 0; i < x.length; i++) {
    const c = cellOf[i]!;
    n[c]!++;
    mx[c]! += x[i]!;
    my[c]! += y[i]!;
    mz[c]! += z[i]!;
  }
  for (let c = 0; c < cells; c++) {
    mx[c]! /= n[c]!;
    my[c]! /= n[c]!;
    mz[c]! /= n[c]!;
  }
  const [xx, xy, yy, xz, yz, zz] = Array.from({ length: 6 }, () => new Float64Array(cells)) as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  for (let i = 0; i < x.length; i++) {
    const c = cellOf[i]!;
    const dx = x[i]! - mx[c]!;
    const dy = y[i]! - my[c]!;
    const dz = z[i]! - mz[c]!;
    xx[c]! += dx * dx;
    xy[c]! += dx * dy;
    yy[c]! += dy * dy;
    xz[c]! += dx * dz;
    yz[c]! += dy * dz;
    zz[c]! += dz * dz;
  }
  const out = new Float64Array(cells).fill(NaN);
  for (let c = 0; c < cells; c++) {
    const det = xx[c]! * yy[c]! - xy[c]! * xy[c]!;
    if (n[c]! < LEAST_POINTS || det <= 1e-6 * xx[c]! * yy[c]!) continue;
    const a = (xz[c]! * yy[c]! - yz[c]! * xy[c]!) / det;
    const b = (yz[c]! * xx[c]! - xz[c]! * xy[c]!) / det;
    out[c] = Math.sqrt(Math.max(0, zz[c]! - a * xz[c]! - b * yz[c]!) / (n[c]! - 3));
  }
  return out;
}
