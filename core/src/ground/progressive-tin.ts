import { PlaneSums, type FittedPlane } from '../measuring/index.js';
import { checkCancelled, noProgress, PamperoError, type Progress } from '../task/index.js';
import { evenLandFrom } from './even-land.js';
import { GrowingTin } from './growing-tin.js';
import type { LowestRaster } from './lowest-raster.js';

export interface DensifyOptions {
  /** Seeds are the lowest points of squares of this side: wider than the largest building. Job units. */
  readonly largestBuilding: number;
  /** Largest angle between a facet and the lines from its corners to a new point, degrees. */
  readonly angleDegrees: number;
  /** Largest height of a new point over its facet, job units; below it twice as much. */
  readonly distance: number;
  /** Land that scatters by no more than this about a plane is even, see {@link evenLandFrom}. Job units. */
  readonly even: number;
  /** On sides shorter than this the angle shrinks with them, so that grass is not climbed step by step. Job units. */
  readonly shortSide: number;
}

/** Angles of some 8 degrees are usual for the method; 60 m: a large hall. The rest is tuned on simulated scenes. */
export const densifyDefaults: DensifyOptions = {
  largestBuilding: 60,
  angleDegrees: 8,
  distance: 3,
  even: 0.06,
  shortSide: 3,
};

/** No lever of an angle is longer than so many cells of the level: where facets have stayed large the angle alone lets bushes in. */
const REACH = 2;
/** Steepest plateau, as a tangent. */
const PLATEAU = 0.25;
/**
 * What lies below a facet passes so many times the angle and distance: nothing but ground is under the ground, once false low points are
 * out, and a facet from brink to brink over a gully, or from bush to bush, would keep the ground below it out for good.
 */
const [STEEPER_BELOW, DEEPER_BELOW] = [4, 2];
/** Rounds on each level; the last ones add next to nothing. */
const MOST_ROUNDS = 5;
/** Fewer than this share of the corners added in a round ends a level. */
const FEW = 0.01;

/**
 * Progressive TIN densification (Axelsson 2000, "DEM generation from laser scanner data using adaptive TIN models", IAPRS
 * 33 B4/1, 110-117): a TIN over the lowest points of large squares takes in points that lie near its facets, by distance and
 * angle, and by the angle of the point mirrored at the nearest corner, which lets the edge of a step in; round after round.
 *
 * Candidates are the lowest points of cells, from coarse cells to fine ones: the lowest of many is ground more often than a
 * point taken at random, and by the time the fine ones are asked the facets are small. All that pass in a round are taken at
 * once, so the outcome does not depend on the order of points or on tiles.
 * @returns elevation of the TIN at each cell's centre, job units; and which cells' points became corners
 * @throws PamperoError `no-ground-candidates` when every cell is empty
 */
export function densifyTin(
  raster: LowestRaster,
  options: DensifyOptions,
  progress: Progress = noProgress,
  signal?: { readonly aborted: boolean },
): { heights: Float64Array; isCorner: Uint8Array } {
  const { columns, rows, cell, lowest } = raster;
  const cells = columns * rows;
  const isCorner = new Uint8Array(cells);
  const candidates: number[] = [];
  for (let i = 0; i < cells; i++) if (lowest[i] !== Infinity) candidates.push(i);
  if (candidates.length === 0)
    throw new PamperoError('no-ground-candidates', {
      what: 'There are no points left to find ground in.',
      fix: 'Check that the cloud has points outside the noise classes that are not withheld.',
    });
  const seedSide = Math.max(1, Math.round(options.largestBuilding / cell));
  const { seeds, trends } = seedsPerSquare(raster, seedSide);
  for (const i of seeds) isCorner[i] = 1;

  const sides: number[] = [];
  for (let side = 1; side * 2 <= seedSide; side *= 2) sides.unshift(side);
  const net = new Net(raster, seeds, trends);
  for (const [level, side] of sides.entries()) {
    const asked = side === 1 ? candidates : lowestPerSquare(raster, side);
    if (side === 1) {
      const more = evenLandFrom(raster, isCorner, options.even);
      for (const i of more) isCorner[i] = 1;
      net.take(more);
    }
    for (let round = 0; round < MOST_ROUNDS; round++) {
      checkCancelled(signal);
      const taken = net.passing(asked, options, side);
      if (taken.length === 0) break;
      const isLast = taken.length <= FEW * net.corners;
      for (const i of taken) isCorner[i] = 1;
      net.take(taken);
      if (isLast) break;
      progress((level + (round + 1) / MOST_ROUNDS) / sides.length);
    }
  }
  progress(1);
  return { heights: net.sampled(), isCorner };
}

