import type { MessagePort } from 'node:worker_threads';
import { PointFlag, unpackColumns, type ColumnName, type PointColumns, type Quantisation } from '@pampero/core/cloud';
import {
  contourFacts,
  packContours,
  traceContours,
  type ContourFacts,
  type ContourOptions,
} from '@pampero/core/contours';
import { packArrays } from '@pampero/core/binary';
import { Outline, type Place } from '@pampero/core/selection';
import { onePointPerCell } from '@pampero/core/thinning';
import {
  gridFrameOver,
  packTin,
  sampleTin,
  tinFacts,
  triangulate,
  unpackTin,
  type Crossing,
  type TerrainLine,
  type TinFacts,
  type TinOptions,
} from '@pampero/core/terrain';

/**
 * What worker threads do: pure functions of cloneable input to cloneable output. Nothing here knows where it runs. Buffers
 * in results are fresh and may be transferred.
 */

/** A node's columns as they lie in the store. */
export interface NodeColumns {
  readonly nodeId: number;
  readonly count: number;
  readonly geometry: Uint8Array;
  readonly classification: Uint8Array;
  readonly flags: Uint8Array;
  readonly attributes?: Uint8Array;
}

const POSITION_NAMES = ['x', 'y', 'z'] as const satisfies readonly ColumnName[];
const NO_COLUMNS: PointColumns = {
  gpsTime: false,
  rgb: false,
  nearInfrared: false,
  wavePacket: false,
  extraBytesLength: 0,
};

export function positionsOf(node: Pick<NodeColumns, 'count' | 'geometry'>): {
  count: number;
  x: Int32Array;
  y: Int32Array;
  z: Int32Array;
} {
  return { count: node.count, ...unpackColumns(node.geometry, node.count, POSITION_NAMES, NO_COLUMNS) } as ReturnType<
    typeof positionsOf
  >;
}

export interface TriangulateTask {
  readonly nodes: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  readonly classes: readonly number[];
  /** 0 takes every point. */
  readonly thinCell: number;
  readonly options: TinOptions;
  readonly lines: readonly TerrainLine[];
  readonly port: MessagePort;
}

export interface TriangulateResult {
  readonly tin: Uint8Array;
  readonly grid: Uint8Array;
  readonly origin: readonly [number, number];
  readonly facts: TinFacts;
  readonly pointsThinned: number;
  readonly duplicatesDropped: number;
  readonly facetsLeftOut: number;
  readonly edgesHeld: number;
  readonly edgesNotHeld: number;
  readonly pointsBesideLines: number;
  readonly crossings: readonly Crossing[];
}

/** Cells along the longer side of the grid that stands in for a surface on the screen. */
const DISPLAY_GRID_CELLS = 1200;

export function buildTin({
  nodes,
  quantisation,
  classes,
  thinCell,
  options,
  lines,
  port,
}: TriangulateTask): TriangulateResult {
  const takes = new Uint8Array(256);
  for (const code of classes) takes[code] = 1;
  let count = 0;
  for (const node of nodes)
    for (let i = 0; i < node.count; i++)
      if (takes[node.classification[i]!] === 1 && (node.flags[i]! & PointFlag.withheld) === 0) count++;
  const easting = new Float64Array(count);
  const northing = new Float64Array(count);
  const elevation = new Float64Array(count);
  const { scale, offset } = quantisation;
  let at = 0;
  for (const node of nodes) {
    const { x, y, z } = positionsOf(node);
    for (let i = 0; i < node.count; i++) {
      if (takes[node.classification[i]!] === 0 || (node.flags[i]! & PointFlag.withheld) !== 0) continue;
      easting[at] = x[i]! * scale[0] + offset[0];
      northing[at] = y[i]! * scale[1] + offset[1];
      elevation[at++] = z[i]! * scale[2] + offset[2];
    }
  }
  port.postMessage(0.1);
  const kept = thinCell > 0 ? onePointPerCell(easting, northing, elevation, thinCell) : undefined;
  const of = (values: Float64Array): Float64Array => (kept ? Float64Array.from(kept, (i) => values[i]!) : values);
  const { tin, report } = triangulate(of(easting), of(northing), of(elevation), options, lines);
  port.postMessage(0.8);
  const frame = gridFrameOver(tin, DISPLAY_GRID_CELLS);
  const grid = packArrays({ elevation: sampleTin(tin, frame) }, frame);
  port.postMessage(0.9);
  const result = {
    tin: packTin(tin),
    grid,
    origin: tin.origin,
    facts: tinFacts(tin),
    pointsThinned: kept ? count - kept.length : 0,
    ...report,
  };
  port.postMessage(1);
  return result;
}

export interface ContourTask {
  readonly tin: Uint8Array;
  readonly options: ContourOptions;
  readonly port: MessagePort;
}

export function contours({ tin, options, port }: ContourTask): { lines: Uint8Array; facts: ContourFacts } {
  const set = traceContours(unpackTin(tin), options, throttled(port));
  return { lines: packContours(set), facts: contourFacts(set) };
}

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

const NOISE_CLASSES: readonly number[] = [7, 18];

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

/** Progress to a port, at most every fiftieth of a second. */
export function throttled(port: MessagePort): (share: number) => void {
  let last = 0;
  return (share) => {
    const now = Date.now();
    if (now - last < 20 && share < 1) return;
    last = now;
    port.postMessage(share);
  };
}
