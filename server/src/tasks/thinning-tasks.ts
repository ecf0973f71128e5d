import { ascending } from '@pampero/core/columns';
import type { RasterFrame } from '@pampero/core/raster';
import type { MessagePort } from 'node:worker_threads';
import { PointFlag, unpackColumns, type ColumnName, type PointColumns, type Quantisation } from '@pampero/core/cloud';
import {
  addDifferences,
  differencesAt,
  keyPoints,
  priorityOf,
  newDifferenceSums,
  thinnedSurface,
  thinPoints,
  type DifferenceSums,
  type PointsToThin,
  type SurfacePoints,
  type ThinnedSurface,
  type ThinningOptions,
} from '@pampero/core/thinning';
import { sharedDoubles, sharedIndices } from '../shared-memory.js';
import { gatherTile, type FoundPoints, type TileTask } from './cleaning-tasks.js';
import { positionsOf, type NodeColumns } from './node-columns.js';
import { throttled } from './throttled.js';

export interface ThinTask extends TileTask {
  readonly options: ThinningOptions;
}

/** Of the tile's own points those that stay, and how many there were. */
export function thinTile(task: ThinTask): { kept: FoundPoints[]; judged: number } {
  const { places, own, ownCount } = gatherTile(task);
  const { tile, quantisation, options } = task;
  const priorities = new Uint32Array(places.count);
  for (let i = 0; i < places.count; i++) {
    places.x[i]! += tile.west;
    places.y[i]! += tile.south;
    // The priority is drawn from the scaled integers, found again to the half of a step.
    const integer = (value: number, axis: 0 | 1 | 2): number =>
      Math.round((value - quantisation.offset[axis]) / quantisation.scale[axis]);
    priorities[i] = priorityOf(integer(places.x[i]!, 0), integer(places.y[i]!, 1), integer(places.z[i]!, 2));
  }
  const mask = thinPoints(places, priorities, options, ownCount);
  let k = 0;
  const kept = own.flatMap(({ nodeId, indices }) => {
    const stays = indices.filter(() => mask[k++] === 1);
    return stays.length > 0 ? [{ nodeId, indices: stays }] : [];
  });
  return { kept, judged: ownCount };
}

/** Coordinates of all points of the chosen classes, about the first corner; which nodes' points they are is their order. */
export function surfacePoints({
  nodes,
  quantisation,
  takes,
}: {
  readonly nodes: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  readonly takes: Uint8Array;
}): { points: SurfacePoints; own: FoundPoints[] } {
  const own = nodes.map(({ nodeId, classification, flags }) => {
    const chosen = new Uint32Array(classification.length);
    let found = 0;
    for (let i = 0; i < classification.length; i++)
      if (takes[classification[i]!] === 1 && (flags[i]! & PointFlag.withheld) === 0) chosen[found++] = i;
    return { nodeId, indices: chosen.slice(0, found) };
  });
  return { points: placesOf({ nodes, chosen: own, quantisation }), own };
}

/** Coordinates of some points of some nodes, as {@link surfacePoints} has them. */
export function placesOf({
  nodes,
  chosen,
  quantisation: { scale },
}: {
  readonly nodes: readonly NodeColumns[];
  /** Of each of the nodes, in their order. */
  readonly chosen: readonly FoundPoints[];
  readonly quantisation: Quantisation;
}): SurfacePoints {
  const count = chosen.reduce((sum, { indices }) => sum + indices.length, 0);
  const points = { x: new Float64Array(count), y: new Float64Array(count), z: new Float64Array(count) };
  let at = 0;
  nodes.forEach((node, k) => {
    const { x, y, z } = positionsOf(node);
    const { indices } = chosen[k]!;
    for (let n = 0; n < indices.length; n++, at++) {
      const i = indices[n]!;
      points.x[at] = x[i]! * scale[0];
      points.y[at] = y[i]! * scale[1];
      points.z[at] = z[i]! * scale[2];
    }
  });
  return points;
}

/** Key points of all points of the chosen classes. */
export function keyPointsOf({
  points,
  tolerance,
  port,
}: {
  readonly points: PointsToThin;
  /** In the unit of the heights. */
  readonly tolerance: number;
  readonly port: MessagePort;
}): { isKept: Uint8Array; unheld: number } {
  return keyPoints(points, tolerance, throttled(port));
}

