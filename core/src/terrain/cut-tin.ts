import { columnFrom } from '../columns/index.js';
import type { PlanBounds } from '../raster/index.js';
import { nextSide } from './half-edges.js';
import { TerrainError } from './terrain-error.js';
import type { Tin } from './tin.js';

/** A mesh on its way through the cuts: corners grow, facets come anew with every cut. */
interface Cutting {
  readonly easting: number[];
  readonly northing: number[];
  readonly elevation: number[];
  facets: Uint32Array;
  held: Uint8Array | undefined;
}

/**
 * What of a surface lies in a rectangle, its triangles cut along the edges. New corners lie on the edges to the last digit; where they
 * are, and how high, follows from the two ends of the side that was cut alone, so that two surfaces with the same triangles across an
 * edge, cut from either side, have the same corners on it.
 * @param land - full coordinates
 * @throws TerrainError `too-few-points` where nothing is left
 */
export function cutTin(tin: Tin, land: PlanBounds): Tin {
  const { origin } = tin;
  const mesh: Cutting = {
    easting: Array.from(tin.easting),
    northing: Array.from(tin.northing),
    elevation: Array.from(tin.elevation),
    facets: tin.facets,
    held: tin.held,
  };
  cutBeyond(mesh, mesh.easting, mesh.northing, land.west - origin[0], 1);
  cutBeyond(mesh, mesh.easting, mesh.northing, land.east - origin[0], -1);
  cutBeyond(mesh, mesh.northing, mesh.easting, land.south - origin[1], 1);
  cutBeyond(mesh, mesh.northing, mesh.easting, land.north - origin[1], -1);
  if (mesh.facets.length === 0)
    throw new TerrainError('too-few-points', {
      what: 'No part of the surface lies in the square of this job.',
      fix: 'There is no ground in it: leave the square out.',
    });
  return withoutLooseCorners(origin, mesh);
}

/**
 * Cuts away what lies beyond a line along one axis.
 * @param across - coordinate that the line is a value of; `along` is the other
 * @param inside - 1 where what is larger stays, −1 where what is smaller does
 */
function cutBeyond(mesh: Cutting, across: number[], along: number[], line: number, inside: 1 | -1): void {
  const { elevation, facets: given, held: marks } = mesh;
  const before = across.length;
  const isIn = (i: number): boolean => (across[i]! - line) * inside >= 0;
  const made = new Map<number, number>();
  /** The corner where a side crosses the line, the same for both of its facets. */
  const crossing = (i: number, j: number): number => {
    // From the lower end in the coordinate that is cut, whichever facet asks and on whichever side of the line the surface stays.
    const [a, b] = across[i]! < across[j]! ? [i, j] : [j, i];
    const key = Math.min(i, j) * before + Math.max(i, j);
    const known = made.get(key);
    if (known !== undefined) return known;
    const share = (line - across[a]!) / (across[b]! - across[a]!);
    const at = across.length;
    across.push(line);
    along.push(along[a]! + share * (along[b]! - along[a]!));
    elevation.push(elevation[a]! + share * (elevation[b]! - elevation[a]!));
    made.set(key, at);
    return at;
  };
  // A facet that is cut leaves two at most.
  let most = 0;
  for (let f = 0; f < given.length; f += 3) {
    const within = Number(isIn(given[f]!)) + Number(isIn(given[f + 1]!)) + Number(isIn(given[f + 2]!));
    most += within === 0 ? 0 : within === 3 ? 3 : 6;
  }
  const facets = new Uint32Array(most);
  const held = marks && new Uint8Array(most);
  let count = 0;
  const keep = (a: number, b: number, c: number, ab: number, bc: number, ca: number): void => {
    if (held) [held[count], held[count + 1], held[count + 2]] = [ab, bc, ca];
    facets[count++] = a;
    facets[count++] = b;
    facets[count++] = c;
  };
  const markOf = (h: number): number => marks?.[h] ?? 0;
  for (let f = 0; f < given.length; f += 3) {
    const [in0, in1, in2] = [isIn(given[f]!), isIn(given[f + 1]!), isIn(given[f + 2]!)];
    const within = Number(in0) + Number(in1) + Number(in2);
    if (within === 0) continue;
    if (within === 3) {
      keep(given[f]!, given[f + 1]!, given[f + 2]!, markOf(f), markOf(f + 1), markOf(f + 2));
      continue;
    }
    // Turned so that the corner alone on its side comes first.
    const isAlone = within === 1;
    const first = in0 === isAlone ? 0 : in1 === isAlone ? 1 : 2;
    const [h, next, last] = [f + first, f + ((first + 1) % 3), f + ((first + 2) % 3)];
    const [a, b, c] = [given[h]!, given[next]!, given[last]!];
    const [ab, bc, ca] = [markOf(h), markOf(next), markOf(last)];
    if (isAlone) {
      // A corner on the line alone is no land.
      if (across[a] === line) continue;
      keep(a, crossing(a, b), crossing(a, c), ab, 0, ca);
    } else {
      const onLine = (i: number): boolean => across[i] === line;
      if (onLine(b) && onLine(c)) continue;
      // Where a corner lies on the line the side to it is not cut: the rest is one facet.
      const p = onLine(b) ? b : crossing(a, b);
      const q = onLine(c) ? c : crossing(a, c);
      if (p !== b) keep(p, b, c, ab, bc, 0);
      if (q !== c) keep(p, c, q, p === b ? bc : 0, ca, 0);
    }
  }
  mesh.facets = facets.subarray(0, count);
  mesh.held = held?.subarray(0, count);
}

