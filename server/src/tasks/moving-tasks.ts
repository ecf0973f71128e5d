import { ascending } from '@pampero/core/columns';
import { packColumns } from '@pampero/core/cloud';
import {
  applySimilarity,
  Corrector,
  heightAt,
  smoothedPlaces,
  stripsOfPoints,
  type HeightCorrection,
  type Similarity,
  type SmoothSettings,
} from '@pampero/core/strips';
import type { MovedNode } from '../store/position-repository.js';
import { positionsOf, type NodeColumns } from './node-columns.js';
import { attributesOf, finderOf, takesPart, type FlightCorrection, type StripCloud } from './strip-points.js';

export interface MovedPart {
  readonly nodes: readonly MovedNode[];
  readonly points: number;
  /** Points whose time the trajectory does not cover: they stayed. */
  readonly stayed: number;
  readonly sum: number;
  readonly furthest: number;
}

const INT_LIMIT = 2 ** 31 - 1;

/** Moves whole nodes by what `place` says of each point. */
export function moveNodes(
  cloud: Pick<StripCloud, 'nodes' | 'quantisation'>,
  place: (node: NodeColumns) => (i: number, x: number, y: number, z: number, out: Float64Array) => boolean,
): MovedPart {
  const { scale, offset } = cloud.quantisation;
  const out = new Float64Array(3);
  let [points, stayed, sum, furthest] = [0, 0, 0, 0];
  const nodes = cloud.nodes.map((node): MovedNode => {
    const { x, y, z } = positionsOf(node);
    const columns = [x, y, z] as const;
    const move = place(node);
    const min: [number, number, number] = [INT_LIMIT, INT_LIMIT, INT_LIMIT];
    const max: [number, number, number] = [-INT_LIMIT, -INT_LIMIT, -INT_LIMIT];
    for (let i = 0; i < node.count; i++) {
      const px = x[i]! * scale[0] + offset[0];
      const py = y[i]! * scale[1] + offset[1];
      const pz = z[i]! * scale[2] + offset[2];
      if (move(i, px, py, pz, out)) {
        const way = Math.sqrt((out[0]! - px) ** 2 + (out[1]! - py) ** 2 + (out[2]! - pz) ** 2);
        sum += way;
        if (way > furthest) furthest = way;
        for (let axis = 0; axis < 3; axis++) {
          const value = Math.round((out[axis]! - offset[axis]!) / scale[axis]!);
          columns[axis]![i] = Math.max(-INT_LIMIT, Math.min(INT_LIMIT, value));
        }
      } else stayed++;
      for (let axis = 0; axis < 3; axis++) {
        const value = columns[axis]![i]!;
        if (value < min[axis]!) min[axis] = value;
        if (value > max[axis]!) max[axis] = value;
      }
    }
    points += node.count;
    return { nodeId: node.nodeId, min, max, geometry: packColumns([{ values: x }, { values: y }, { values: z }]) };
  });
  return { nodes, points, stayed, sum, furthest };
}

/** Moves nodes by a flight's correction. */
export function moveByFlight(task: StripCloud & FlightCorrection): MovedPart {
  const corrector = new Corrector(task.correction, finderOf(task));
  return moveNodes(task, (node) => {
    const { pointSourceId, gpsTime } = attributesOf(task, node);
    const strips = stripsOfPoints(task.rule, { pointSourceId, gpsTime });
    return (i, x, y, z, out) => {
      if (!corrector.correct(x, y, z, (gpsTime ? gpsTime[i]! : 0) + task.timeShift, strips[i]!)) return false;
      out.set(corrector.point);
      return true;
    };
  });
}

/** Moves, turns and scales nodes. */
export function moveBySimilarity(
  task: Pick<StripCloud, 'nodes' | 'quantisation'> & { readonly fit: Similarity },
): MovedPart {
  return moveNodes(task, () => (_, x, y, z, out) => {
    out.set(applySimilarity(task.fit, [x, y, z]));
    return true;
  });
}

/** Moves nodes up or down. */
export function moveByHeight(
  task: Pick<StripCloud, 'nodes' | 'quantisation'> & { readonly heights: HeightCorrection },
): MovedPart {
  return moveNodes(task, () => (_, x, y, z, out) => {
    out[0] = x;
    out[1] = y;
    out[2] = z + heightAt(task.heights, x, y);
    return true;
  });
}

/** Points of a tile that move onto the plane of their neighbours, by node: places in it and how far. */
export function smoothTile(
  task: Pick<StripCloud, 'nodes' | 'quantisation'> &
    SmoothSettings & {
      readonly tile: { readonly west: number; readonly south: number; readonly east: number; readonly north: number };
    },
): readonly { readonly nodeId: number; readonly indices: Uint32Array; readonly by: Float64Array }[] {
  const { scale, offset } = task.quantisation;
  const total = task.nodes.reduce((sum, { count }) => sum + count, 0);
  const [x, y, z] = [0, 1, 2].map(() => new Float64Array(total)) as [Float64Array, Float64Array, Float64Array];
  const isAsked = new Uint8Array(total);
  const starts: number[] = [];
  const { west, south, east, north } = task.tile;
  let at = 0;
  for (const node of task.nodes) {
    starts.push(at);
    const places = positionsOf(node);
    for (let i = 0; i < node.count; i++, at++) {
      const [px, py] = [places.x[i]! * scale[0] + offset[0], places.y[i]! * scale[1] + offset[1]];
      x[at] = px - west;
      y[at] = py - south;
      z[at] = places.z[i]! * scale[2] + offset[2];
      if (!takesPart(node, i)) z[at] = NaN;
      else if (px >= west && px < east && py >= south && py < north) isAsked[at] = 1;
    }
  }
  // What takes no part is put out of everybody's reach.
  for (let i = 0; i < total; i++) if (Number.isNaN(z[i]!)) z[i] = -1e7 - i;
  const smoothed = smoothedPlaces({ count: total, x, y, z }, isAsked, task);
  const perNode = task.nodes.map(() => ({ indices: [] as number[], by: [] as number[] }));
  const order = ascending(smoothed.moved.length).sort((a, b) => smoothed.moved[a]! - smoothed.moved[b]!);
  let node = 0;
  for (const k of order) {
    const place = smoothed.moved[k]!;
    while (node + 1 < starts.length && place >= starts[node + 1]!) node++;
    perNode[node]!.indices.push(place - starts[node]!);
    perNode[node]!.by.push(smoothed.east[k]!, smoothed.north[k]!, smoothed.up[k]!);
  }
  return perNode.flatMap(({ indices, by }, k) =>
    indices.length === 0
      ? []
      : [{ nodeId: task.nodes[k]!.nodeId, indices: Uint32Array.from(indices), by: Float64Array.from(by) }],
  );
}

/** Moves single points of nodes. */
export function moveSinglePoints(
  task: Pick<StripCloud, 'nodes' | 'quantisation'> & {
    readonly moves: readonly { readonly nodeId: number; readonly indices: Uint32Array; readonly by: Float64Array }[];
  },
): MovedPart {
  return moveNodes(task, (node) => {
    const by = new Map<number, readonly [number, number, number]>();
    for (const move of task.moves)
      if (move.nodeId === node.nodeId)
        move.indices.forEach((i, k) => by.set(i, [move.by[3 * k]!, move.by[3 * k + 1]!, move.by[3 * k + 2]!]));
    return (i, x, y, z, out) => {
      const move = by.get(i);
      if (!move) return false;
      out[0] = x + move[0];
      out[1] = y + move[1];
      out[2] = z + move[2];
      return true;
    };
  });
}