/** The lowest of the cells' points in each square of `side` cells. */
function lowestPerSquare({ lowest, columns, rows }: LowestRaster, side: number): number[] {
  const found: number[] = [];
  for (let top = 0; top < rows; top += side)
    for (let left = 0; left < columns; left += side) {
      let best = -1;
      for (let row = top; row < Math.min(rows, top + side); row++)
        for (let column = left; column < Math.min(columns, left + side); column++) {
          const i = row * columns + column;
          if (lowest[i] !== Infinity && (best < 0 || lowest[i]! < lowest[best]!)) best = i;
        }
      if (best >= 0) found.push(best);
    }
  return found;
}

/** How the land rises about a seed, as tangents. */
type Trend = Pick<FittedPlane, 'east' | 'north'>;
const LEVEL: Trend = { east: 0, north: 0 };

/** Steepest trend of the land from square to square, as a tangent. */
const STEEPEST_TREND = 1;
/** Fewer squares tell no trend. */
const LEAST_IN_TREND = 6;

/**
 * The lowest of the cells' points in each square once the trend of the land about is taken out: the plane through the lowest points of the
 * squares about. On a hillside the lowest point as such lies at the lower side of its square, and where that is built over it is a roof,
 * which stands lower than the ground a street uphill.
 */
function seedsPerSquare(raster: LowestRaster, side: number): { seeds: number[]; trends: Map<number, Trend> } {
  const { lowest, columns, rows, cell } = raster;
  const first = lowestPerSquare(raster, side);
  const wide = Math.ceil(columns / side);
  const squareOf = (i: number): [number, number] => [Math.floor((i % columns) / side), Math.floor(Math.floor(i / columns) / side)]; // prettier-ignore
  const inSquare = new Map<number, number>();
  for (const i of first) {
    const [column, row] = squareOf(i);
    inSquare.set(row * wide + column, i);
  }
  const sums = new PlaneSums();
  /** The plane through the lowest points of the squares about one, as far as `reach` squares. */
  const trendAbout = (own: number, reach: number): FittedPlane | undefined => {
    const [column, row] = squareOf(own);
    sums.clear();
    for (let r = row - reach; r <= row + reach; r++)
      for (let c = Math.max(0, column - reach); c <= Math.min(wide - 1, column + reach); c++) {
        const i = inSquare.get(r * wide + c);
        if (i === undefined) continue;
        const east = ((i % columns) - (own % columns)) * cell;
        const north = (Math.floor(i / columns) - Math.floor(own / columns)) * cell;
        sums.add(east, north, lowest[i]! - lowest[own]!);
      }
    return sums.count < LEAST_IN_TREND ? undefined : sums.plane(0.01 * (side * cell) ** 4);
  };
  const trends = new Map<number, Trend>();
  const seeds = first.map((own) => {
    const [column, row] = squareOf(own);
    const plane = trendAbout(own, 1) ?? trendAbout(own, 2);
    if (!plane || Math.hypot(plane.east, plane.north) > STEEPEST_TREND) return own;
    let [best, least] = [own, Infinity];
    for (let r = row * side; r < Math.min(rows, (row + 1) * side); r++)
      for (let c = column * side; c < Math.min(columns, (column + 1) * side); c++) {
        const i = r * columns + c;
        if (lowest[i] === Infinity) continue;
        const over = lowest[i]! - plane.east * c * cell - plane.north * r * cell;
        if (over < least) [best, least] = [i, over];
      }
    trends.set(best, plane);
    return best;
  });
  return { seeds, trends };
}

