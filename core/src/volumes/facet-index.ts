import { planBoundsOf } from '../raster/index.js';
import type { Tin } from '../terrain/index.js';
import { planeOf } from './facet-plane.js';

type Corner = readonly [x: number, y: number];

/** Facets of a surface by place, in coordinates about another surface's origin. */
export class FacetIndex {
  private readonly shift: readonly [number, number];
  private readonly cell: number;
  private readonly west: number;
  private readonly south: number;
  private readonly columns: number;
  private readonly rows: number;
  private readonly start: Uint32Array;
  private readonly entries: Uint32Array;

  constructor(
    private readonly tin: Tin,
    origin: readonly [number, number],
  ) {
    this.shift = [tin.origin[0] - origin[0], tin.origin[1] - origin[1]];
    const { easting, northing, facets } = tin;
    const { west, south, east, north } =
      facets.length > 0 ? planBoundsOf(facets, easting, northing) : { west: 0, south: 0, east: 1, north: 1 };
    this.west = west + this.shift[0];
    this.south = south + this.shift[1];
    const count = Math.max(1, facets.length / 3);
    this.cell = Math.max(
      Math.sqrt(((east - west) * (north - south) * 2) / count),
      (east - west + north - south) / 8000,
      1e-9,
    );
    this.columns = Math.floor((east - west) / this.cell) + 1;
    this.rows = Math.floor((north - south) / this.cell) + 1;
    this.start = new Uint32Array(this.columns * this.rows + 1);
    this.eachCell((at) => this.start[at + 1]!++);
    for (let k = 0; k < this.columns * this.rows; k++) this.start[k + 1]! += this.start[k]!;
    this.entries = new Uint32Array(this.start.at(-1)!);
    const next = this.start.slice();
    this.eachCell((at, f) => (this.entries[next[at]!++] = f));
  }

  /** Side of the squares that facets are sorted into. */
  get cellSize(): number {
    return this.cell;
  }

  private eachCell(visit: (at: number, f: number) => void): void {
    for (let f = 0; f < this.tin.facets.length; f += 3) {
      const [c0, r0, c1, r1] = this.rangeOf(this.corners(f));
      for (let row = r0; row <= r1; row++)
        for (let column = c0; column <= c1; column++) visit(row * this.columns + column, f);
    }
  }

  private rangeOf(corners: readonly Corner[]): [number, number, number, number] {
    let [west, south, east, north] = [Infinity, Infinity, -Infinity, -Infinity];
    for (const [x, y] of corners) {
      west = Math.min(west, x);
      east = Math.max(east, x);
      south = Math.min(south, y);
      north = Math.max(north, y);
    }
    const column = (x: number): number =>
      Math.min(this.columns - 1, Math.max(0, Math.floor((x - this.west) / this.cell)));
    const row = (y: number): number => Math.min(this.rows - 1, Math.max(0, Math.floor((y - this.south) / this.cell)));
    return [column(west), row(south), column(east), row(north)];
  }

  corners(f: number): [Corner, Corner, Corner] {
    const { easting, northing, facets } = this.tin;
    const at = (k: number): Corner => [
      easting[facets[f + k]!]! + this.shift[0],
      northing[facets[f + k]!]! + this.shift[1],
    ];
    return [at(0), at(1), at(2)];
  }

  /** The plane of a facet that has an area. */
  plane(f: number): { a: number; b: number; c: number } {
    return planeOf(this.tin, f, this.shift) ?? { a: 0, b: 0, c: 0 };
  }

  /** Facets whose cells a polygon's box touches, each once. */
  touching(polygon: readonly Corner[]): number[] {
    const [c0, r0, c1, r1] = this.rangeOf(polygon);
    if (c0 === c1 && r0 === r1) {
      const at = r0 * this.columns + c0;
      return Array.from(this.entries.subarray(this.start[at]!, this.start[at + 1]!));
    }
    const found = new Set<number>();
    for (let row = r0; row <= r1; row++)
      for (let column = c0; column <= c1; column++) {
        const at = row * this.columns + column;
        for (let k = this.start[at]!; k < this.start[at + 1]!; k++) found.add(this.entries[k]!);
      }
    return [...found];
  }

  /** Elevation at a place about the other origin; undefined where there is no surface. */
  elevationAt(x: number, y: number): number | undefined {
    for (const f of this.touching([[x, y]])) {
      const [[ax, ay], [bx, by], [cx, cy]] = this.corners(f);
      const area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
      if (area === 0) continue;
      const wb = ((x - ax) * (cy - ay) - (y - ay) * (cx - ax)) / area;
      const wc = ((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / area;
      if (wb < -1e-9 || wc < -1e-9 || wb + wc > 1 + 1e-9) continue;
      const { elevation: z, facets } = this.tin;
      const za = z[facets[f]!]!;
      return za + (z[facets[f + 1]!]! - za) * wb + (z[facets[f + 2]!]! - za) * wc;
    }
    return undefined;
  }
}
