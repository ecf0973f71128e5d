import Delaunator from 'delaunator';
import { Constrainer, type Mesh } from './constrain.js';
import { nextSide } from './half-edges.js';
import { spatialOrder } from './spatial-order.js';
import { TerrainError } from './terrain-error.js';
import {
  Areas,
  lineDefaults,
  nearEdges,
  nodeLines,
  type Crossing,
  type LineOptions,
  type NodedLines,
  type TerrainLine,
} from './terrain-lines.js';

/**
 * A triangulated irregular network about a local origin. Facet f has corners `facets[3f … 3f+2]`, counter-clockwise seen
 * from above; half-edge 3f+k runs from its corner k to the next, and `twins[3f+k]` is the same side in the neighbouring
 * facet, −1 at the rim.
 */
export interface Tin {
  /** Easting and northing of (0, 0); whole numbers, so that adding them back is exact to a nanometre. */
  readonly origin: readonly [number, number];
  readonly easting: Float64Array;
  readonly northing: Float64Array;
  readonly elevation: Float64Array;
  readonly facets: Uint32Array;
  readonly twins: Int32Array;
  /** 1 for half-edges that lie on a line at which the slope breaks; undefined where there are no lines. */
  readonly held?: Uint8Array;
}

export interface TinOptions {
  /** Facets with a longer edge are left out, so that no false ground bridges a gap, but for level water; 0 keeps all. Job units, in plan. */
  readonly maximumEdge: number;
  /** Facets at the boundary edge with a smaller angle are taken off, one after the other; degrees, 0 keeps all. */
  readonly minimumAngle?: number;
  readonly lines?: LineOptions;
  /** Where there is a surface at all, told by the middles of facets; everywhere where left out. */
  readonly covers?: (easting: number, northing: number) => boolean;
}

export const tinDefaults: TinOptions = { maximumEdge: 0 };

export interface TinReport {
  /** Points that shared their place with another; the lowest of them was kept. */
  readonly duplicatesDropped: number;
  readonly facetsLeftOut: number;
  /** Of lines: edges that became sides of facets, those that could not, points left out beside them, crossings that disagree. */
  readonly edgesHeld: number;
  readonly edgesNotHeld: number;
  readonly pointsNearLines: number;
  readonly crossings: readonly Crossing[];
}

/**
 * Delaunay triangulation of n points in plan, by `delaunator` (sweep-hull with robust predicates), about a local origin, with
 * lines as sides of facets. Of points at one
 * place the lowest is kept; corners of lines come last.
 * @param easting - coordinates in full, job units; likewise `northing`, `elevation`
 * @throws TerrainError `too-few-points`, `points-in-line`, `coordinate-not-finite`
 */
