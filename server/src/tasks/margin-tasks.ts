import type { PlanBounds } from '@pampero/core/raster';
import { ownsPlace, PointMatches, type IntegerPoints } from '@pampero/core/squares';
import type { CloudColumns } from './chosen-points.js';
import { positionsOf, type NodeColumns } from './node-columns.js';

export interface MatchMarginTask {
  /** The cloud whose margin is brought in line. */
  readonly margin: CloudColumns;
  /** The same file's points as the neighbouring square has them, its nodes or its own points near its edges; of the same scale and offset. */
  readonly neighbour: CloudColumns | IntegerPoints;
  /** The neighbour's square, without its margin. */
  readonly land: PlanBounds;
}

/** Points of a node whose class or flags become others. */
export interface MatchedMarks {
  readonly nodeId: number;
  readonly indices: Uint32Array;
  readonly classification: Uint8Array;
  readonly flags: Uint8Array;
}

export interface MatchedMargin {
  readonly changes: readonly MatchedMarks[];
  /** Points of the margin that lie in the neighbour's square; and how many of them it does not have. */
  readonly points: number;
  readonly missing: number;
}

/** Classes and flags of a margin's points as the square that they belong to has them. */
export function matchMargin({ margin, neighbour, land }: MatchMarginTask): MatchedMargin {
  const matches = matchesOf(neighbour, land);
  const found = new Map<number, { indices: number[]; classification: number[]; flags: number[] }>();
  let [points, missing] = [0, 0];
  eachWithin(margin, land, (own, { nodeId }, i) => {
    points++;
    const mark = matches.take(own, i);
    if (mark < 0) missing++;
    if (mark < 0 || (mark >> 8 === own.classification[i] && (mark & 0xff) === own.flags[i])) return;
    let change = found.get(nodeId);
    if (!change) found.set(nodeId, (change = { indices: [], classification: [], flags: [] }));
    change.indices.push(i);
    change.classification.push(mark >> 8);
    change.flags.push(mark & 0xff);
  });
  const changes = [...found].map(([nodeId, { indices, classification, flags }]) => ({
    nodeId,
    indices: Uint32Array.from(indices),
    classification: Uint8Array.from(classification),
    flags: Uint8Array.from(flags),
  }));
  return { changes, points, missing };
}

function matchesOf(neighbour: CloudColumns | IntegerPoints, land: PlanBounds): PointMatches {
  if (!('nodes' in neighbour)) {
    const matches = new PointMatches(neighbour.count);
    for (let i = 0; i < neighbour.count; i++) matches.add(neighbour, i);
    return matches;
  }
  const matches = new PointMatches(neighbour.nodes.reduce((sum, { count }) => sum + count, 0));
  eachWithin(neighbour, land, (points, _, i) => matches.add(points, i));
  return matches;
}

export interface CollectEdgeTask {
  readonly cloud: CloudColumns;
  /** The square, without its margin. */
  readonly land: PlanBounds;
  /** What the squares about know, each with its margin. */
  readonly reaches: readonly PlanBounds[];
}

/** A square's own points that squares about it have in their margins, with their classes. */
export function collectEdge({ cloud, land, reaches }: CollectEdgeTask): IntegerPoints {
  const {
    scale: [scaleX, scaleY],
    offset: [offsetX, offsetY],
  } = cloud.quantisation;
  const isNear = (x: number, y: number): boolean => {
    const [easting, northing] = [x * scaleX + offsetX, y * scaleY + offsetY];
    return reaches.some(
      ({ west, south, east, north }) => easting >= west && easting <= east && northing >= south && northing <= north,
    );
  };
  const chosen = new Map<NodeColumns, number[]>(cloud.nodes.map((node) => [node, []]));
  eachWithin(cloud, land, ({ x, y }, node, i) => {
    if (isNear(x[i]!, y[i]!)) chosen.get(node)!.push(i);
  });
  const count = [...chosen.values()].reduce((sum, indices) => sum + indices.length, 0);
  const [x, y, z] = [new Int32Array(count), new Int32Array(count), new Int32Array(count)];
  const [classification, flags] = [new Uint8Array(count), new Uint8Array(count)];
  let at = 0;
  for (const [node, indices] of chosen) {
    const places = positionsOf(node);
    for (const i of indices) {
      x[at] = places.x[i]!;
      y[at] = places.y[i]!;
      z[at] = places.z[i]!;
      classification[at] = node.classification[i]!;
      flags[at++] = node.flags[i]!;
    }
  }
  return { count, x, y, z, classification, flags };
}

/** Walks the points of a cloud that belong to some land. */
function eachWithin(
  { nodes, quantisation: { scale, offset } }: CloudColumns,
  land: PlanBounds,
  visit: (points: NodeColumns & ReturnType<typeof positionsOf>, node: NodeColumns, i: number) => void,
): void {
  for (const node of nodes) {
    const positions = positionsOf(node);
    const points = { ...node, ...positions };
    for (let i = 0; i < node.count; i++)
      if (ownsPlace(land, positions.x[i]! * scale[0] + offset[0], positions.y[i]! * scale[1] + offset[1]))
        visit(points, node, i);
  }
}
