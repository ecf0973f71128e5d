import type { PlanBounds } from '../raster/index.js';
import { nextSide } from './half-edges.js';
import { TerrainError } from './terrain-error.js';
import type { Tin } from './tin.js';

/** A mesh on its way through the cuts: corners grow, facets come anew with every cut. */
interface Cutting {
  readonly easting: number[];
  readonly northing: number[];
  readonly elevation: number[];
  facets: number[];
  held: number[];
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
    facets: Array.from(tin.facets),
    held: tin.held ? Array.from(tin.held) : [],
  };
  const hasHeld = tin.held !== undefined;
  cutBeyond(mesh, mesh.easting, mesh.northing, land.west - origin[0], 1, hasHeld);
  cutBeyond(mesh, mesh.easting, mesh.northing, land.east - origin[0], -1, hasHeld);
  cutBeyond(mesh, mesh.northing, mesh.easting, land.south - origin[1], 1, hasHeld);
  cutBeyond(mesh, mesh.northing, mesh.easting, land.north - origin[1], -1, hasHeld);
  if (mesh.facets.length === 0)
    throw new TerrainError('too-few-points', {
      what: 'No part of the surface lies in the square of this job.',
      fix: 'There is no ground in it: leave the square out.',
    });
  return withoutLooseCorners(origin, mesh, hasHeld);
}

/**
 * Cuts away what lies beyond a line along one axis.
 * @param across - coordinate that the line is a value of; `along` is the other
 * @param inside - 1 where what is larger stays, −1 where what is smaller does
 */
function cutBeyond(
  mesh: Cutting,
  across: number[],
  along: number[],
  line: number,
  inside: 1 | -1,
  hasHeld: boolean,
): void {
  const { elevation } = mesh;
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
  const facets: number[] = [];
  const held: number[] = [];
  const keep = (corners: readonly [number, number, number], marks: readonly [number, number, number]): void => {
    facets.push(...corners);
    if (hasHeld) held.push(...marks);
  };
  for (let f = 0; f < mesh.facets.length; f += 3) {
    const corners = [mesh.facets[f]!, mesh.facets[f + 1]!, mesh.facets[f + 2]!] as const;
    const markOf = (k: number): number => (hasHeld ? mesh.held[f + (k % 3)]! : 0);
    const within = corners.filter(isIn).length;
    if (within === 0) continue;
    if (within === 3) {
      keep(corners, [markOf(0), markOf(1), markOf(2)]);
      continue;
    }
    // Turned so that the corner alone on its side comes first.
    const alone = corners.findIndex((corner) => isIn(corner) === (within === 1));
    const [a, b, c] = [corners[alone]!, corners[(alone + 1) % 3]!, corners[(alone + 2) % 3]!];
    const [ab, bc, ca] = [markOf(alone), markOf(alone + 1), markOf(alone + 2)];
    if (within === 1) {
      // A corner on the line alone is no land.
      if (across[a] === line) continue;
      keep([a, crossing(a, b), crossing(a, c)], [ab, 0, ca]);
    } else {
      const onLine = (i: number): boolean => across[i] === line;
      if (onLine(b) && onLine(c)) continue;
      // Where a corner lies on the line the side to it is not cut: the rest is one facet.
      const p = onLine(b) ? b : crossing(a, b);
      const q = onLine(c) ? c : crossing(a, c);
      if (p !== b) keep([p, b, c], [ab, bc, 0]);
      if (q !== c) keep([p, c, q], [p === b ? bc : 0, ca, 0]);
    }
  }
  mesh.facets = facets;
  mesh.held = held;
}

/** Corners that no facet has any more are left out, sides find their twins, and the local origin lies under what is left. */
function withoutLooseCorners([oe, on]: readonly [number, number], mesh: Cutting, hasHeld: boolean): Tin {
  const numberOf = new Int32Array(mesh.easting.length).fill(-1);
  let [west, south] = [Infinity, Infinity];
  for (const corner of mesh.facets) {
    numberOf[corner] = 0;
    west = Math.min(west, mesh.easting[corner]!);
    south = Math.min(south, mesh.northing[corner]!);
  }
  const kept: number[] = [];
  for (let i = 0; i < numberOf.length; i++) if (numberOf[i] === 0) numberOf[i] = kept.push(i) - 1;
  const [shiftE, shiftN] = [Math.floor(west), Math.floor(south)];
  const facets = Uint32Array.from(mesh.facets, (corner) => numberOf[corner]!);
  return {
    origin: [oe + shiftE, on + shiftN],
    easting: Float64Array.from(kept, (i) => mesh.easting[i]! - shiftE),
    northing: Float64Array.from(kept, (i) => mesh.northing[i]! - shiftN),
    elevation: Float64Array.from(kept, (i) => mesh.elevation[i]!),
    facets,
    twins: twinsOf(facets, kept.length),
    ...(hasHeld && { held: Uint8Array.from(mesh.held) }),
  };
}

function twinsOf(facets: Uint32Array, corners: number): Int32Array {
  const twins = new Int32Array(facets.length).fill(-1);
  const open = new Map<number, number>();
  for (let h = 0; h < facets.length; h++) {
    const [a, b] = [facets[h]!, facets[nextSide(h)]!];
    const twin = open.get(b * corners + a);
    if (twin === undefined) open.set(a * corners + b, h);
    else {
      twins[h] = twin;
      twins[twin] = h;
      open.delete(b * corners + a);
    }
  }
  return twins;
}