export function triangulate(
  easting: Float64Array,
  northing: Float64Array,
  elevation: Float64Array,
  options: TinOptions = tinDefaults,
  lines: readonly TerrainLine[] = [],
): { tin: Tin; report: TinReport } {
  const areas = new Areas(lines);
  const lineOptions = options.lines ?? lineDefaults;
  const noded = nodeLines(lines, lineOptions);
  const origin = localOrigin(easting, northing, elevation);
  for (let c = 0; c < noded.easting.length; c++) {
    origin[0] = Math.min(origin[0], Math.floor(noded.easting[c]!));
    origin[1] = Math.min(origin[1], Math.floor(noded.northing[c]!));
  }
  const beside = nearEdges(noded, easting, northing, lineOptions.offset);
  if (areas.hasWater)
    for (let i = 0; i < beside.length; i++) if (areas.isWater(easting[i]!, northing[i]!)) beside[i] = 1;
  const pointsNearLines = beside.reduce((sum, bit) => sum + bit, 0);
  const kept = spatialOrder(
    distinctPoints(easting, northing, elevation).filter((i) => beside[i] === 0),
    easting,
    northing,
  );
  const corners = noded.easting.length;
  const count = kept.length + corners;
  if (count < 3) {
    throw new TerrainError('too-few-points', {
      what: `A surface needs three points at different places; there ${count === 1 ? 'is' : 'are'} ${count}.`,
      fix: 'Classify ground first, or choose more classes.',
    });
  }
  const coords = new Float64Array(2 * count);
  const heights = new Float64Array(count);
  for (let k = 0; k < kept.length; k++) {
    const i = kept[k]!;
    coords[2 * k] = easting[i]! - origin[0];
    coords[2 * k + 1] = northing[i]! - origin[1];
    heights[k] = elevation[i]!;
  }
  for (let c = 0; c < corners; c++) {
    coords[2 * (kept.length + c)] = noded.easting[c]! - origin[0];
    coords[2 * (kept.length + c) + 1] = noded.northing[c]! - origin[1];
    heights[kept.length + c] = noded.elevation[c]!;
  }
  const delaunay = new Delaunator(coords);
  const { triangles, halfedges } = delaunay;
  if (triangles.length === 0) {
    throw new TerrainError('points-in-line', {
      what: `All ${count} points lie in one straight line, which bounds no surface.`,
      fix: 'Add points to either side of the line.',
    });
  }
  const e = new Float64Array(count);
  const n = new Float64Array(count);
  for (let k = 0; k < count; k++) {
    e[k] = coords[2 * k]!;
    n[k] = coords[2 * k + 1]!;
  }
  giveHeights(heights, triangles, e, n);
  const { held, isFixed } = constrain(delaunay, e, n, noded, kept.length);
  const { covers } = options;
  const isCovered =
    areas.limitSurface || covers
      ? (x: number, y: number): boolean =>
          (!areas.limitSurface || areas.isCovered(x + origin[0], y + origin[1])) &&
          (covers?.(x + origin[0], y + origin[1]) ?? true)
      : undefined;
  const isWater = areas.hasWater
    ? (x: number, y: number): boolean => areas.isWater(x + origin[0], y + origin[1])
    : undefined;
  const { facets, twins, fixed, leftOut } = keepFacets(
    triangles,
    halfedges,
    e,
    n,
    options,
    isFixed,
    isCovered,
    isWater,
  );
  return {
    tin: { origin, easting: e, northing: n, elevation: heights, facets, twins, ...(fixed && { held: fixed }) },
    report: {
      duplicatesDropped: easting.length - pointsNearLines - kept.length,
      facetsLeftOut: leftOut,
      edgesHeld: held,
      edgesNotHeld: noded.edges.length / 2 - held,
      pointsNearLines,
      crossings: noded.crossings,
    },
  };
}

/** Makes the lines' edges sides of facets; gives how many could be. */
function constrain(
  delaunay: Mesh,
  e: Float64Array,
  n: Float64Array,
  { edges, isSoft }: NodedLines,
  first: number,
): { held: number; isFixed?: Uint8Array } {
  if (edges.length === 0) return { held: 0 };
  const constrainer = new Constrainer(delaunay, e, n);
  let held = 0;
  for (let k = 0; k < edges.length; k += 2) if (constrainer.hold(first + edges[k]!, first + edges[k + 1]!)) held++;
  if (!isSoft.includes(1)) return { held, isFixed: constrainer.isFixed };
  // Sides along soft lines are there, but the slope does not break at them.
  const soft = new Set<number>();
  isSoft.forEach((is, k) => {
    const [p, q] = [first + edges[2 * k]!, first + edges[2 * k + 1]!];
    if (is === 1) soft.add(Math.min(p, q) * e.length + Math.max(p, q));
  });
  const isFixed = constrainer.isFixed.map((is, h) => {
    const [p, q] = [delaunay.triangles[h]!, delaunay.triangles[nextSide(h)]!];
    return is === 1 && !soft.has(Math.min(p, q) * e.length + Math.max(p, q)) ? 1 : 0;
  });
  return { held, isFixed };
}