type Place = readonly [east: number, north: number];

/** Places on the four sides beyond the raster. */
function rimAround({ columns, rows, cell }: LowestRaster): Place[] {
  const [width, height] = [columns * cell, rows * cell];
  const out = 4 * cell;
  const pieces = 8;
  return Array.from({ length: pieces }, (_, k) => k / pieces).flatMap((t): Place[] => [
    [-out + t * (width + 2 * out), -out],
    [width + out, -out + t * (height + 2 * out)],
    [width + out - t * (width + 2 * out), height + out],
    [-out, height + out - t * (height + 2 * out)],
  ]);
}

/**
 * A TIN over the points of some cells, reaching a little beyond the raster on all sides. Each place of that rim is as high as the corner
 * nearest to it, so that land which rises or falls towards the edge goes on level there, and not down to the seed it was reached from.
 */
class Net {
  private readonly tin: GrowingTin;
  /** Elevation of each vertex; the first ones are the rim's. */
  private z: Float64Array;
  /** Facet under the point of each cell (under its centre where it is empty). */
  private readonly facetOf: Int32Array;
  /** How far the nearest corner is from each place of the rim, squared. */
  private readonly nearest: Float64Array;

  constructor(
    private readonly raster: LowestRaster,
    seeds: readonly number[],
    trends: ReadonlyMap<number, Trend>,
  ) {
    const { columns, rows } = raster;
    const rim = rimAround(raster);
    this.nearest = new Float64Array(rim.length).fill(Infinity);
    this.tin = new GrowingTin(
      Float64Array.from([...rim, ...seeds.map((i): Place => [this.eastOf(i), this.northOf(i)])].flat()),
    );
    this.z = new Float64Array(this.tin.count);
    seeds.forEach((i, k) => this.lift(rim.length + k, i, trends.get(i)));
    this.facetOf = new Int32Array(columns * rows).fill(-1);
    for (let f = 0; f < this.tin.facets; f++) this.enter(f);
  }

  /** Points it stands on, without those of the rim. */
  get corners(): number {
    return this.tin.count - this.nearest.length;
  }

  /** Takes in the points of more cells. */
  take(cells: readonly number[]): void {
    const { tin } = this;
    tin.reserve(cells.length);
    if (tin.x.length > this.z.length) {
      const z = new Float64Array(tin.x.length);
      z.set(this.z);
      this.z = z;
    }
    tin.beginRound();
    for (const i of cells) {
      const before = tin.count;
      const vertex = tin.add(this.eastOf(i), this.northOf(i), this.facetOf[i]!);
      if (vertex === before) this.lift(vertex, i);
    }
    // In the order of their numbers: on an edge between two the later one is asked.
    for (const f of Int32Array.from(tin.changedFacets).sort()) this.enter(f);
  }

  /** Gives a vertex the elevation of its cell's point, and with it the places of the rim that it is the nearest to. */
  private lift(vertex: number, i: number, trend = LEVEL): void {
    const { nearest, z, tin } = this;
    z[vertex] = this.raster.lowest[i]!;
    for (let k = 0; k < nearest.length; k++) {
      const d = (tin.x[k]! - tin.x[vertex]!) ** 2 + (tin.y[k]! - tin.y[vertex]!) ** 2;
      if (d >= nearest[k]!) continue;
      nearest[k] = d;
      // Along the rim the land goes on as it does about the seed; outwards it is level.
      const side = k % 4;
      z[k] = z[vertex]! + (side % 2 === 0 ? trend.east * (tin.x[k]! - tin.x[vertex]!) : trend.north * (tin.y[k]! - tin.y[vertex]!)); // prettier-ignore
    }
  }

