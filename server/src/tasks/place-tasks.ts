import { NOISE_CLASSES, PointFlag, type Quantisation } from '@pampero/core/cloud';
import { Outline, type Place } from '@pampero/core/selection';
import { type NodeColumns, positionsOf } from './node-columns.js';

export interface NearPlacesTask {
  readonly nodes: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  readonly places: readonly (readonly [easting: number, northing: number])[];
  readonly radius: number;
}

export interface NearPoint {
  readonly place: number;
  /** From the place, job units. */
  readonly east: number;
  readonly north: number;
  readonly elevation: number;
  readonly classCode: number;
}

/** Points within a radius of any of the places, noise and withheld points left out. */
export function nearPlaces({ nodes, quantisation: { scale, offset }, places, radius }: NearPlacesTask): NearPoint[] {
  const found: NearPoint[] = [];
  for (const node of nodes) {
    const { x, y, z } = positionsOf(node);
    for (const [place, [easting, northing]] of places.entries()) {
      // In integers: most points are settled by one comparison.
      const cx = (easting - offset[0]) / scale[0];
      const cy = (northing - offset[1]) / scale[1];
      const rx = radius / scale[0];
      const ry = radius / scale[1];
      for (let i = 0; i < node.count; i++) {
        const dx = x[i]! - cx;
        if (dx > rx || dx < -rx) continue;
        const dy = y[i]! - cy;
        if (dy > ry || dy < -ry) continue;
        const east = dx * scale[0];
        const north = dy * scale[1];
        if (east * east + north * north > radius * radius) continue;
        const classCode = node.classification[i]!;
        if (NOISE_CLASSES.includes(classCode) || (node.flags[i]! & PointFlag.withheld) !== 0) continue;
        found.push({ place, east, north, elevation: z[i]! * scale[2] + offset[2], classCode });
      }
    }
  }
  return found;
}

export interface CountWindowTask {
  readonly nodes: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  readonly outline: readonly Place[];
  readonly classes: readonly number[] | undefined;
}

/** How many points of each class lie within an outline, and how high. */
export function countWindow({ nodes, quantisation: { scale, offset }, outline, classes }: CountWindowTask): {
  counts: Float64Array;
  lowest: number;
  highest: number;
} {
  const shape = new Outline(outline);
  const wanted = new Uint8Array(256).fill(classes ? 0 : 1);
  for (const code of classes ?? []) wanted[code] = 1;
  const counts = new Float64Array(256);
  let [low, high] = [Infinity, -Infinity];
  for (const node of nodes) {
    const { x, y, z } = positionsOf(node);
    for (let i = 0; i < node.count; i++) {
      const code = node.classification[i]!;
      if (wanted[code] === 0 || !shape.contains(x[i]! * scale[0] + offset[0], y[i]! * scale[1] + offset[1])) continue;
      counts[code]!++;
      if (z[i]! < low) low = z[i]!;
      if (z[i]! > high) high = z[i]!;
    }
  }
  return { counts, lowest: low * scale[2] + offset[2], highest: high * scale[2] + offset[2] };
}