/** Corners without an elevation of their own get the mean of their neighbours', nearer ones counting more, from the rim inwards. */
function giveHeights(heights: Float64Array, triangles: Uint32Array, e: Float64Array, n: Float64Array): void {
  if (!heights.some(Number.isNaN)) return;
  for (let round = 0; round < 1000; round++) {
    const sum = new Map<number, [number, number]>();
    for (let h = 0; h < triangles.length; h++) {
      const a = triangles[h]!;
      const b = triangles[nextSide(h)]!;
      for (const [to, from] of [
        [a, b],
        [b, a],
      ] as const) {
        if (!Number.isNaN(heights[to]!) || Number.isNaN(heights[from]!)) continue;
        const weight = 1 / Math.max(1e-9, (e[to]! - e[from]!) ** 2 + (n[to]! - n[from]!) ** 2);
        const held = sum.get(to) ?? [0, 0];
        sum.set(to, [held[0] + weight * heights[from]!, held[1] + weight]);
      }
    }
    if (sum.size === 0) break;
    for (const [corner, [total, weight]] of sum) heights[corner] = total / weight;
  }
  for (let k = 0; k < heights.length; k++) if (Number.isNaN(heights[k]!)) heights[k] = 0;
}

function localOrigin(easting: Float64Array, northing: Float64Array, elevation: Float64Array): [number, number] {
  let minE = Infinity;
  let minN = Infinity;
  for (let i = 0; i < easting.length; i++) {
    if (!Number.isFinite(easting[i]! + northing[i]! + elevation[i]!)) {
      throw new TerrainError('coordinate-not-finite', {
        what: `Point ${i} has the coordinates ${easting[i]}, ${northing[i]}, ${elevation[i]}.`,
        fix: 'Remove the point or fix its coordinates.',
      });
    }
    if (easting[i]! < minE) minE = easting[i]!;
    if (northing[i]! < minN) minN = northing[i]!;
  }
  return [Math.floor(minE), Math.floor(minN)]; // infinite without points: lines then say it
}

/** Indices of one point a place, the lowest, in ascending order. */
function distinctPoints(easting: Float64Array, northing: Float64Array, elevation: Float64Array): Uint32Array {
  const count = easting.length;
  // An open-addressing table of point indices; twice the points rounded up to a power of two keeps it at most half full.
  const size = 2 ** Math.ceil(Math.log2(Math.max(4, count * 2)));
  const table = new Int32Array(size).fill(-1);
  const keyWords = new Int32Array(4);
  const keyFloats = new Float64Array(keyWords.buffer);
  for (let i = 0; i < count; i++) {
    keyFloats[0] = easting[i]! + 0; // -0 and 0 are one place
    keyFloats[1] = northing[i]! + 0;
    let hash = Math.imul(keyWords[0]! ^ Math.imul(keyWords[1]!, 0x85ebca6b), 0x9e3779b1);
    hash ^= Math.imul(keyWords[2]! ^ Math.imul(keyWords[3]!, 0xc2b2ae35), 0x27d4eb2f);
    hash ^= hash >>> 15;
    let slot = (hash >>> 0) & (size - 1);
    for (;;) {
      const held = table[slot]!;
      if (held === -1) {
        table[slot] = i;
        break;
      }
      if (easting[held] === easting[i] && northing[held] === northing[i]) {
        if (elevation[i]! < elevation[held]!) table[slot] = i;
        break;
      }
      slot = (slot + 1) & (size - 1);
    }
  }
  return Uint32Array.from(table.filter((i) => i >= 0));
}

/**
 * Turns the library's clockwise triangles counter-clockwise and drops those with an edge over the limit, those outside the
 * boundary, and from the boundary edges inwards those with too small an angle.
 */
