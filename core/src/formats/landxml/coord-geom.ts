import { flattenArc, type CurvePlace } from '../curves/index.js';

/** A piece of a line's geometry in plan; places are x east, y north. */
export type GeometryElement =
  | { readonly kind: 'line'; readonly start: CurvePlace; readonly end: CurvePlace }
  | { readonly kind: 'list'; readonly places: readonly CurvePlace[] }
  | {
      readonly kind: 'curve';
      readonly start: CurvePlace;
      readonly centre: CurvePlace;
      readonly end: CurvePlace;
      readonly isClockwise: boolean;
    }
  | {
      readonly kind: 'spiral';
      readonly start: CurvePlace;
      /** Where the tangents of both ends meet: the spiral sets out towards it. */
      readonly tangent: CurvePlace;
      readonly end: CurvePlace;
      readonly length: number;
      /** Infinite where it begins or ends straight. */
      readonly radiusStart: number;
      readonly radiusEnd: number;
      readonly isClockwise: boolean;
    };

/** Pieces of a spiral that are walked; its curvature changes so little between them that the middle of each speaks for it. */
const SPIRAL_STEPS = 400;

/** The corners of a geometry, arcs and spirals as legs that stay within a tolerance of them; a corner two pieces share is said once. */
export function coordGeomPlaces(elements: readonly GeometryElement[], tolerance: number): CurvePlace[] {
  const out: CurvePlace[] = [];
  for (const element of elements)
    for (const place of placesOf(element, tolerance)) {
      const last = out.at(-1);
      if (!last || Math.hypot(place.x - last.x, place.y - last.y) > 1e-6) out.push(place);
    }
  return out;
}

function placesOf(element: GeometryElement, tolerance: number): readonly CurvePlace[] {
  switch (element.kind) {
    case 'line':
      return [element.start, element.end];
    case 'list':
      return element.places;
    case 'curve': {
      const { start, centre, end, isClockwise } = element;
      const radius = Math.hypot(start.x - centre.x, start.y - centre.y);
      const [from, to] = [start, end].map(({ x, y }) => Math.atan2(y - centre.y, x - centre.x)) as [number, number];
      const turn = 2 * Math.PI;
      const sweep = isClockwise ? -((((from - to) % turn) + turn) % turn) : (((to - from) % turn) + turn) % turn;
      const arc = flattenArc(centre, radius, from, sweep, tolerance);
      const last = arc.length - 1;
      return arc.map((place, k) =>
        k === 0 ? start : k === last ? end : { ...place, z: start.z + ((end.z - start.z) * k) / last },
      );
    }
    case 'spiral':
      return spiralPlaces(element, tolerance);
  }
}

/**
 * A clothoid: its curvature grows evenly along it. Walked in small steps, then turned and stretched a little so that it ends where the
 * file says it does.
 */
function spiralPlaces(
  { start, tangent, end, length, radiusStart, radiusEnd, isClockwise }: Extract<GeometryElement, { kind: 'spiral' }>,
  tolerance: number,
): CurvePlace[] {
  const [k0, k1] = [1 / radiusStart, 1 / radiusEnd].map((k) => (isClockwise ? -k : k)) as [number, number];
  let direction = Math.atan2(tangent.y - start.y, tangent.x - start.x);
  const step = length / SPIRAL_STEPS;
  const walked: CurvePlace[] = [start];
  for (let s = 0; s < SPIRAL_STEPS; s++) {
    const curvature = k0 + ((k1 - k0) * (s + 0.5)) / SPIRAL_STEPS;
    const { x, y } = walked.at(-1)!;
    const middle = direction + (curvature * step) / 2;
    walked.push({ x: x + step * Math.cos(middle), y: y + step * Math.sin(middle), z: NaN });
    direction += curvature * step;
  }
  const reached = walked.at(-1)!;
  // Legs as long as the sharpest bend allows: a chord of length c lies c² / 8r within.
  const sharpest = Math.max(Math.abs(k0), Math.abs(k1), 1e-9);
  const legs = Math.max(2, Math.ceil(length / Math.sqrt((8 * tolerance) / sharpest)));
  const every = Math.max(1, Math.floor(SPIRAL_STEPS / legs));
  return walked
    .map((place, k) => ({ place, share: k / SPIRAL_STEPS }))
    .filter((_, k) => k % every === 0 || k === SPIRAL_STEPS)
    .map(({ place, share }) => ({
      x: place.x + (end.x - reached.x) * share,
      y: place.y + (end.y - reached.y) * share,
      z: start.z + (end.z - start.z) * share,
    }));
}

/** A vertex of a profile: where two grades meet, with the length of the parabola between them, 0 for none. */
export interface ProfileVertex {
  readonly station: number;
  readonly elevation: number;
  readonly length: number;
}

/**
 * Elevation of a profile at a station, NaN outside it: straight grades, parabolas centred on the vertices that have a length. (Vertical
 * circles are read as parabolas of the same length: at the grades of roads they part by millimetres.)
 */
export function alignmentElevation(vertices: readonly ProfileVertex[], station: number): number {
  const first = vertices[0];
  const last = vertices.at(-1);
  if (!first || !last || station < first.station - 1e-6 || station > last.station + 1e-6) return NaN;
  for (let k = 1; k + 1 < vertices.length; k++) {
    const { station: at, elevation, length } = vertices[k]!;
    if (length <= 0 || Math.abs(station - at) > length / 2) continue;
    const [g1, g2] = [gradeOf(vertices[k - 1]!, vertices[k]!), gradeOf(vertices[k]!, vertices[k + 1]!)];
    const x = station - (at - length / 2);
    return elevation - (g1 * length) / 2 + g1 * x + ((g2 - g1) * x * x) / (2 * length);
  }
  const k = Math.max(
    1,
    vertices.findIndex((vertex) => vertex.station >= station - 1e-9),
  );
  const [a, b] = [vertices[Math.max(0, k - 1)]!, vertices[k] ?? last];
  return a.elevation + gradeOf(a, b) * (station - a.station);
}

function gradeOf(a: ProfileVertex, b: ProfileVertex): number {
  return b.station > a.station ? (b.elevation - a.elevation) / (b.station - a.station) : 0;
}