  private eastOf(i: number): number {
    return ((i % this.raster.columns) + 0.5) * this.raster.cell + this.raster.fromCentreEast[i]!;
  }

  private northOf(i: number): number {
    return (Math.floor(i / this.raster.columns) + 0.5) * this.raster.cell + this.raster.fromCentreNorth[i]!;
  }

  /** Enters a facet in the cells whose point lies in it. */
  private enter(f: number): void {
    const { columns, rows, cell, fromCentreEast, fromCentreNorth } = this.raster;
    const { x, y, vertices: t } = this.tin;
    const facetOf = this.facetOf;
    const [a, b, c] = [t[3 * f]!, t[3 * f + 1]!, t[3 * f + 2]!];
    const ax = x[a]!;
    const ay = y[a]!;
    const bx = x[b]! - ax;
    const by = y[b]! - ay;
    const cx = x[c]! - ax;
    const cy = y[c]! - ay;
    const area = bx * cy - by * cx;
    if (area === 0) return;
    const firstColumn = Math.max(0, Math.floor((ax + Math.min(0, bx, cx)) / cell));
    const lastColumn = Math.min(columns - 1, Math.floor((ax + Math.max(0, bx, cx)) / cell));
    const firstRow = Math.max(0, Math.floor((ay + Math.min(0, by, cy)) / cell));
    const lastRow = Math.min(rows - 1, Math.floor((ay + Math.max(0, by, cy)) / cell));
    for (let row = firstRow; row <= lastRow; row++)
      for (let column = firstColumn; column <= lastColumn; column++) {
        const i = row * columns + column;
        const px = (column + 0.5) * cell + fromCentreEast[i]! - ax;
        const py = (row + 0.5) * cell + fromCentreNorth[i]! - ay;
        const wb = (px * cy - py * cx) / area;
        const wc = (bx * py - by * px) / area;
        if (wb >= -1e-9 && wc >= -1e-9 && wb + wc <= 1 + 1e-9) facetOf[i] = f;
      }
  }

  /** Cells among those asked whose point passes; `side` cells wide are the squares they are the lowest of. */
  passing(asked: readonly number[], options: DensifyOptions, side: number): number[] {
    const { x, y, vertices: t } = this.tin;
    const { z } = this;
    const { distance, shortSide } = options;
    const tangent = Math.tan((options.angleDegrees * Math.PI) / 180);
    const reach = REACH * side * this.raster.cell;
    return asked.filter((i) => {
      const f = this.facetOf[i]!;
      if (f < 0) return false;
      const px = this.eastOf(i);
      const py = this.northOf(i);
      const pz = this.raster.lowest[i]!;
      let near = Infinity;
      let longest = 0;
      for (let k = 0; k < 3; k++) {
        const v = t[3 * f + k]!;
        const w = t[3 * f + ((k + 1) % 3)]!;
        near = Math.min(near, (x[v]! - px) ** 2 + (y[v]! - py) ** 2);
        longest = Math.max(longest, (x[v]! - x[w]!) ** 2 + (y[v]! - y[w]!) ** 2);
      }
      if (near < 1e-18) return false; // it is a corner already
      // The angle is largest at the nearest corner.
      const allowed = tangent * Math.min(1, Math.sqrt(longest) / shortSide);
      const lever = Math.min(Math.sqrt(near), reach);
      const most = Math.min(distance, allowed * lever);
      const over = this.heightOver(f, px, py, pz);
      if (over > 0 ? over <= most : -over <= Math.min(DEEPER_BELOW * distance, STEEPER_BELOW * tangent * lever))
        return true;
      // Mirrored at a corner: the brink of a step lies as its plateau does. A slope is not drawn out upwards: that leads onto roofs.
      for (let k = 0; k < 3; k++) {
        const v = t[3 * f + k]!;
        const mx = 2 * x[v]! - px;
        const my = 2 * y[v]! - py;
        const away = Math.sqrt((x[v]! - px) ** 2 + (y[v]! - py) ** 2);
        if (Math.abs(pz - z[v]!) > PLATEAU * away) continue;
        const g = this.facetAt(mx, my);
        if (g >= 0 && g !== f && Math.abs(this.heightOver(g, mx, my, 2 * z[v]! - pz)) <= most) return true;
      }
      return false;
    });
  }