/** Corners that no facet has any more are left out, sides find their twins, and the local origin lies under what is left. */
function withoutLooseCorners([oe, on]: readonly [number, number], mesh: Cutting): Tin {
  const numberOf = new Int32Array(mesh.easting.length).fill(-1);
  let [west, south] = [Infinity, Infinity];
  for (let h = 0; h < mesh.facets.length; h++) {
    const corner = mesh.facets[h]!;
    numberOf[corner] = 0;
    west = Math.min(west, mesh.easting[corner]!);
    south = Math.min(south, mesh.northing[corner]!);
  }
  let corners = 0;
  const kept = new Uint32Array(numberOf.length);
  for (let i = 0; i < numberOf.length; i++)
    if (numberOf[i] === 0) {
      kept[corners] = i;
      numberOf[i] = corners++;
    }
  const own = kept.subarray(0, corners);
  const [shiftE, shiftN] = [Math.floor(west), Math.floor(south)];
  const facets = columnFrom(Uint32Array, mesh.facets, (corner) => numberOf[corner]!);
  return {
    origin: [oe + shiftE, on + shiftN],
    easting: columnFrom(Float64Array, own, (i) => mesh.easting[i]! - shiftE),
    northing: columnFrom(Float64Array, own, (i) => mesh.northing[i]! - shiftN),
    elevation: columnFrom(Float64Array, own, (i) => mesh.elevation[i]!),
    facets,
    twins: twinsOf(facets),
    ...(mesh.held && { held: mesh.held.slice() }),
  };
}

/** Each side's twin: the same two corners the other way round. */
function twinsOf(facets: Uint32Array): Int32Array {
  const twins = new Int32Array(facets.length).fill(-1);
  // Sides that wait for their twin, by open addressing, at most half full.
  const mask = 2 ** Math.ceil(Math.log2(Math.max(4, 2 * facets.length))) - 1;
  const slots = new Int32Array(mask + 1).fill(-1);
  const slotOf = (a: number, b: number): number => {
    let hash = Math.imul(a, 0x9e3779b1) ^ Math.imul(b, 0x85ebca6b);
    hash = (hash ^ (hash >>> 15)) & mask;
    for (let h = slots[hash]!; h >= 0; h = slots[hash]!) {
      if (facets[h] === a && facets[nextSide(h)] === b) break;
      hash = (hash + 1) & mask;
    }
    return hash;
  };
  for (let h = 0; h < facets.length; h++) {
    const [a, b] = [facets[h]!, facets[nextSide(h)]!];
    const twin = slots[slotOf(b, a)]!;
    if (twin < 0) slots[slotOf(a, b)] = h;
    else {
      twins[h] = twin;
      twins[twin] = h;
    }
  }
  return twins;
}