function keepFacets(
  triangles: Uint32Array,
  halfedges: Int32Array,
  easting: Float64Array,
  northing: Float64Array,
  { maximumEdge, minimumAngle = 0 }: TinOptions,
  isFixed: Uint8Array | undefined,
  isCovered: ((x: number, y: number) => boolean) | undefined,
  isWater: ((x: number, y: number) => boolean) | undefined,
): { facets: Uint32Array; twins: Int32Array; fixed: Uint8Array | undefined; leftOut: number } {
  const all = triangles.length / 3;
  const limit = maximumEdge > 0 ? maximumEdge * maximumEdge : Infinity;
  const isKept = new Uint8Array(all);
  for (let f = 0; f < all; f++) {
    let longest = 0;
    for (let k = 0; k < 3; k++) {
      const a = triangles[3 * f + k]!;
      const b = triangles[3 * f + ((k + 1) % 3)]!;
      longest = Math.max(longest, (easting[a]! - easting[b]!) ** 2 + (northing[a]! - northing[b]!) ** 2);
    }
    const middle = (of: Float64Array): number =>
      (of[triangles[3 * f]!]! + of[triangles[3 * f + 1]!]! + of[triangles[3 * f + 2]!]!) / 3;
    // Within its outline water is level however wide it is: a long edge there bridges nothing.
    if (longest > limit && !isWater?.(middle(easting), middle(northing))) continue;
    if (isCovered && !isCovered(middle(easting), middle(northing))) continue;
    isKept[f] = 1;
  }
  if (minimumAngle > 0) trimBoundary(triangles, halfedges, easting, northing, isKept, minimumAngle);
  const newIndex = new Int32Array(all).fill(-1);
  let keptFacets = 0;
  for (let f = 0; f < all; f++) if (isKept[f] === 1) newIndex[f] = keptFacets++;
  const facets = new Uint32Array(3 * keptFacets);
  const twins = new Int32Array(3 * keptFacets);
  const fixed = isFixed && new Uint8Array(3 * keptFacets);
  // Clockwise a b c becomes a c b: sides ab, bc, ca turn into positions 2, 1, 0.
  const turned = [2, 1, 0] as const;
  for (let f = 0; f < all; f++) {
    const to = newIndex[f]!;
    if (to < 0) continue;
    facets[3 * to] = triangles[3 * f]!;
    facets[3 * to + 1] = triangles[3 * f + 2]!;
    facets[3 * to + 2] = triangles[3 * f + 1]!;
    for (let k = 0; k < 3; k++) {
      const twin = halfedges[3 * f + k]!;
      if (fixed) fixed[3 * to + turned[k as 0 | 1 | 2]] = isFixed![3 * f + k]!;
      const neighbour = twin < 0 ? -1 : newIndex[(twin / 3) | 0]!;
      twins[3 * to + turned[k as 0 | 1 | 2]] = neighbour < 0 ? -1 : 3 * neighbour + turned[(twin % 3) as 0 | 1 | 2];
    }
  }
  return { facets, twins, fixed, leftOut: all - keptFacets };
}

/** Slivers at the boundary edge lean over bays and say nothing; one behind another they go as long as there are some. */
function trimBoundary(
  triangles: Uint32Array,
  halfedges: Int32Array,
  e: Float64Array,
  n: Float64Array,
  isKept: Uint8Array,
  minimumAngle: number,
): void {
  const least = Math.sin((minimumAngle * Math.PI) / 180);
  const isBoundary = (side: number): boolean => {
    const twin = halfedges[side]!;
    return twin < 0 || isKept[(twin / 3) | 0] === 0;
  };
  const queue: number[] = [];
  for (let side = 0; side < triangles.length; side++)
    if (isKept[(side / 3) | 0] === 1 && isBoundary(side)) queue.push((side / 3) | 0);
  while (queue.length > 0) {
    const f = queue.pop()!;
    if (isKept[f] === 0) continue;
    // Small at the boundary: the angle opposite a boundary edge is wide in a sliver, its two others are small.
    const corner = (k: number): number => triangles[3 * f + (k % 3)]!;
    let smallest = Infinity;
    for (let k = 0; k < 3; k++) {
      const [a, b, c] = [corner(k), corner(k + 1), corner(k + 2)];
      const [ux, uy, vx, vy] = [e[b]! - e[a]!, n[b]! - n[a]!, e[c]! - e[a]!, n[c]! - n[a]!];
      const sine = Math.abs(ux * vy - uy * vx) / (Math.hypot(ux, uy) * Math.hypot(vx, vy));
      smallest = Math.min(smallest, ux * vx + uy * vy < 0 ? 1 : sine);
    }
    if (smallest >= least) continue;
    isKept[f] = 0;
    for (let k = 0; k < 3; k++) {
      const twin = halfedges[3 * f + k]!;
      if (twin >= 0) queue.push((twin / 3) | 0);
    }
  }
}
