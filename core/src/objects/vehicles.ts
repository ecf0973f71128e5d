import type { Places } from '../cleaning/neighbour-grid.js';
import { convexHull, narrowestRectangle } from '../measuring/plan-outline.js';
import { beside, type ByCell, type PlanCells } from './plan-cells.js';
import { SMALL_OBJECT } from './small-object-kind.js';

/** Metres. Where no source is named these are sizes of made things as met in practice, no source. */
const VEHICLE = { least: 1.1, most: 4.2, shortest: 2.2, longest: 12, narrowest: 1.3, widest: 3.2 } as const;
const CAR_HEIGHT = 2.3;
/** How much of the box about it a vehicle fills, which an ellipse does to 0.785, and how much of what is seen of it is its top. */
const FILLS = 0.83;
const ON_TOP = 0.6;

export function isVehicle(
  { x, y }: Places,
  heights: Float32Array,
  points: readonly number[],
  cellCount: number,
  cell: number,
  metre: number,
): boolean {
  if (points.length < 8) return false;
  let top = -Infinity;
  for (const i of points) top = Math.max(top, heights[i]!);
  if (top < VEHICLE.least * metre || top > VEHICLE.most * metre) return false;
  const hull = convexHull(points.map((i) => [x[i]!, y[i]!] as [number, number]));
  const box = narrowestRectangle(hull);
  // Beams fall beside its edges as often as on them: it is about half a spacing larger all round.
  const [length, width] = [box.length, box.width];
  if (length < VEHICLE.shortest * metre || length > VEHICLE.longest * metre) return false;
  if (width < VEHICLE.narrowest * metre || width > VEHICLE.widest * metre) return false;
  if (box.area < FILLS * length * width) return false;
  if (cellCount * cell * cell < 0.7 * length * width) return false;
  // Most of what is seen is its top, and that is smooth: of a bush the beams come from all through it.
  const keyOf = (i: number): number => Math.round(x[i]! / (0.5 * metre)) * 65_536 + Math.round(y[i]! / (0.5 * metre));
  const tops = new Map<number, number>();
  for (const i of points) tops.set(keyOf(i), Math.max(tops.get(keyOf(i)) ?? -Infinity, heights[i]!));
  let onTop = 0;
  for (const i of points) if (tops.get(keyOf(i))! - heights[i]! < 0.2 * metre) onTop++;
  return onTop >= ON_TOP * points.length;
}

/** Vehicles under and beside trees: cells whose lower points lie on a lid, where they make up the outline of a vehicle. */
export function markLids(
  places: Places,
  heights: Float32Array,
  cells: readonly number[],
  { first, next }: ByCell,
  { cell, columns, rows }: PlanCells,
  metre: number,
  out: Uint8Array,
): void {
  const low = new Map<number, number[]>();
  for (const at of cells) {
    const points: number[] = [];
    let top = -Infinity;
    for (let i = first[at]!; i >= 0; i = next[i]!)
      if (heights[i]! <= CAR_HEIGHT * metre) {
        points.push(i);
        top = Math.max(top, heights[i]!);
      }
    if (points.filter((i) => top - heights[i]! < 0.2 * metre).length >= ON_TOP * points.length && points.length > 0)
      low.set(at, points);
  }
  for (const start of low.keys()) {
    const group = [start];
    const points = [...low.get(start)!];
    low.delete(start);
    for (const at of group)
      for (const k of beside(at, columns, columns * rows, 1)) {
        const more = low.get(k);
        if (!more) continue;
        low.delete(k);
        group.push(k);
        points.push(...more);
      }
    if (isVehicle(places, heights, points, group.length, cell, metre))
      for (const i of points) out[i] = SMALL_OBJECT.vehicle;
  }
}