/** Of the chosen classes' points those whose intensity lies in a range. */
export function intensityBetween({
  nodes,
  columns,
  attributeNames,
  takes,
  from,
  to,
}: {
  readonly nodes: readonly NodeColumns[];
  readonly columns: PointColumns;
  readonly attributeNames: readonly ColumnName[];
  readonly takes: Uint8Array;
  readonly from: number;
  readonly to: number;
}): FoundPoints[] {
  return nodes.map((node) => {
    const { intensity } = unpackColumns(node.attributes!, node.count, attributeNames, columns, ['intensity']);
    const values = intensity as Uint16Array;
    const indices = ascending(node.classification.length).filter(
      (i) =>
        takes[node.classification[i]!] === 1 &&
        (node.flags[i]! & PointFlag.withheld) === 0 &&
        values[i]! >= from &&
        values[i]! <= to,
    );
    return { nodeId: node.nodeId, indices };
  });
}

type Tile = TileTask['tile'];

/** A surface in memory that threads share, its facets listed tile by tile; a facet that reaches into several stands in each. */
export interface SharedSurface extends ThinnedSurface {
  readonly facets: Uint32Array;
  /** Where each tile's facets begin, and the end. */
  readonly starts: Uint32Array;
}

/** The TIN of the points that stay, about the first corner; tiles are in job coordinates. */
export function layThinned({
  parts,
  offset,
  tiles,
}: {
  readonly parts: readonly SurfacePoints[];
  readonly offset: Quantisation['offset'];
  readonly tiles: readonly Tile[];
}): SharedSurface {
  const count = parts.reduce((sum, part) => sum + part.x.length, 0);
  const points = { x: sharedDoubles(count), y: sharedDoubles(count), z: sharedDoubles(count) };
  let at = 0;
  for (const part of parts) {
    for (const axis of ['x', 'y', 'z'] as const) points[axis].set(part[axis], at);
    at += part.x.length;
  }
  const { corners } = thinnedSurface(points);
  const { facets, starts } = byTile(points, corners, offset, tiles);
  const shared = sharedIndices(corners.length);
  shared.set(corners);
  return { ...points, corners: shared, facets, starts };
}

/** The facets that reach into each tile, by tile. Tiles are squares of one size on whole multiples of it. */
function byTile(
  { x, y }: SurfacePoints,
  corners: Uint32Array,
  offset: Quantisation['offset'],
  tiles: readonly Tile[],
): Pick<SharedSurface, 'facets' | 'starts'> {
  const [first] = tiles;
  const side = first ? first.east - first.west : 1;
  const keyOf = (column: number, row: number): number => column * 2 ** 26 + row;
  const tileAt = new Map(
    tiles.map(({ west, south }, k) => [keyOf(Math.round(west / side), Math.round(south / side)), k]),
  );
  const eachTile = (f: number, visit: (tile: number) => void): void => {
    const a = corners[f]!;
    const b = corners[f + 1]!;
    const c = corners[f + 2]!;
    const low = (p: number, q: number, r: number, axis: 0 | 1): number =>
      Math.floor((Math.min(p, q, r) + offset[axis]) / side);
    const high = (p: number, q: number, r: number, axis: 0 | 1): number =>
      Math.floor((Math.max(p, q, r) + offset[axis]) / side);
    const [lastColumn, lastRow] = [high(x[a]!, x[b]!, x[c]!, 0), high(y[a]!, y[b]!, y[c]!, 1)];
    for (let column = low(x[a]!, x[b]!, x[c]!, 0); column <= lastColumn; column++)
      for (let row = low(y[a]!, y[b]!, y[c]!, 1); row <= lastRow; row++) {
        const tile = tileAt.get(keyOf(column, row));
        if (tile !== undefined) visit(tile);
      }
  };
  const starts = new Uint32Array(tiles.length + 1);
  for (let f = 0; f < corners.length; f += 3) eachTile(f, (tile) => starts[tile + 1]!++);
  for (let k = 0; k < tiles.length; k++) starts[k + 1]! += starts[k]!;
  const next = starts.slice();
  const facets = sharedIndices(starts.at(-1)!);
  for (let f = 0; f < corners.length; f += 3) eachTile(f, (tile) => (facets[next[tile]!++] = f / 3));
  return { facets, starts };
}

