import { columnFrom } from '@pampero/core/columns';
import type { RasterFrame } from '@pampero/core/raster';
import { PointFlag, type Quantisation } from '@pampero/core/cloud';
import {
  addGround,
  bridgeDecks,
  type DECK_SEES,
  carryClasses,
  classifyObjects,
  newGroundSums,
  upperSurface,
  waterAt,
  type BridgeOptions,
  type DeckLevels,
  type WaterLevels,
  type ClassCells,
  type GroundModel,
  type GroundSums,
  type ObjectOptions,
} from '@pampero/core/objects';
import { gatherTile, type FoundPoints, type TileTask } from './cleaning-tasks.js';
import { positionsOf, type NodeColumns } from './node-columns.js';

export interface ClassSumsTask {
  readonly nodes: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  readonly frame: RasterFrame;
  /** Of each group of classes the codes that belong to it. */
  readonly masks: readonly Uint8Array[];
}

/** Points and heights of several groups of classes at once, a cell each. */
export function classSums({ nodes, quantisation, frame, masks }: ClassSumsTask): GroundSums[] {
  const all = masks.map(() => newGroundSums(frame));
  for (const node of nodes) {
    const batch = { ...positionsOf(node), classification: node.classification, flags: node.flags };
    masks.forEach((mask, k) => addGround(all[k]!, batch, quantisation, mask));
  }
  return all;
}

export interface AtLevelsTask {
  readonly nodes: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  readonly levels: WaterLevels;
  readonly takes: Uint8Array;
  /** How far off the level they lie at most, job units. */
  readonly above: number;
  readonly below: number;
  readonly code: number;
}

/** Points near the level that water or a deck has in their cell get its class. */
export function atLevels({
  nodes,
  quantisation: { scale, offset },
  levels,
  takes,
  above,
  below,
  code,
}: AtLevelsTask): NewClasses[] {
  return nodes.flatMap((node) => {
    const { x, y, z } = positionsOf(node);
    const indices: number[] = [];
    for (let i = 0; i < node.count; i++) {
      if (takes[node.classification[i]!] === 0 || (node.flags[i]! & PointFlag.withheld) !== 0) continue;
      if (node.classification[i] === code) continue;
      const level = waterAt(levels, x[i]! * scale[0] + offset[0], y[i]! * scale[1] + offset[1]);
      const over = z[i]! * scale[2] + offset[2] - level;
      if (over <= above && over >= -below) indices.push(i);
    }
    if (indices.length === 0) return [];
    return [
      { nodeId: node.nodeId, indices: Uint32Array.from(indices), classes: new Uint8Array(indices.length).fill(code) },
    ];
  });
}

/** Bridge decks from sums of ground, and of what may be a deck all the same. */
export function decksOf({
  seen,
  quantisation: { scale, offset },
  options,
}: {
  readonly seen: Readonly<Record<keyof typeof DECK_SEES, GroundSums>>;
  readonly quantisation: Quantisation;
  readonly options: BridgeOptions;
}): DeckLevels {
  return bridgeDecks(seen.land, upperSurface(seen, { scale: scale[2], offset: offset[2] }), options);
}

export interface ObjectTask extends TileTask {
  readonly ground: GroundModel;
  readonly options: ObjectOptions;
}

/** Points of one node that get another class. */
export interface NewClasses {
  readonly nodeId: number;
  readonly indices: Uint32Array;
  readonly classes: Uint8Array;
}

/** New classes of the tile's own points, where they differ from the present ones. */
export function objectsOfTile(task: ObjectTask): NewClasses[] {
  const { places, own, ownCount, isGreen } = gatherTile(task);
  const { tile } = task;
  // Tiles keep places about their own corner; ground and cells of roofs are about the job's.
  for (let i = 0; i < places.count; i++) {
    places.x[i]! += tile.west;
    places.y[i]! += tile.south;
  }
  const classOf = new Map(task.nodes.map(({ nodeId, classification }) => [nodeId, classification]));
  const present = new Uint8Array(ownCount);
  let k = 0;
  for (const { nodeId, indices } of own) for (const i of indices) present[k++] = classOf.get(nodeId)![i]!;
  // What takes no part was left out as the points were gathered.
  const isAsked = new Uint8Array(places.count).fill(1);
  const next = classifyObjects(places, task.ground, task.options, isAsked, present, ownCount, isGreen);
  return changedClasses(own, present, next);
}

