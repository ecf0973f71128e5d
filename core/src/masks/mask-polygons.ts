import { signedArea, type Corner } from '../measuring/index.js';

/** A piece of a mask: its outer edge counter-clockwise, then what is left out of it, clockwise; each without its first place again. */
export type MaskPolygon = readonly (readonly Corner[])[];

/** The edges of a mask as polygons with holes: each island in the smallest piece that lies round it (RFC 7946, 3.1.6, has the turning). */
export function maskPolygons(
  rings: readonly { readonly isIsland: boolean; readonly places: readonly Corner[] }[],
): MaskPolygon[] {
  const turned = (places: readonly Corner[], isLeft: boolean): readonly Corner[] =>
    signedArea(places) > 0 === isLeft ? places : [...places].reverse();
  const pieces = rings
    .filter(({ isIsland }) => !isIsland)
    .map(({ places }) => ({ holes: [] as (readonly Corner[])[], places: turned(places, true), area: Math.abs(signedArea(places)) })); // prettier-ignore
  const bySize = [...pieces].sort((a, b) => a.area - b.area);
  for (const { isIsland, places } of rings) {
    if (!isIsland) continue;
    const area = Math.abs(signedArea(places));
    // Edges were evened out, so that one place of an island may lie on the wrong side by part of a pixel.
    const home = bySize.find((piece) => piece.area > area && 2 * places.filter((place) => isInside(piece.places, place)).length > places.length); // prettier-ignore
    home?.holes.push(turned(places, false));
  }
  return pieces.map(({ places, holes }) => [places, ...holes]);
}

/** Whether a ray to the east crosses the ring an odd number of times. */
function isInside(ring: readonly Corner[], [e, n]: Corner): boolean {
  let isIn = false;
  for (let i = 0, j = ring.length - 1; i < ring.length; j = i++) {
    const [[ae, an], [be, bn]] = [ring[i]!, ring[j]!];
    if (an > n !== bn > n && e < ((be - ae) * (n - an)) / (bn - an) + ae) isIn = !isIn;
  }
  return isIn;
}
