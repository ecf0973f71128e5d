import type { Tin } from '../terrain/index.js';
import { FacetIndex } from './facet-index.js';
import { planeOf, type Corner, type Plane } from './facet-plane.js';

/** Earth between two surfaces, exactly as their facets bound it. Cubic and square job units. */
export interface Volume {
  /** Where the first surface lies under the second: to be taken away to get from the second to the first. */
  readonly cut: number;
  /** Where it lies over it: to be brought. */
  readonly fill: number;
  readonly cutArea: number;
  readonly fillArea: number;
  /** Area of the first surface, within the outline, that the second does not cover: left out. */
  readonly uncovered: number;
}

/**
 * Volume between a surface and another, or a level, exact over the merged triangulations: each facet of the first is clipped by
 * the facets of the second under it (Sutherland and Hodgman 1974, Communications of the ACM 17(1), 32-42), and over each piece
 * the difference is a plane, whose volume is its area times its height at the centroid, parted where it changes sign.
 * @param outline - a surface over the land that counts; all where there is none
 */
export function volumeBetween(first: Tin, second: Tin | number, outline?: Tin): Volume {
  const total = { cut: 0, fill: 0, cutArea: 0, fillArea: 0, uncovered: 0 };
  const other = typeof second === 'number' ? undefined : new FacetIndex(second, first.origin);
  const within = outline && new FacetIndex(outline, first.origin);
  for (let f = 0; f < first.facets.length; f += 3) {
    const facet = cornersOf(first, f);
    const plane = planeOf(first, f, [0, 0]);
    if (!plane) continue;
    const pieces = within
      ? within.touching(facet).map((g) => clipped(facet, within.corners(g)))
      : [facet as readonly Corner[]];
    for (const piece of pieces) {
      if (piece.length < 3) continue;
      if (!other || typeof second === 'number') {
        addPiece(total, piece, { ...plane, c: plane.c - (second as number) });
        continue;
      }
      let covered = 0;
      for (const g of other.touching(piece)) {
        const common = clipped(piece, other.corners(g));
        if (common.length < 3) continue;
        const below = other.plane(g);
        covered += areaOf(common);
        addPiece(total, common, { a: plane.a - below.a, b: plane.b - below.b, c: plane.c - below.c });
      }
      total.uncovered += Math.max(0, areaOf(piece) - covered);
    }
  }
  return total;
}

function cornersOf({ easting, northing, facets }: Tin, f: number): [Corner, Corner, Corner] {
  const at = (k: number): Corner => [easting[facets[f + k]!]!, northing[facets[f + k]!]!];
  return [at(0), at(1), at(2)];
}

/** What of a convex polygon lies in a counter-clockwise triangle. */
function clipped(polygon: readonly Corner[], triangle: readonly Corner[]): readonly Corner[] {
  let out: readonly Corner[] = polygon;
  for (let k = 0; k < 3 && out.length > 0; k++) {
    const [ax, ay] = triangle[k]!;
    const [bx, by] = triangle[(k + 1) % 3]!;
    const side = ([x, y]: Corner): number => (bx - ax) * (y - ay) - (by - ay) * (x - ax);
    const kept: Corner[] = [];
    for (let i = 0; i < out.length; i++) {
      const here = out[i]!;
      const next = out[(i + 1) % out.length]!;
      const [s, t] = [side(here), side(next)];
      if (s >= 0) kept.push(here);
      if ((s > 0 && t < 0) || (s < 0 && t > 0)) {
        const share = s / (s - t);
        kept.push([here[0] + (next[0] - here[0]) * share, here[1] + (next[1] - here[1]) * share]);
      }
    }
    out = kept;
  }
  return out;
}

function areaOf(polygon: readonly Corner[]): number {
  let twice = 0;
  const [ox, oy] = polygon[0]!;
  for (let i = 1; i + 1 < polygon.length; i++) {
    const [ax, ay] = polygon[i]!;
    const [bx, by] = polygon[i + 1]!;
    twice += (ax - ox) * (by - oy) - (ay - oy) * (bx - ox);
  }
  return Math.abs(twice) / 2;
}

function addPiece(
  total: { cut: number; fill: number; cutArea: number; fillArea: number },
  polygon: readonly Corner[],
  { a, b, c }: Plane,
): void {
  const height = ([x, y]: Corner): number => a * x + b * y + c;
  const heights = polygon.map(height);
  if (heights.every((h) => h >= 0)) add(polygon, 'fill');
  else if (heights.every((h) => h <= 0)) add(polygon, 'cut');
  else {
    const [above, below]: [Corner[], Corner[]] = [[], []];
    for (let i = 0; i < polygon.length; i++) {
      const here = polygon[i]!;
      const next = polygon[(i + 1) % polygon.length]!;
      const [s, t] = [heights[i]!, heights[(i + 1) % polygon.length]!];
      if (s >= 0) above.push(here);
      if (s <= 0) below.push(here);
      if ((s > 0 && t < 0) || (s < 0 && t > 0)) {
        const share = s / (s - t);
        const at: Corner = [here[0] + (next[0] - here[0]) * share, here[1] + (next[1] - here[1]) * share];
        above.push(at);
        below.push(at);
      }
    }
    add(above, 'fill');
    add(below, 'cut');
  }

  function add(piece: readonly Corner[], to: 'cut' | 'fill'): void {
    if (piece.length < 3) return;
    const [ox, oy] = piece[0]!;
    const h0 = height(piece[0]!);
    let [area, volume] = [0, 0];
    for (let i = 1; i + 1 < piece.length; i++) {
      const [p, q] = [piece[i]!, piece[i + 1]!];
      const part = Math.abs((p[0] - ox) * (q[1] - oy) - (p[1] - oy) * (q[0] - ox)) / 2;
      area += part;
      volume += (part * (h0 + height(p) + height(q))) / 3;
    }
    total[to] += Math.abs(volume);
    total[to === 'cut' ? 'cutArea' : 'fillArea'] += area;
  }
}
