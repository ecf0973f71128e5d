import Delaunator from 'delaunator';
import { TerrainError } from './terrain-error.js';

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
}

export interface TinOptions {
  /** Facets with a longer side are left out, so that no false ground bridges a gap; 0 keeps all. Job units, in plan. */
  readonly longestSide: number;
}

export const tinDefaults: TinOptions = { longestSide: 0 };

export interface TinReport {
  /** Points that shared their place with another; the lowest of them was kept. */
  readonly duplicatesDropped: number;
  readonly facetsLeftOut: number;
}

/**
 * Delaunay triangulation of n points in plan, by `delaunator` (sweep-hull with robust predicates), about a local origin.
 * Of points at one place the lowest is kept; points keep their order otherwise.
 * @param easting - coordinates in full, job units; likewise `northing`, `elevation`
 * @throws TerrainError `too-few-points`, `points-in-line`, `coordinate-not-finite`
 */
export function triangulate(
  easting: Float64Array,
  northing: Float64Array,
  elevation: Float64Array,
  options: TinOptions = tinDefaults,
): { tin: Tin; report: TinReport } {
  const origin = localOrigin(easting, northing, elevation);
  const kept = distinctPoints(easting, northing, elevation);
  const count = kept.length;
  if (count < 3) {
    throw new TerrainError('too-few-points', {
      what: `A surface needs three points at different places; there ${count === 1 ? 'is' : 'are'} ${count}.`,
      mend: 'Classify ground first, or choose more classes.',
    });
  }
  const coords = new Float64Array(2 * count);
  const heights = new Float64Array(count);
  for (let k = 0; k < count; k++) {
    const i = kept[k]!;
    coords[2 * k] = easting[i]! - origin[0];
    coords[2 * k + 1] = northing[i]! - origin[1];
    heights[k] = elevation[i]!;
  }
  const { triangles, halfedges } = new Delaunator(coords);
  if (triangles.length === 0) {
    throw new TerrainError('points-in-line', {
      what: `All ${count} points lie in one straight line, which bounds no surface.`,
      mend: 'Add points to either side of the line.',
    });
  }
  const e = new Float64Array(count);
  const n = new Float64Array(count);
  for (let k = 0; k < count; k++) {
    e[k] = coords[2 * k]!;
    n[k] = coords[2 * k + 1]!;
  }
  const { facets, twins, leftOut } = keepFacets(triangles, halfedges, e, n, options.longestSide);
  return {
    tin: { origin, easting: e, northing: n, elevation: heights, facets, twins },
    report: { duplicatesDropped: easting.length - count, facetsLeftOut: leftOut },
  };
}

function localOrigin(easting: Float64Array, northing: Float64Array, elevation: Float64Array): [number, number] {
  let minE = Infinity;
  let minN = Infinity;
  for (let i = 0; i < easting.length; i++) {
    if (!Number.isFinite(easting[i]! + northing[i]! + elevation[i]!)) {
      throw new TerrainError('coordinate-not-finite', {
        what: `Point ${i} has the coordinates ${easting[i]}, ${northing[i]}, ${elevation[i]}.`,
        mend: 'Remove the point or mend its coordinates.',
      });
    }
    if (easting[i]! < minE) minE = easting[i]!;
    if (northing[i]! < minN) minN = northing[i]!;
  }
  return easting.length === 0 ? [0, 0] : [Math.floor(minE), Math.floor(minN)];
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
  return Uint32Array.from(table.filter((i) => i >= 0)).sort();
}

/** Turns the library's clockwise triangles counter-clockwise and drops those with a side over the limit. */
function keepFacets(
  triangles: Uint32Array,
  halfedges: Int32Array,
  easting: Float64Array,
  northing: Float64Array,
  longestSide: number,
): { facets: Uint32Array; twins: Int32Array; leftOut: number } {
  const all = triangles.length / 3;
  const limit = longestSide > 0 ? longestSide * longestSide : Infinity;
  const newIndex = new Int32Array(all).fill(-1);
  let keptFacets = 0;
  for (let f = 0; f < all; f++) {
    let longest = 0;
    for (let k = 0; k < 3; k++) {
      const a = triangles[3 * f + k]!;
      const b = triangles[3 * f + ((k + 1) % 3)]!;
      longest = Math.max(longest, (easting[a]! - easting[b]!) ** 2 + (northing[a]! - northing[b]!) ** 2);
    }
    if (longest <= limit) newIndex[f] = keptFacets++;
  }
  const facets = new Uint32Array(3 * keptFacets);
  const twins = new Int32Array(3 * keptFacets);
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
      const neighbour = twin < 0 ? -1 : newIndex[(twin / 3) | 0]!;
      twins[3 * to + turned[k as 0 | 1 | 2]] = neighbour < 0 ? -1 : 3 * neighbour + turned[(twin % 3) as 0 | 1 | 2];
    }
  }
  return { facets, twins, leftOut: all - keptFacets };
}
