/** A corner in plan. */
export type Corner = readonly [east: number, north: number];

/** Corners of the convex hull, counter-clockwise. */
export function convexHull(places: readonly Corner[]): Corner[] {
  const of = (axis: 0 | 1): number[] => places.map((place) => place[axis]);
  return hullCorners([...places.keys()], of(0), of(1)).map((i) => places[i]!);
}

/**
 * Of some places those that are corners of their convex hull, counter-clockwise (monotone chain, Andrew 1979, Information
 * Processing Letters 9(5), 216-219).
 * @param chosen - indices of places
 */
export function hullCorners(chosen: readonly number[], x: ArrayLike<number>, y: ArrayLike<number>): number[] {
  const sorted = [...chosen].sort((a, b) => x[a]! - x[b]! || y[a]! - y[b]!);
  const chain = (order: readonly number[]): number[] => {
    const out: number[] = [];
    for (const p of order) {
      while (out.length >= 2) {
        const [a, b] = [out.at(-2)!, out.at(-1)!];
        if ((x[b]! - x[a]!) * (y[p]! - y[a]!) - (y[b]! - y[a]!) * (x[p]! - x[a]!) > 0) break;
        out.pop();
      }
      out.push(p);
    }
    return out.slice(0, -1);
  };
  return [...chain(sorted), ...chain(sorted.reverse())];
}

/** Area of a polygon, positive counter-clockwise. */
export function signedArea(polygon: readonly Corner[]): number {
  const [e0, n0] = polygon[0] ?? [0, 0];
  let twice = 0;
  for (let k = 0; k < polygon.length; k++) {
    const [a, b] = [polygon[k]!, polygon[(k + 1) % polygon.length]!];
    // About the first corner: the digits of large coordinates would be lost.
    twice += (a[0] - e0) * (b[1] - n0) - (a[1] - n0) * (b[0] - e0);
  }
  return twice / 2;
}

/** The rectangle of least area about a convex outline, which has a side on one of its (Freeman and Shapira 1975, CACM 18(7), 409-413). */
export function narrowestRectangle(hull: readonly Corner[]): {
  /** The longer side. */
  readonly length: number;
  readonly width: number;
  /** Of the outline itself. */
  readonly area: number;
} {
  let best = { length: 0, width: 0 };
  let least = Infinity;
  for (let k = 0; k < hull.length; k++) {
    const [a, b] = [hull[k]!, hull[(k + 1) % hull.length]!];
    const size = Math.hypot(b[0] - a[0], b[1] - a[1]);
    if (size === 0) continue;
    const [ux, uy] = [(b[0] - a[0]) / size, (b[1] - a[1]) / size];
    let [low, high, wide] = [Infinity, -Infinity, 0];
    for (const [e, n] of hull) {
      const along = (e - a[0]) * ux + (n - a[1]) * uy;
      low = Math.min(low, along);
      high = Math.max(high, along);
      wide = Math.max(wide, (n - a[1]) * ux - (e - a[0]) * uy);
    }
    if ((high - low) * wide >= least) continue;
    least = (high - low) * wide;
    best = { length: Math.max(high - low, wide), width: Math.min(high - low, wide) };
  }
  return { ...best, area: Math.abs(signedArea(hull)) };
}
