import type { Places } from '../cleaning/neighbour-grid.js';

/**
 * The class of the nearest classed point of each place, in space; `none` where there is none within the distance. Equal
 * distances go to the point that lies first by easting, northing, elevation, so that order does not matter.
 * @param count - places asked about, from the first
 */
export function carryClasses(
  places: Places,
  count: number,
  from: Places,
  classes: Uint8Array,
  distance: number,
  none: Uint8Array,
): Uint8Array {
  const out = none.slice(0, count);
  const cell = (value: number): number => Math.floor(value / distance);
  const keyOf = (cx: number, cy: number): number => Math.imul(cx, 0x9e3779b1) ^ Math.imul(cy, 0x85ebca77);
  let slots = 1024;
  while (slots < from.count) slots *= 2;
  const first = new Int32Array(slots).fill(-1);
  const next = new Int32Array(from.count).fill(-1);
  for (let j = 0; j < from.count; j++) {
    const slot = keyOf(cell(from.x[j]!), cell(from.y[j]!)) & (slots - 1);
    next[j] = first[slot]!;
    first[slot] = j;
  }
  const limit = distance * distance;
  for (let i = 0; i < count; i++) {
    const [px, py, pz] = [places.x[i]!, places.y[i]!, places.z[i]!];
    const [cx, cy] = [cell(px), cell(py)];
    let best = -1;
    let nearest = limit;
    for (let r = cy - 1; r <= cy + 1; r++)
      for (let c = cx - 1; c <= cx + 1; c++)
        for (let j = first[keyOf(c, r) & (slots - 1)]!; j >= 0; j = next[j]!) {
          const off = (from.x[j]! - px) ** 2 + (from.y[j]! - py) ** 2 + (from.z[j]! - pz) ** 2;
          if (off > nearest || (off === nearest && best >= 0 && !comesFirst(j, best))) continue;
          best = j;
          nearest = off;
        }
    if (best >= 0) out[i] = classes[best]!;
  }
  return out;

  function comesFirst(a: number, b: number): boolean {
    return (from.x[a]! - from.x[b]! || from.y[a]! - from.y[b]! || from.z[a]! - from.z[b]!) < 0;
  }
}
