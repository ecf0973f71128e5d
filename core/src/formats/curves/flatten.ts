/** A place of a drawing. */
export interface CurvePlace {
  readonly x: number;
  readonly y: number;
  readonly z: number;
}

/** However fine the tolerance, an arc becomes at most so many legs. */
const MOST_LEGS = 2000;

/**
 * An arc as legs that stay within a tolerance of it, its ends included.
 * @param from - angle of its beginning, radians, counter-clockwise from the first axis; `sweep` negative runs clockwise
 */
export function flattenArc(
  centre: CurvePlace,
  radius: number,
  from: number,
  sweep: number,
  tolerance: number,
): CurvePlace[] {
  // A chord over the angle t lies r (1 − cos t/2) within the arc.
  const most = 2 * Math.acos(Math.max(0, 1 - Math.min(tolerance, radius) / radius));
  const legs = Math.min(MOST_LEGS, Math.max(2, Math.ceil(Math.abs(sweep) / Math.max(1e-4, most))));
  return Array.from({ length: legs + 1 }, (_, k) => {
    const angle = from + (sweep * k) / legs;
    return { x: centre.x + radius * Math.cos(angle), y: centre.y + radius * Math.sin(angle), z: centre.z };
  });
}

/**
 * The leg between two vertices of a polyline with a bulge, the tangent of a quarter of the arc's angle, positive counter-clockwise
 * (public DXF reference, group code 42). Without its first vertex, with its last.
 */
export function flattenBulge(a: CurvePlace, b: CurvePlace, bulge: number, tolerance: number): CurvePlace[] {
  const chord = Math.hypot(b.x - a.x, b.y - a.y);
  if (bulge === 0 || !Number.isFinite(bulge) || chord === 0) return [b];
  const sweep = 4 * Math.atan(bulge);
  const radius = Math.abs(chord / (2 * Math.sin(sweep / 2)));
  // From the middle of the chord to the centre, to the left where the bulge is less than half a turn.
  const off = (chord * (1 - bulge * bulge)) / (4 * bulge);
  const centre = {
    x: (a.x + b.x) / 2 - ((b.y - a.y) / chord) * off,
    y: (a.y + b.y) / 2 + ((b.x - a.x) / chord) * off,
    z: a.z,
  };
  const arc = flattenArc(centre, radius, Math.atan2(a.y - centre.y, a.x - centre.x), sweep, tolerance);
  return arc
    .slice(1)
    .map((place, k, all) => (k === all.length - 1 ? b : { ...place, z: a.z + ((b.z - a.z) * (k + 1)) / all.length }));
}

export interface Spline {
  readonly degree: number;
  readonly knots: readonly number[];
  readonly control: readonly CurvePlace[];
  /** One each control point; ones where left out. */
  readonly weights?: readonly number[];
}

/** Why a spline cannot be drawn; undefined where it can. */
export function splineFault({ degree, knots, control, weights }: Spline): string | undefined {
  if (!Number.isInteger(degree) || degree < 1 || degree > 10) return `a spline of degree ${degree}`;
  if (control.length < degree + 1) return `a spline of degree ${degree} with ${control.length} control points`;
  if (knots.length !== control.length + degree + 1)
    return `a spline of degree ${degree} with ${control.length} control points and ${knots.length} knots`;
  if (knots.some((knot, k) => k > 0 && knot < knots[k - 1]!)) return 'a spline whose knots go back';
  if (weights && (weights.length !== control.length || weights.some((weight) => !(weight > 0))))
    return 'a spline whose weights are not above 0';
  return undefined;
}

/**
 * A B-spline, rational where it has weights, as legs that stay within a tolerance of it: each piece between two knots is halved until its
 * middle and its quarters lie near enough to the chord (de Boor 1978, "A Practical Guide to Splines", for the places).
 */
export function flattenSpline(spline: Spline, tolerance: number): CurvePlace[] {
  const { degree, knots, control } = spline;
  const [first, last] = [knots[degree]!, knots[control.length]!];
  const breaks = [...new Set(knots.slice(degree, control.length + 1))].filter((u) => u >= first && u <= last);
  const out: CurvePlace[] = [splineAt(spline, first)];
  const go = (u: number, v: number, a: CurvePlace, b: CurvePlace, depth: number): void => {
    const middle = splineAt(spline, (u + v) / 2);
    const off = [splineAt(spline, u + (v - u) / 4), middle, splineAt(spline, u + (3 * (v - u)) / 4)].map((place) =>
      distanceToChord(place, a, b),
    );
    if (depth > 11 || (depth > 0 && Math.max(...off) <= tolerance)) {
      out.push(b);
      return;
    }
    go(u, (u + v) / 2, a, middle, depth + 1);
    go((u + v) / 2, v, middle, b, depth + 1);
  };
  for (let k = 1; k < breaks.length; k++)
    go(breaks[k - 1]!, breaks[k]!, splineAt(spline, breaks[k - 1]!), splineAt(spline, breaks[k]!), 0);
  return out;
}

function splineAt({ degree, knots, control, weights }: Spline, u: number): CurvePlace {
  let span = degree;
  while (span < control.length - 1 && u >= knots[span + 1]!) span++;
  const points = Array.from({ length: degree + 1 }, (_, k) => {
    const at = span - degree + k;
    const [{ x, y, z }, w] = [control[at]!, weights?.[at] ?? 1];
    return [x * w, y * w, z * w, w] as [number, number, number, number];
  });
  for (let level = 1; level <= degree; level++)
    for (let k = degree; k >= level; k--) {
      const at = span - degree + k;
      const width = knots[at + degree - level + 1]! - knots[at]!;
      const share = width > 0 ? (u - knots[at]!) / width : 0;
      points[k] = points[k]!.map((value, axis) => (1 - share) * points[k - 1]![axis]! + share * value) as [number, number, number, number]; // prettier-ignore
    }
  const [x, y, z, w] = points[degree]!;
  return { x: x / w, y: y / w, z: z / w };
}

function distanceToChord(p: CurvePlace, a: CurvePlace, b: CurvePlace): number {
  const [ux, uy, uz] = [b.x - a.x, b.y - a.y, b.z - a.z];
  const square = ux * ux + uy * uy + uz * uz;
  const dot = (p.x - a.x) * ux + (p.y - a.y) * uy + (p.z - a.z) * uz;
  const share = square > 0 ? Math.max(0, Math.min(1, dot / square)) : 0;
  return Math.hypot(p.x - a.x - share * ux, p.y - a.y - share * uy, p.z - a.z - share * uz);
}