  /** The facet over a place, which need not be the one under its cell's point; -1 beyond the raster. */
  private facetAt(px: number, py: number): number {
    const { columns, rows, cell } = this.raster;
    const [column, row] = [Math.floor(px / cell), Math.floor(py / cell)];
    if (column < 0 || row < 0 || column >= columns || row >= rows) return -1;
    const near = this.facetOf[row * columns + column]!;
    return near < 0 ? -1 : this.tin.facetAt(px, py, near);
  }

  /** Distance from the facet's plane, upwards. */
  private heightOver(f: number, px: number, py: number, pz: number): number {
    const { x, y, vertices: t } = this.tin;
    const { z } = this;
    const [a, b, c] = [t[3 * f]!, t[3 * f + 1]!, t[3 * f + 2]!];
    const ux = x[b]! - x[a]!;
    const uy = y[b]! - y[a]!;
    const uz = z[b]! - z[a]!;
    const vx = x[c]! - x[a]!;
    const vy = y[c]! - y[a]!;
    const vz = z[c]! - z[a]!;
    const nx = uy * vz - uz * vy;
    const ny = uz * vx - ux * vz;
    const nz = ux * vy - uy * vx;
    return ((px - x[a]!) * nx + (py - y[a]!) * ny + (pz - z[a]!) * nz) / Math.sqrt(nx * nx + ny * ny + nz * nz);
  }

  /** Elevations at the cells' centres. */
  sampled(): Float64Array {
    const { columns, rows, cell } = this.raster;
    const { x, y, vertices: t, facets } = this.tin;
    const { z } = this;
    const out = new Float64Array(columns * rows);
    for (let f = 0; f < facets; f++) {
      const [a, b, c] = [t[3 * f]!, t[3 * f + 1]!, t[3 * f + 2]!];
      const area = (x[b]! - x[a]!) * (y[c]! - y[a]!) - (y[b]! - y[a]!) * (x[c]! - x[a]!);
      if (area === 0) continue;
      const firstColumn = Math.max(0, Math.ceil(Math.min(x[a]!, x[b]!, x[c]!) / cell - 0.5));
      const lastColumn = Math.min(columns - 1, Math.floor(Math.max(x[a]!, x[b]!, x[c]!) / cell - 0.5));
      const firstRow = Math.max(0, Math.ceil(Math.min(y[a]!, y[b]!, y[c]!) / cell - 0.5));
      const lastRow = Math.min(rows - 1, Math.floor(Math.max(y[a]!, y[b]!, y[c]!) / cell - 0.5));
      for (let row = firstRow; row <= lastRow; row++)
        for (let column = firstColumn; column <= lastColumn; column++) {
          const px = (column + 0.5) * cell - x[a]!;
          const py = (row + 0.5) * cell - y[a]!;
          const wb = (px * (y[c]! - y[a]!) - py * (x[c]! - x[a]!)) / area;
          const wc = ((x[b]! - x[a]!) * py - (y[b]! - y[a]!) * px) / area;
          if (wb < -1e-9 || wc < -1e-9 || wb + wc > 1 + 1e-9) continue;
          out[row * columns + column] = z[a]! + (z[b]! - z[a]!) * wb + (z[c]! - z[a]!) * wc;
        }
    }
    return out;
  }
}
