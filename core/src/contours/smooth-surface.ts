import { planeShares } from '../terrain/neighbour-plane.js';
import { nextSide, type Tin } from '../terrain/index.js';

/** Pairs of rounds: towards the plane of the neighbours, then a little further away from it, so that hills keep their height. */
const ROUNDS = 12;
const TOWARDS = 0.55;
const AWAY = -0.58;

/**
 * A surface that differs from the measured one by no more than a tolerance anywhere, evened out: its contours are quieter, and since
 * they are all contours of one surface they cannot cross. Corners go towards the plane of their neighbours and back by a little
 * more (Taubin 1995, "A signal processing approach to fair surface design", SIGGRAPH, 351-358). Along breaklines and at the rim
 * nothing moves, so that contours keep their corners there.
 * @param tolerance - in elevation, job units; 0 gives the surface back as it is
 * @returns a surface of the same facets
 */
export function smoothSurface(tin: Tin, tolerance: number): Tin {
  if (!(tolerance > 0)) return tin;
  const { facets, twins, held } = tin;
  const measured = tin.elevation;
  const z = Float64Array.from(measured);
  const isFixed = new Uint8Array(z.length);
  for (let h = 0; h < facets.length; h++)
    if (twins[h]! < 0 || held?.[h] === 1) isFixed[facets[h]!] = isFixed[facets[nextSide(h)]!] = 1;
  const share = planeShares(tin);
  const middle = new Float64Array(z.length);
  for (let round = 0; round < 2 * ROUNDS; round++) {
    middle.fill(0);
    for (let h = 0; h < facets.length; h++) middle[facets[h]!]! += share[h]! * z[facets[nextSide(h)]!]!;
    const way = round % 2 === 0 ? TOWARDS : AWAY;
    for (let i = 0; i < z.length; i++) {
      if (isFixed[i] === 1 || Number.isNaN(middle[i]!)) continue;
      const to = z[i]! + way * (middle[i]! - z[i]!);
      z[i] = Math.min(measured[i]! + tolerance, Math.max(measured[i]! - tolerance, to));
    }
  }
  return { ...tin, elevation: z };
}
