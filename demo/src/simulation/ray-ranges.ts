import type { Box, Building, Rod, Tree } from './scene.js';

/** A point turned into a building's or box's own axes. */
function turnedInto(
  east: number,
  north: number,
  item: { east: number; north: number; turned: number },
): [number, number] {
  const a = (item.turned * Math.PI) / 180;
  const e = east - item.east;
  const n = north - item.north;
  return [e * Math.cos(a) + n * Math.sin(a), -e * Math.sin(a) + n * Math.cos(a)];
}

export function buildingRange(
  from: readonly [number, number, number],
  ray: readonly [number, number, number],
  b: Building,
): number | undefined {
  const roof = (u: number, v: number): number =>
    Math.abs(u) > b.halfLength || Math.abs(v) > b.halfWidth
      ? -Infinity
      : b.isLeanTo
        ? b.eaves + ((b.ridge - b.eaves) * (v + b.halfWidth)) / (2 * b.halfWidth)
        : b.ridge - ((b.ridge - b.eaves) * Math.abs(v)) / b.halfWidth;
  return firstBelow(from, ray, b, b.ridge, b.floor, roof);
}

export function boxRange(
  from: readonly [number, number, number],
  ray: readonly [number, number, number],
  b: Box,
): number | undefined {
  return firstBelow(from, ray, b, b.top, b.foot, (u, v) =>
    Math.abs(u) > b.halfLength || Math.abs(v) > b.halfWidth ? -Infinity : b.top,
  );
}

/** Walks down from `top` to `foot` in short steps until the beam is below the roof, then halves to a millimetre. */
function firstBelow(
  from: readonly [number, number, number],
  ray: readonly [number, number, number],
  item: { east: number; north: number; turned: number },
  top: number,
  foot: number,
  roof: (u: number, v: number) => number,
): number | undefined {
  const isBelow = (range: number): boolean => {
    const [u, v] = turnedInto(from[0] + ray[0] * range, from[1] + ray[1] * range, item);
    return from[2] + ray[2] * range <= roof(u, v);
  };
  let above = (top + 0.01 - from[2]) / ray[2];
  const last = (foot - from[2]) / ray[2];
  const step = 0.12;
  for (let range = above; range <= last; range += step) {
    if (!isBelow(range)) {
      above = range;
      continue;
    }
    let below = range;
    while (below - above > 0.001) {
      const middle = (above + below) / 2;
      if (isBelow(middle)) below = middle;
      else above = middle;
    }
    return below;
  }
  return undefined;
}

/** Where the beam passes a rod within reach of its footprint. */
export function rodRange(
  from: readonly [number, number, number],
  ray: readonly [number, number, number],
  rod: Rod,
  beamRadius: number,
): number | undefined {
  const d = [rod.to[0] - rod.from[0], rod.to[1] - rod.from[1], rod.to[2] - rod.from[2]] as const;
  const w = [from[0] - rod.from[0], from[1] - rod.from[1], from[2] - rod.from[2]] as const;
  const b = ray[0] * d[0] + ray[1] * d[1] + ray[2] * d[2];
  const c = d[0] * d[0] + d[1] * d[1] + d[2] * d[2];
  const e = ray[0] * w[0] + ray[1] * w[1] + ray[2] * w[2];
  const f = d[0] * w[0] + d[1] * w[1] + d[2] * w[2];
  const t = Math.min(1, Math.max(0, (f - b * e) / Math.max(1e-12, c - b * b)));
  const range = t * b - e;
  const miss = Math.hypot(
    w[0] + ray[0] * range - d[0] * t,
    w[1] + ray[1] * range - d[1] * t,
    w[2] + ray[2] * range - d[2] * t,
  );
  return miss <= rod.radius + beamRadius ? range : undefined;
}

/** Ranges at which the beam enters and leaves a crown. */
export function crownChord(
  from: readonly [number, number, number],
  ray: readonly [number, number, number],
  tree: Tree,
): [number, number] | undefined {
  const o = [
    (from[0] - tree.east) / tree.radius,
    (from[1] - tree.north) / tree.radius,
    (from[2] - tree.middle) / tree.halfHeight,
  ] as const;
  const r = [ray[0] / tree.radius, ray[1] / tree.radius, ray[2] / tree.halfHeight] as const;
  const a = r[0] * r[0] + r[1] * r[1] + r[2] * r[2];
  const b = o[0] * r[0] + o[1] * r[1] + o[2] * r[2];
  const root = b * b - a * (o[0] * o[0] + o[1] * o[1] + o[2] * o[2] - 1);
  if (root <= 0) return undefined;
  return [(-b - Math.sqrt(root)) / a, (-b + Math.sqrt(root)) / a];
}