export interface CarryTask extends TileTask {
  /** The cloud whose classes are carried, in and about the tile. */
  readonly source: Pick<TileTask, 'nodes' | 'quantisation' | 'takes'>;
  readonly distance: number;
}

/** New classes of the tile's own points, from the nearest points of another cloud. */
export function carryTile(task: CarryTask): NewClasses[] {
  const { places, own, ownCount } = gatherTile(task);
  const { tile, source, distance } = task;
  const given = gatherTile({ ...source, tile, margin: distance });
  // Own points first, then the margin's, node by node: their classes in the same order.
  const sourceClasses = new Uint8Array(given.places.count);
  gatherClasses(source, tile, distance, sourceClasses);
  const classOf = new Map(task.nodes.map(({ nodeId, classification }) => [nodeId, classification]));
  const present = new Uint8Array(ownCount);
  let k = 0;
  for (const { nodeId, indices } of own) for (const i of indices) present[k++] = classOf.get(nodeId)![i]!;
  const next = carryClasses(places, ownCount, given.places, sourceClasses, distance, present);
  return changedClasses(own, present, next);
}

/** Classes of the points that {@link gatherTile} gathers, in its order. */
function gatherClasses(
  { nodes, quantisation: { scale, offset }, takes }: CarryTask['source'],
  tile: TileTask['tile'],
  margin: number,
  out: Uint8Array,
): void {
  let at = 0;
  for (const isOwn of [true, false])
    for (const node of nodes) {
      const { x, y } = positionsOf(node);
      for (let i = 0; i < node.count; i++) {
        const code = node.classification[i]!;
        if (takes[code] === 0 || (node.flags[i]! & PointFlag.withheld) !== 0) continue;
        const e = x[i]! * scale[0] + offset[0];
        const n = y[i]! * scale[1] + offset[1];
        const isIn = e >= tile.west && e < tile.east && n >= tile.south && n < tile.north;
        const isNear =
          e >= tile.west - margin && e <= tile.east + margin && n >= tile.south - margin && n <= tile.north + margin;
        if (isOwn ? isIn : !isIn && isNear) out[at++] = code;
      }
    }
}

function changedClasses(own: readonly FoundPoints[], present: Uint8Array, next: Uint8Array): NewClasses[] {
  let k = 0;
  return own.flatMap(({ nodeId, indices }) => {
    const first = k;
    k += indices.length;
    const changed = [...indices.keys()].filter((at) => next[first + at] !== present[first + at]);
    return changed.length === 0
      ? []
      : [
          {
            nodeId,
            indices: columnFrom(Uint32Array, changed, (at) => indices[at]!),
            classes: columnFrom(Uint8Array, changed, (at) => next[first + at]!),
          },
        ];
  });
}

/** Points and highest point of each cell, for several classes at once. */
export function classCells({
  nodes,
  quantisation: { scale, offset },
  frame,
  classes,
}: {
  readonly nodes: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  readonly frame: RasterFrame;
  readonly classes: readonly number[];
}): ClassCells[] {
  const cells = frame.columns * frame.rows;
  const all = classes.map(() => ({
    ...frame,
    count: new Uint32Array(cells),
    highest: new Float64Array(cells).fill(-Infinity),
  }));
  const indexOf = new Int16Array(256).fill(-1);
  classes.forEach((code, k) => (indexOf[code] = k));
  for (const node of nodes) {
    const { x, y, z } = positionsOf(node);
    for (let i = 0; i < node.count; i++) {
      const of = indexOf[node.classification[i]!]!;
      if (of < 0 || (node.flags[i]! & PointFlag.withheld) !== 0) continue;
      const column = Math.floor((x[i]! * scale[0] + offset[0] - frame.east) / frame.cell);
      const row = Math.floor((y[i]! * scale[1] + offset[1] - frame.north) / frame.cell);
      const at =
        Math.min(frame.rows - 1, Math.max(0, row)) * frame.columns + Math.min(frame.columns - 1, Math.max(0, column));
      const part = all[of]!;
      part.count[at]!++;
      const elevation = z[i]! * scale[2] + offset[2];
      if (elevation > part.highest[at]!) part.highest[at] = elevation;
    }
  }
  return all;
}
