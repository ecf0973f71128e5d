import { connectedCells, type RasterFrame } from '../raster/index.js';
import { convexHull, signedArea } from '../measuring/plan-outline.js';
import { groundAt, type GroundModel } from './ground-heights.js';

/** Points of one class, by cell. */
export interface ClassCells extends RasterFrame {
  readonly count: Uint32Array;
  /** Highest point, −∞ where there is none. */
  readonly highest: Float64Array;
}

/** Points of one class that hang together: a building, a tree or a group of them, a run of wire. */
export interface ObjectGroup {
  readonly classCode: number;
  readonly easting: number;
  readonly northing: number;
  /** Of the ground in its middle. */
  readonly elevation: number;
  /** Over the ground, job units. */
  readonly height: number;
  readonly points: number;
  /** Area of its cells, square units. */
  readonly area: number;
  /** Across the longer side of the box about it. */
  readonly width: number;
  /** Convex outline of its cells, counter-clockwise. */
  readonly footprint: readonly (readonly [number, number])[];
  /** 0 to 1: how pure it is among what stands there, how compact, and whether it has points enough to tell. */
  readonly confidence: number;
}

/** From this many points on, their number says nothing against an object. */
const ENOUGH = 40;

/**
 * Groups cells of one class that touch, eight ways.
 * @param others - points of all classes that stand on the ground, this one too, on the same cells
 * @param leastPoints - smaller groups are left out
 */
export function groupObjects(
  classCode: number,
  cells: ClassCells,
  others: Uint32Array,
  ground: GroundModel,
  leastPoints: number,
): ObjectGroup[] {
  const { east, north, cell, columns, count, highest } = cells;
  const found: ObjectGroup[] = [];
  for (const group of connectedCells(cells, (i) => count[i]! > 0)) {
    let [points, all, top, sumE, sumN] = [0, 0, -Infinity, 0, 0];
    const corners: [number, number][] = [];
    for (const i of group) {
      const [column, row] = [i % columns, Math.floor(i / columns)];
      const [e, n] = [east + column * cell, north + row * cell];
      points += count[i]!;
      all += others[i]!;
      top = Math.max(top, highest[i]!);
      sumE += (e + cell / 2) * count[i]!;
      sumN += (n + cell / 2) * count[i]!;
      corners.push([e, n], [e + cell, n], [e + cell, n + cell], [e, n + cell]);
    }
    if (points < leastPoints) continue;
    const footprint = convexHull(corners);
    const area = group.length * cell * cell;
    const [easting, northing] = [sumE / points, sumN / points];
    const elevation = groundAt(ground, easting, northing);
    const spread = (axis: 0 | 1): number =>
      Math.max(...footprint.map((p) => p[axis])) - Math.min(...footprint.map((p) => p[axis]));
    // A building fills its outline; trees and wires need not.
    const compact = classCode === 6 ? Math.min(1, area / Math.abs(signedArea(footprint)) + 0.2) : 1;
    found.push({
      classCode,
      easting,
      northing,
      elevation,
      height: top - elevation,
      points,
      area,
      width: Math.max(spread(0), spread(1)),
      footprint,
      confidence: (points / Math.max(points, all)) * compact * Math.min(1, 0.3 + (0.7 * points) / ENOUGH),
    });
  }
  return found.sort((a, b) => a.confidence - b.confidence || a.easting - b.easting || a.northing - b.northing);
}
