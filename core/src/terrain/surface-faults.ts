import { nextSide } from './half-edges.js';
import { planeShares } from './neighbour-plane.js';
import type { Tin } from './tin.js';

export const SURFACE_FAULTS = ['spike', 'pit', 'hole'] as const;

/** A place of a surface that a surveyor would look at before signing. Full coordinates, job units. */
export interface SurfaceFault {
  readonly kind: (typeof SURFACE_FAULTS)[number];
  readonly easting: number;
  readonly northing: number;
  readonly elevation: number;
  /** Of a spike or pit how far it is off the plane of its neighbours; of a hole its area. */
  readonly size: number;
}

export interface FaultLimits {
  /** A point this far off the plane of its neighbours is a spike or a pit. */
  readonly spike: number;
  /** Smallest hole, square units. */
  readonly hole: number;
}

const MOST_LISTED = 500;

/**
 * Spikes, pits and holes, the worst first. A point is a spike where it stands off the plane through its neighbours by more than a
 * limit, further than any of them off theirs, and each of them is further from it in elevation than the limit: the crest of a bank is off
 * its neighbours' plane too, but goes on along itself. A hole is a rim that goes round inside the surface.
 */
export function surfaceFaults(tin: Tin, { spike, hole }: FaultLimits): SurfaceFault[] {
  const found = [...spikes(tin, spike), ...holes(tin, hole)];
  return found.sort((a, b) => weight(b) - weight(a) || a.easting - b.easting).slice(0, MOST_LISTED);

  function weight({ kind, size }: SurfaceFault): number {
    return kind === 'hole' ? size / hole : size / spike;
  }
}

function spikes(tin: Tin, limit: number): SurfaceFault[] {
  const { easting, northing, elevation: z, facets, twins, origin, held } = tin;
  const share = planeShares(tin);
  const middle = new Float64Array(z.length);
  const isRim = new Uint8Array(z.length);
  for (let h = 0; h < facets.length; h++) {
    const [a, b] = [facets[h]!, facets[nextSide(h)]!];
    middle[a]! += share[h]! * z[b]!;
    if (twins[h]! < 0 || held?.[h] === 1) isRim[a] = isRim[b] = 1;
  }
  const off = z.map((value, i) => (isRim[i] === 1 || Number.isNaN(middle[i]!) ? 0 : value - middle[i]!));
  const isWorst = new Uint8Array(z.length).fill(1);
  /** How far the nearest in elevation of its neighbours lies below a spike, above a pit. */
  const clear = new Float64Array(z.length).fill(Infinity);
  for (let h = 0; h < facets.length; h++) {
    const [a, b] = [facets[h]!, facets[nextSide(h)]!];
    if (Math.abs(off[b]!) > Math.abs(off[a]!)) isWorst[a] = 0;
    clear[a] = Math.min(clear[a]!, Math.sign(off[a]!) * (z[a]! - z[b]!));
  }
  const out: SurfaceFault[] = [];
  for (let i = 0; i < z.length; i++)
    if (Math.abs(off[i]!) > limit && isWorst[i] === 1 && clear[i]! > limit)
      out.push({
        kind: off[i]! > 0 ? 'spike' : 'pit',
        easting: easting[i]! + origin[0],
        northing: northing[i]! + origin[1],
        elevation: z[i]!,
        size: Math.abs(off[i]!),
      });
  return out;
}

/** Rims that go round clockwise: the surface lies to the left of every side, so inside them there is none. */
function holes({ easting, northing, elevation, facets, twins, origin }: Tin, least: number): SurfaceFault[] {
  const seen = new Uint8Array(facets.length);
  const out: SurfaceFault[] = [];
  for (let start = 0; start < facets.length; start++) {
    if (twins[start]! >= 0 || seen[start] === 1) continue;
    let [twice, e, n, z, count] = [0, 0, 0, 0, 0];
    const [x0, y0] = [easting[facets[start]!]!, northing[facets[start]!]!];
    let h = start;
    do {
      seen[h] = 1;
      const [a, b] = [facets[h]!, facets[nextSide(h)]!];
      twice += (easting[a]! - x0) * (northing[b]! - y0) - (northing[a]! - y0) * (easting[b]! - x0);
      e += easting[a]!;
      n += northing[a]!;
      z += elevation[a]!;
      count++;
      // The next side of the rim starts where this one ends: round the corner, over the triangles between.
      h = nextSide(h);
      while (twins[h]! >= 0) h = nextSide(twins[h]!);
    } while (h !== start);
    const area = -twice / 2;
    if (area >= least)
      out.push({
        kind: 'hole',
        easting: e / count + origin[0],
        northing: n / count + origin[1],
        elevation: z / count,
        size: area,
      });
  }
  return out;
}