export interface DifferenceTask extends Omit<TileTask, 'margin'> {
  readonly surface: SharedSurface;
  /** Which of the surface's tiles this is. */
  readonly tileAt: number;
  /** The points that stay, node by node. */
  readonly kept: readonly FoundPoints[];
  /** Of a map of the differences, where one is wanted. */
  readonly frame: RasterFrame | undefined;
}

/** The greatest difference of each cell of a piece of a map. */
export interface MapPart {
  readonly column: number;
  readonly row: number;
  readonly columns: number;
  readonly rows: number;
  readonly values: Float32Array;
}

/** Holds the tile's own points that were set aside against the surface of those that stay. */
export function thinnedDifference(task: DifferenceTask): { sums: DifferenceSums; map?: MapPart } {
  const { surface, tile, tileAt, quantisation, frame } = task;
  const { places, own, ownCount } = gatherTile({ ...task, margin: 0 });
  const stays = new Map<number, Uint8Array>();
  for (const { nodeId, indices } of task.kept) {
    const { count } = task.nodes.find((node) => node.nodeId === nodeId)!;
    const mask = stays.get(nodeId) ?? new Uint8Array(count);
    for (let k = 0; k < indices.length; k++) mask[indices[k]!] = 1;
    stays.set(nodeId, mask);
  }
  const aside = new Uint32Array(ownCount);
  let [at, found] = [0, 0];
  for (const { nodeId, indices } of own) {
    const mask = stays.get(nodeId);
    for (let k = 0; k < indices.length; k++, at++) if (mask?.[indices[k]!] !== 1) aside[found++] = at;
  }
  const pick = (values: Float64Array): Float64Array => {
    const out = new Float64Array(found);
    for (let k = 0; k < found; k++) out[k] = values[aside[k]!]!;
    return out;
  };
  const points = { x: pick(places.x), y: pick(places.y), z: pick(places.z) };
  const { offset } = quantisation;
  // Places are about the tile's corner and in full height; the surface is about the offset.
  for (let k = 0; k < found; k++) points.z[k]! -= offset[2];
  const facets = surface.facets.subarray(surface.starts[tileAt], surface.starts[tileAt + 1]);
  const differences = differencesAt(points, surface, facets, offset[0] - tile.west, offset[1] - tile.south);
  const sums = newDifferenceSums();
  addDifferences(sums, differences);
  return { sums, ...(frame && { map: mapOf(points, differences, tile, frame) }) };
}

function mapOf({ x, y }: SurfacePoints, differences: Float32Array, tile: Tile, frame: RasterFrame): MapPart {
  const at = (value: number, low: number): number => Math.floor((value - low) / frame.cell);
  const column = Math.max(0, at(tile.west, frame.east));
  const row = Math.max(0, at(tile.south, frame.north));
  const columns = Math.min(frame.columns - 1, at(tile.east, frame.east)) - column + 1;
  const rows = Math.min(frame.rows - 1, at(tile.north, frame.north)) - row + 1;
  const values = new Float32Array(Math.max(0, columns) * Math.max(0, rows)).fill(NaN);
  for (let i = 0; i < differences.length; i++) {
    const d = differences[i]!;
    const c = at(x[i]! + tile.west, frame.east) - column;
    const r = at(y[i]! + tile.south, frame.north) - row;
    if (Number.isNaN(d) || c < 0 || c >= columns || r < 0 || r >= rows) continue;
    if (isFurther(d, values[r * columns + c]!)) values[r * columns + c] = d;
  }
  return { column, row, columns: Math.max(0, columns), rows: Math.max(0, rows), values };
}

/** Whether a difference is the greater one; of two alike the upper, so that the order does not matter. */
export function isFurther(d: number, than: number): boolean {
  return Number.isNaN(than) || Math.abs(d) > Math.abs(than) || (Math.abs(d) === Math.abs(than) && d > than);
}
