import {
  lonelinessOf,
  meanNeighbourDistances,
  runFilter,
  sumDistances,
  type CleaningFilter,
  type DistanceSums,
  type Loneliness,
  type Places,
} from '@pampero/core/cleaning';
import { PointFlag, unpackColumns, type ColumnName, type PointColumns, type Quantisation } from '@pampero/core/cloud';
import { doubtOfGreen, tooDoubtful } from '@pampero/core/ground';
import { extraValues, type ExtraDimension } from '@pampero/core/formats/las';
import { positionsOf, type NodeColumns } from './node-columns.js';

/** A square of land with the points in it and about it. */
export interface TileTask {
  readonly nodes: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  readonly tile: { readonly west: number; readonly south: number; readonly east: number; readonly north: number };
  readonly margin: number;
  /** How to read confidence out of the nodes' attributes, where the filter asks about it. */
  readonly confidence?: {
    readonly dimension: ExtraDimension;
    readonly columns: PointColumns;
    readonly attributeNames: readonly ColumnName[];
  };
  /** How to tell green points, where it matters: those with more excess green than this. */
  readonly green?: {
    readonly limit: number;
    readonly columns: PointColumns;
    readonly attributeNames: readonly ColumnName[];
  };
  /** 1 for classes that take part; points of the others are as if they were not. */
  readonly takes: Uint8Array;
}

export interface CleanTask extends TileTask {
  readonly filter: CleaningFilter;
}

/** Which points of a node are meant: places in it, in order. */
export interface FoundPoints {
  readonly nodeId: number;
  readonly indices: Uint32Array;
}

/** The tile's own points first, then its margin's; and where in the nodes its own are. */
export function gatherTile({ nodes, quantisation, tile, margin, takes, confidence, green }: TileTask): {
  places: Places;
  isGreen?: Uint8Array;
  own: FoundPoints[];
  ownCount: number;
} {
  // Bare numbers: looking into objects and tuples at every point would be half of the work.
  const [scaleX, scaleY, scaleZ] = quantisation.scale;
  const [offsetX, offsetY, offsetZ] = quantisation.offset;
  const { west, south, east, north } = tile;
  const [farWest, farSouth, farEast, farNorth] = [west - margin, south - margin, east + margin, north + margin];
  // Written over from node to node: fresh memory for each costs as much as the looking.
  const most = nodes.reduce((greatest, { count }) => Math.max(greatest, count), 0);
  const own = new Uint32Array(most);
  const around = new Uint32Array(most);
  const parts = nodes.map((node) => {
    const { x, y, z } = positionsOf(node);
    const { classification, flags, count } = node;
    let [owned, near] = [0, 0];
    for (let i = 0; i < count; i++) {
      const e = x[i]! * scaleX + offsetX;
      const n = y[i]! * scaleY + offsetY;
      if (e < farWest || e > farEast || n < farSouth || n > farNorth) continue;
      if (takes[classification[i]!] === 0 || (flags[i]! & PointFlag.withheld) !== 0) continue;
      if (e >= west && e < east && n >= south && n < north) own[owned++] = i;
      else around[near++] = i;
    }
    const sure = confidence && confidenceOf(node, confidence);
    const greens = green && greenOf(node, green);
    return { nodeId: node.nodeId, x, y, z, sure, greens, own: own.slice(0, owned), around: around.slice(0, near) };
  });
  const ownCount = parts.reduce((sum, { own }) => sum + own.length, 0);
  const count = parts.reduce((sum, { around }) => sum + around.length, ownCount);
  const [px, py, pz] = [new Float64Array(count), new Float64Array(count), new Float64Array(count)];
  const sureOf = confidence && new Float32Array(count);
  const places = { count, x: px, y: py, z: pz, ...(sureOf && { confidence: sureOf }) };
  const isGreen = green && new Uint8Array(count);
  let at = 0;
  const put = ({ x, y, z, sure, greens }: (typeof parts)[number], indices: Uint32Array): void => {
    const first = at;
    for (let k = 0; k < indices.length; k++) {
      const i = indices[k]!;
      px[at] = x[i]! * scaleX + offsetX - west;
      py[at] = y[i]! * scaleY + offsetY - south;
      pz[at++] = z[i]! * scaleZ + offsetZ;
    }
    if (sure && sureOf) for (let k = 0; k < indices.length; k++) sureOf[first + k] = sure[indices[k]!]!;
    if (greens && isGreen) for (let k = 0; k < indices.length; k++) isGreen[first + k] = greens[indices[k]!]!;
  };
  for (const part of parts) put(part, part.own);
  for (const part of parts) put(part, part.around);
  return {
    places,
    ...(isGreen && { isGreen }),
    ownCount,
    own: parts.filter(({ own }) => own.length > 0).map(({ nodeId, own }) => ({ nodeId, indices: own })),
  };
}

function greenOf(node: NodeColumns, { limit, columns, attributeNames }: NonNullable<TileTask['green']>): Uint8Array {
  const names = ['red', 'green', 'blue'] as const;
  const colours = unpackColumns(node.attributes!, node.count, attributeNames, columns, names) as unknown as Record<
    (typeof names)[number],
    Uint16Array
  >;
  return tooDoubtful(doubtOfGreen({ count: node.count, ...colours }, limit));
}

function confidenceOf(
  node: NodeColumns,
  { dimension, columns, attributeNames }: NonNullable<TileTask['confidence']>,
): Float32Array {
  const { extraBytes } = unpackColumns(node.attributes!, node.count, attributeNames, columns, ['extraBytes']);
  return extraValues(dimension, extraBytes as Uint8Array, columns.extraBytesLength, node.count);
}

function chosen(own: readonly FoundPoints[], isFound: (k: number) => boolean): FoundPoints[] {
  let k = 0;
  return own.flatMap(({ nodeId, indices }) => {
    const found = indices.filter(() => isFound(k++));
    return found.length > 0 ? [{ nodeId, indices: found }] : [];
  });
}

/** Points of the tile that the filter finds. */
export function cleanTile(task: CleanTask): { found: FoundPoints[]; judged: number } {
  const { places, own, ownCount } = gatherTile(task);
  const mask = ownCount === 0 ? new Uint8Array(0) : runFilter(task.filter, places, ownCount);
  return { found: chosen(own, (k) => mask[k] === 1), judged: ownCount };
}

/** Mean distances of the tile's points to their neighbours, for a threshold over the whole cloud. */
export function neighbourDistances(task: CleanTask & { filter: Extract<CleaningFilter, { kind: 'outliers' }> }): {
  distances: Float32Array;
  own: FoundPoints[];
  sums: DistanceSums;
} {
  const { places, own, ownCount } = gatherTile(task);
  const distances = meanNeighbourDistances(places, task.filter.neighbours, task.filter.furthest, ownCount);
  return { distances, own, sums: sumDistances(distances) };
}

/** How many of the tile's points are alone at rising radii. */
export function tileLoneliness(task: TileTask & { readonly spacing: number }): Loneliness {
  const { places, ownCount } = gatherTile(task);
  return lonelinessOf(places, task.spacing, ownCount);
}
