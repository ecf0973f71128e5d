import { planBounds, type PlanBounds } from '../raster/index.js';

/** Points of the land, about a local origin, to be asked for those in a slab across a line. */
export interface FieldPoints {
  readonly easting: Float64Array;
  readonly northing: Float64Array;
  readonly elevation: Float64Array;
  /** Intensity or a colour, where a break is looked for in it. */
  readonly tone?: Float32Array;
}

/** Points in cells of the plan. */
export class PointField {
  /** Of the points, where there are any: the side of the square that each has to itself. */
  readonly spacing: number;
  readonly bounds: PlanBounds;
  private readonly west: number;
  private readonly south: number;
  private readonly columns: number;
  private readonly rows: number;
  private readonly starts: Uint32Array;
  private readonly order: Uint32Array;

  /** @param cell - width of a cell, job units; about four points wide is best */
  constructor(
    readonly points: FieldPoints,
    readonly cell: number,
  ) {
    const { easting, northing } = points;
    const count = easting.length;
    this.bounds = count > 0 ? planBounds(easting, northing) : { west: 0, south: 0, east: 0, north: 0 };
    const { west, south, east, north } = this.bounds;
    this.west = west;
    this.south = south;
    this.columns = Math.floor((east - west) / cell) + 1;
    this.rows = Math.floor((north - south) / cell) + 1;
    const cells = this.columns * this.rows;
    const starts = new Uint32Array(cells + 1);
    const of = new Uint32Array(count);
    for (let i = 0; i < count; i++) {
      const at = Math.floor((northing[i]! - south) / cell) * this.columns + Math.floor((easting[i]! - west) / cell);
      of[i] = at;
      starts[at + 1]!++;
    }
    let taken = 0;
    for (let at = 0; at < cells; at++) {
      if (starts[at + 1]! > 0) taken++;
      starts[at + 1]! += starts[at]!;
    }
    const next = starts.slice(0, cells);
    this.order = new Uint32Array(count);
    for (let i = 0; i < count; i++) this.order[next[of[i]!]!++] = i;
    this.starts = starts;
    this.spacing = count > 0 ? Math.sqrt((taken * cell * cell) / count) : cell;
  }

  /**
   * The points of a slab across a line: within half its length along, within half its width across.
   * @param direction - of the line, one long
   * @returns how many were written
   */
  slabInto(
    [e, n]: readonly [number, number],
    [de, dn]: readonly [number, number],
    halfAlong: number,
    halfAcross: number,
    out: Slab,
  ): number {
    const { easting, northing, elevation, tone } = this.points;
    const reachE = Math.abs(de) * halfAlong + Math.abs(dn) * halfAcross;
    const reachN = Math.abs(dn) * halfAlong + Math.abs(de) * halfAcross;
    const first = Math.max(0, Math.floor((e - reachE - this.west) / this.cell));
    const last = Math.min(this.columns - 1, Math.floor((e + reachE - this.west) / this.cell));
    const low = Math.max(0, Math.floor((n - reachN - this.south) / this.cell));
    const high = Math.min(this.rows - 1, Math.floor((n + reachN - this.south) / this.cell));
    let count = 0;
    for (let row = low; row <= high && first <= last; row++) {
      const from = this.starts[row * this.columns + first]!;
      const to = this.starts[row * this.columns + last + 1]!;
      for (let k = from; k < to; k++) {
        const i = this.order[k]!;
        const [pe, pn] = [easting[i]! - e, northing[i]! - n];
        const along = pe * de + pn * dn;
        if (along < -halfAlong || along > halfAlong) continue;
        // To the right of the line, as it is looked along.
        const across = pe * dn - pn * de;
        if (across < -halfAcross || across > halfAcross) continue;
        if (count === out.size) out.grow();
        out.across[count] = across;
        out.elevation[count] = elevation[i]!;
        if (tone) out.tone[count] = tone[i]!;
        count++;
      }
    }
    out.sort(count, tone !== undefined);
    return count;
  }
}

/** Room for the points of a slab, used again from one to the next; sorted from left to right. */
export class Slab {
  size = 256;
  across = new Float64Array(this.size);
  elevation = new Float64Array(this.size);
  tone = new Float64Array(this.size);
  private spare = new Float64Array(this.size);

  grow(): void {
    this.size *= 2;
    for (const column of ['across', 'elevation', 'tone'] as const) {
      const wider = new Float64Array(this.size);
      wider.set(this[column]);
      this[column] = wider;
    }
    this.spare = new Float64Array(this.size);
  }

  /** By place across. Places are told apart to a millionth of the slab's width, which is less than points are known to. */
  sort(count: number, hasTone: boolean): void {
    const { across } = this;
    let [least, most] = [Infinity, -Infinity];
    for (let k = 0; k < count; k++) {
      if (across[k]! < least) least = across[k]!;
      if (across[k]! > most) most = across[k]!;
    }
    // One number for place and index: numbers alone are sorted many times faster than by a function.
    const keys = new Float64Array(count);
    const scale = LEVELS / Math.max(1e-12, most - least);
    for (let k = 0; k < count; k++) keys[k] = Math.floor((across[k]! - least) * scale) * INDEXES + k;
    keys.sort();
    for (const column of hasTone ? WITH_TONE : WITHOUT_TONE) {
      const from = this[column];
      for (let k = 0; k < count; k++) this.spare[k] = from[keys[k]! % INDEXES]!;
      this[column] = this.spare;
      this.spare = from;
    }
  }
}

const LEVELS = 2 ** 20;
const INDEXES = 2 ** 24;
const WITHOUT_TONE = ['across', 'elevation'] as const;
const WITH_TONE = ['across', 'elevation', 'tone'] as const;
