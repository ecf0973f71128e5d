import { TerrainError } from './terrain-error.js';
import type { Tin } from './tin.js';

export interface MeshReport {
  /** Corners that shared their place with another. */
  readonly duplicatesDropped: number;
  /** Triangles without area in plan, or on a side that two others have already. */
  readonly facetsLeftOut: number;
}

/** Corners nearer than this are one, job units: files write a tenth of a millimetre. */
const SAME = 1e-4;

/**
 * A surface from the triangles of a file, as they are: a design is not triangulated anew. Triangles may run either way round; those
 * that stand upright in plan, and a third one on a side, are left out.
 * @param corners - full coordinates, three columns alike
 * @param faces - three corners each, from 0
 * @throws TerrainError `too-few-points`, `coordinate-not-finite`
 */
export function meshToTin(
  corners: {
    readonly easting: readonly number[];
    readonly northing: readonly number[];
    readonly elevation: readonly number[];
  },
  faces: readonly (readonly [number, number, number])[],
): { tin: Tin; report: MeshReport } {
  const origin: [number, number] = [Infinity, Infinity];
  corners.easting.forEach((e, i) => {
    if (!Number.isFinite(e + corners.northing[i]! + corners.elevation[i]!))
      throw new TerrainError('coordinate-not-finite', {
        what: `Vertex ${i + 1} has the coordinates ${e}, ${corners.northing[i]}, ${corners.elevation[i]}.`,
        fix: 'Mend its coordinates in the file.',
      });
    origin[0] = Math.min(origin[0], Math.floor(e));
    origin[1] = Math.min(origin[1], Math.floor(corners.northing[i]!));
  });
  const [easting, northing, elevation]: [number[], number[], number[]] = [[], [], []];
  const known = new Map<string, number>();
  const numberOf = corners.easting.map((e, i): number => {
    const [x, y, z] = [e - origin[0], corners.northing[i]! - origin[1], corners.elevation[i]!];
    const key = `${Math.round(x / SAME)} ${Math.round(y / SAME)} ${Math.round(z / SAME)}`;
    const there = known.get(key);
    if (there !== undefined) return there;
    known.set(key, easting.length);
    easting.push(x);
    northing.push(y);
    elevation.push(z);
    return easting.length - 1;
  });
  const facets: number[] = [];
  const twins: number[] = [];
  const open = new Map<number, number>();
  const taken = new Set<number>();
  const sideKey = (a: number, b: number): number => a * easting.length + b;
  let facetsLeftOut = 0;
  for (const face of faces) {
    const [a, second, third] = face.map((i) => numberOf[i] ?? -1) as [number, number, number];
    let [b, c] = [second, third];
    const twice =
      (easting[b]! - easting[a]!) * (northing[c]! - northing[a]!) -
      (northing[b]! - northing[a]!) * (easting[c]! - easting[a]!);
    if (!(Math.abs(twice) > 1e-9)) {
      facetsLeftOut++;
      continue;
    }
    if (twice < 0) [b, c] = [c, b];
    const sides = [sideKey(a, b), sideKey(b, c), sideKey(c, a)];
    if (sides.some((side) => taken.has(side))) {
      facetsLeftOut++;
      continue;
    }
    const at = facets.length;
    facets.push(a, b, c);
    twins.push(-1, -1, -1);
    const back = [sideKey(b, a), sideKey(c, b), sideKey(a, c)];
    for (let k = 0; k < 3; k++) {
      taken.add(sides[k]!);
      const twin = open.get(back[k]!);
      if (twin === undefined) open.set(sides[k]!, at + k);
      else {
        twins[at + k] = twin;
        twins[twin] = at + k;
      }
    }
  }
  if (facets.length === 0)
    throw new TerrainError('too-few-points', {
      what: 'The file holds no triangle with an area in plan.',
      fix: 'Save the surface with its faces.',
    });
  return {
    tin: {
      origin,
      easting: Float64Array.from(easting),
      northing: Float64Array.from(northing),
      elevation: Float64Array.from(elevation),
      facets: Uint32Array.from(facets),
      twins: Int32Array.from(twins),
    },
    report: { duplicatesDropped: corners.easting.length - easting.length, facetsLeftOut },
  };
}
