import { ascending, columnFrom } from '@pampero/core/columns';
import {
  NOISE_CLASSES,
  PointFlag,
  SCAN_ANGLE_STEP,
  unpackColumns,
  type ColumnName,
  type PointColumns,
  type Quantisation,
} from '@pampero/core/cloud';
import { packColumns } from '@pampero/core/cloud';
import {
  cellsOf,
  Corrector,
  fitPatches,
  heightAt,
  keptStrips,
  NO_STRIP,
  pairPatches,
  PoseFinder,
  smoothedPlaces,
  stripsOfPoints,
  type Correction,
  type HeightCorrection,
  type PatchFrame,
  type PatchLimits,
  type PatchPairs,
  type Patches,
  type SmoothSettings,
  type StripRule,
  type Trajectory,
} from '@pampero/core/strips';
import type { MovedNode } from '../store/position-repository.js';
import { positionsOf, type NodeColumns } from './node-columns.js';

/** Nodes of a cloud with all their columns, and what makes a strip of their points. */
export interface StripCloud {
  readonly nodes: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  readonly columns: PointColumns;
  readonly attributeNames: readonly ColumnName[];
  readonly rule: StripRule;
}

/** A flight's way and what its points are corrected by. */
export interface FlightCorrection {
  readonly correction: Correction;
  /** In memory that threads share; the key tells one from another, so that a thread keeps what it made of it. */
  readonly trajectory?: { readonly key: string; readonly columns: Trajectory } | undefined;
  /** Seconds to add to the cloud's times to have the trajectory's. */
  readonly timeShift: number;
  /** What is solved for hangs on times, trajectory or not. */
  readonly needsTimes?: boolean | undefined;
}

let kept: { key: string; finder: PoseFinder } | undefined;

function finderOf({ trajectory }: FlightCorrection): PoseFinder | undefined {
  if (!trajectory) return undefined;
  if (kept?.key !== trajectory.key) kept = { key: trajectory.key, finder: new PoseFinder(trajectory.columns) };
  return kept.finder;
}

const WANTED = ['returns', 'scanAngle', 'pointSourceId', 'gpsTime'] as const satisfies readonly ColumnName[];

interface AttributeColumns {
  readonly returns: Uint8Array;
  readonly scanAngle: Int16Array;
  readonly pointSourceId: Uint16Array;
  readonly gpsTime?: Float64Array;
}

function attributesOf(cloud: StripCloud, node: NodeColumns, withTimes = true): AttributeColumns {
  const wanted = WANTED.filter((name) => cloud.attributeNames.includes(name) && (withTimes || name !== 'gpsTime'));
  return unpackColumns(node.attributes!, node.count, cloud.attributeNames, cloud.columns, wanted) as AttributeColumns;
}

/** Which points can be of smooth ground: no noise, nothing withheld, single returns if asked for. */
export interface PatchChoice {
  readonly singleOnly: boolean;
}

const isNoise = columnFrom(Uint8Array, { length: 256 }, (_, code) =>
  NOISE_CLASSES.includes(code) || code === 9 ? 1 : 0,
);
const SINGLE = 0x11;

/** Noise, water and what is withheld take no part. */
function takesPart({ classification, flags }: NodeColumns, i: number): boolean {
  return isNoise[classification[i]!] === 0 && (flags[i]! & PointFlag.withheld) === 0;
}

function isNothing({ strips }: Correction): boolean {
  return strips.every(({ shift, drift }) => [...shift, ...drift].every((value) => value === 0));
}

/** The points of a tile with their strips and times, where they are after the correction. */
function stripPoints(
  cloud: StripCloud,
  { singleOnly }: PatchChoice,
  flight: FlightCorrection,
  reach: { readonly west: number; readonly south: number; readonly east: number; readonly north: number },
) {
  const total = cloud.nodes.reduce((sum, { count }) => sum + count, 0);
  const [x, y, z, time] = [0, 1, 2, 3].map(() => new Float64Array(total)) as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  const strip = new Uint16Array(total);
  const { scale, offset } = cloud.quantisation;
  const corrector = new Corrector(flight.correction, finderOf(flight));
  // Nothing corrected and strips told by their ids: times are of no account, and points are where they are.
  const isPlain =
    cloud.rule.by === 'source' && !flight.trajectory && !flight.needsTimes && isNothing(flight.correction);
  let count = 0;
  for (const node of cloud.nodes) {
    const places = positionsOf(node);
    const { returns, pointSourceId, gpsTime } = attributesOf(cloud, node, !isPlain);
    const strips = stripsOfPoints(cloud.rule, { pointSourceId, gpsTime });
    const [fromX, toX] = [(reach.west - offset[0]) / scale[0], (reach.east - offset[0]) / scale[0]];
    const [fromY, toY] = [(reach.south - offset[1]) / scale[1], (reach.north - offset[1]) / scale[1]];
    for (let i = 0; i < node.count; i++) {
      const s = strips[i]!;
      if (s === NO_STRIP || places.x[i]! < fromX || places.x[i]! > toX || places.y[i]! < fromY || places.y[i]! > toY)
        continue;
      if (singleOnly && returns[i] !== SINGLE) continue;
      if (!takesPart(node, i)) continue;
      if (isPlain) {
        x[count] = places.x[i]! * scale[0] + offset[0];
        y[count] = places.y[i]! * scale[1] + offset[1];
        z[count] = places.z[i]! * scale[2] + offset[2];
        strip[count++] = s;
        continue;
      }
      const t = (gpsTime ? gpsTime[i]! : 0) + flight.timeShift;
      if (
        !corrector.correct(
          places.x[i]! * scale[0] + offset[0],
          places.y[i]! * scale[1] + offset[1],
          places.z[i]! * scale[2] + offset[2],
          t,
          s,
        )
      )
        continue;
      x[count] = corrector.point[0]!;
      y[count] = corrector.point[1]!;
      z[count] = corrector.point[2]!;
      time[count] = t;
      strip[count++] = s;
    }
  }
  return {
    count,
    x: x.subarray(0, count),
    y: y.subarray(0, count),
    z: z.subarray(0, count),
    time: time.subarray(0, count),
    strip: strip.subarray(0, count),
  };
}

export interface PatchTask extends StripCloud, PatchChoice, FlightCorrection {
  readonly frame: PatchFrame;
  /** How far points may have moved into the tile. */
  readonly margin: number;
}

function patchesOf(task: PatchTask): Patches {
  const { frame, margin } = task;
  const reach = {
    west: frame.west - margin,
    south: frame.south - margin,
    east: frame.west + frame.columns * frame.cell + margin,
    north: frame.south + frame.rows * frame.cell + margin,
  };
  return fitPatches(stripPoints(task, task, task, reach), frame);
}

/** How rough the patches of a tile are. */
export function patchRoughness(task: PatchTask): Float64Array {
  return Float64Array.from(patchesOf(task).roughness);
}

/** Corresponding smooth patches of a tile, and their own roughness. */
export function patchPairs(task: PatchTask & { readonly limits: PatchLimits }): {
  readonly pairs: PatchPairs;
  readonly roughness: Float64Array;
} {
  const patches = patchesOf(task);
  const { roughness: rough, slope } = task.limits;
  const smooth: number[] = [];
  for (let k = 0; k < patches.count; k++)
    if (patches.roughness[k]! <= rough && Math.hypot(patches.slopeEast[k]!, patches.slopeNorth[k]!) <= slope)
      smooth.push(patches.roughness[k]!);
  return { pairs: pairPatches(patches, task.limits), roughness: Float64Array.from(smooth) };
}

/** A plane of one strip's points about a surveyed point. */
export interface StripPlane {
  readonly place: number;
  readonly strip: number;
  readonly time: number;
  readonly elevation: number;
  readonly slopeEast: number;
  readonly slopeNorth: number;
  /** Standard deviation of the points off the plane, and of the plane's height. */
  readonly roughness: number;
  readonly sigma: number;
}

/** Points about some places, in columns; places in the order they were given. */
export interface NearPoints {
  readonly place: Uint16Array;
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly z: Float64Array;
  readonly time: Float64Array;
  readonly strip: Uint16Array;
}

/** Points of nodes that lie about some places, after the correction. */
export function stripPointsNear(
  task: StripCloud &
    PatchChoice &
    FlightCorrection & { readonly places: readonly (readonly [number, number])[]; readonly radius: number },
): NearPoints {
  const { places, radius, quantisation, singleOnly } = task;
  const { scale, offset } = quantisation;
  const corrector = new Corrector(task.correction, finderOf(task));
  // Points are looked up by cells as wide as a place's reach; a correction moves them by less than that.
  const wide = 4 * radius;
  const placesIn = new Map<string, number[]>();
  for (const [place, [east, north]] of places.entries())
    for (let c = -1; c <= 1; c++)
      for (let r = -1; r <= 1; r++) {
        const key = `${Math.floor(east / wide) + c} ${Math.floor(north / wide) + r}`;
        placesIn.set(key, [...(placesIn.get(key) ?? []), place]);
      }
  const found: number[] = [];
  for (const node of task.nodes) {
    const at = positionsOf(node);
    const { returns, pointSourceId, gpsTime } = attributesOf(task, node);
    const strips = stripsOfPoints(task.rule, { pointSourceId, gpsTime });
    let [lastColumn, lastRow, here] = [NaN, NaN, undefined as number[] | undefined];
    for (let i = 0; i < node.count; i++) {
      const [px, py] = [at.x[i]! * scale[0] + offset[0], at.y[i]! * scale[1] + offset[1]];
      const [column, row] = [Math.floor(px / wide), Math.floor(py / wide)];
      if (column !== lastColumn || row !== lastRow) {
        [lastColumn, lastRow] = [column, row];
        here = placesIn.get(`${column} ${row}`);
      }
      if (!here || strips[i] === NO_STRIP || (singleOnly && returns[i] !== SINGLE)) continue;
      if (!takesPart(node, i)) continue;
      const time = (gpsTime ? gpsTime[i]! : 0) + task.timeShift;
      if (!corrector.correct(px, py, at.z[i]! * scale[2] + offset[2], time, strips[i]!)) continue;
      const [x, y, z] = corrector.point as unknown as [number, number, number];
      for (const place of here) {
        const [east, north] = places[place]!;
        if (Math.abs(x - east) <= radius && Math.abs(y - north) <= radius) found.push(place, x, y, z, time, strips[i]!);
      }
    }
  }
  const count = found.length / 6;
  const column = <T extends Float64Array | Uint16Array>(out: T, k: number): T => {
    for (let i = 0; i < count; i++) out[i] = found[6 * i + k]!;
    return out;
  };
  return {
    place: column(new Uint16Array(count), 0),
    x: column(new Float64Array(count), 1),
    y: column(new Float64Array(count), 2),
    z: column(new Float64Array(count), 3),
    time: column(new Float64Array(count), 4),
    strip: column(new Uint16Array(count), 5),
  };
}

/** Planes of each strip about the places, of all the points that were found about each. */
export function planesAtPlaces({
  parts,
  places,
  radius,
}: {
  readonly parts: readonly NearPoints[];
  readonly places: readonly (readonly [number, number])[];
  readonly radius: number;
}): StripPlane[] {
  return places.flatMap(([east, north], place) => {
    const own = parts.map((part) => ({ part, at: [...part.place.keys()].filter((i) => part.place[i] === place) }));
    const total = own.reduce((sum, { at }) => sum + at.length, 0);
    const column = <T extends Float64Array | Uint16Array>(name: 'x' | 'y' | 'z' | 'time' | 'strip', out: T): T => {
      let k = 0;
      for (const { part, at } of own) for (const i of at) out[k++] = part[name][i]!;
      return out;
    };
    const p = fitPatches(
      {
        count: total,
        x: column('x', new Float64Array(total)),
        y: column('y', new Float64Array(total)),
        z: column('z', new Float64Array(total)),
        time: column('time', new Float64Array(total)),
        strip: column('strip', new Uint16Array(total)),
      },
      { west: east - radius, south: north - radius, cell: 2 * radius, columns: 1, rows: 1 },
    );
    return Array.from({ length: p.count }, (_, k) => {
      const [dx, dy] = [east - p.x[k]!, north - p.y[k]!];
      return {
        place,
        strip: p.strip[k]!,
        time: p.time[k]!,
        elevation: p.z[k]! + p.slopeEast[k]! * dx + p.slopeNorth[k]! * dy,
        slopeEast: p.slopeEast[k]!,
        slopeNorth: p.slopeNorth[k]!,
        roughness: p.roughness[k]!,
        sigma: Math.max(p.roughness[k]! / Math.sqrt(p.points[k]!), 1e-4),
      };
    });
  });
}

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

/** First and last time of each point source ID, or of each busy second where strips are told by gaps; and points of each. */
export function timesOfNodes(cloud: Omit<StripCloud, 'rule'>): {
  readonly bySource: readonly {
    readonly id: number;
    readonly points: number;
    readonly from: number;
    readonly to: number;
  }[];
  readonly seconds: readonly {
    readonly second: number;
    readonly points: number;
    readonly from: number;
    readonly to: number;
  }[];
} {
  const bySource = new Map<number, { id: number; points: number; from: number; to: number }>();
  const seconds = new Map<number, { second: number; points: number; from: number; to: number }>();
  for (const node of cloud.nodes) {
    const { pointSourceId, gpsTime } = attributesOf({ ...cloud, rule: { by: 'source', ids: [], strip: [] } }, node);
    for (let i = 0; i < node.count; i++) {
      const time = gpsTime ? gpsTime[i]! : 0;
      const id = pointSourceId[i]!;
      const source = bySource.get(id);
      if (source) {
        source.points++;
        if (time < source.from) source.from = time;
        if (time > source.to) source.to = time;
      } else bySource.set(id, { id, points: 1, from: time, to: time });
      if (!gpsTime) continue;
      const second = Math.floor(time * 4);
      const busy = seconds.get(second);
      if (busy) {
        busy.points++;
        if (time < busy.from) busy.from = time;
        if (time > busy.to) busy.to = time;
      } else seconds.set(second, { second, points: 1, from: time, to: time });
    }
  }
  return { bySource: [...bySource.values()], seconds: [...seconds.values()] };
}

/** Points of a tile that are not of the strip kept in their cell, by node. */
export function overlapOfTile(
  task: StripCloud & {
    readonly frame: PatchFrame;
    readonly keep: 'nadir' | 'densest';
    /** Cells at each edge that belong to the tiles beside. */
    readonly border: number;
  },
): readonly { readonly nodeId: number; readonly overlap: Uint32Array; readonly kept: Uint32Array }[] {
  const { frame, border } = task;
  const { scale, offset } = task.quantisation;
  const parts = task.nodes.map((node) => {
    const places = positionsOf(node);
    const { scanAngle, pointSourceId, gpsTime } = attributesOf(task, node);
    return {
      nodeId: node.nodeId,
      x: columnFrom(Float64Array, places.x, (v) => v * scale[0] + offset[0]),
      y: columnFrom(Float64Array, places.y, (v) => v * scale[1] + offset[1]),
      strip: stripsOfPoints(task.rule, { pointSourceId, gpsTime }),
      angle: columnFrom(Float64Array, scanAngle, (v) => Math.abs(v) * SCAN_ANGLE_STEP),
    };
  });
  const join = <T extends Float64Array | Uint16Array>(pick: (part: (typeof parts)[number]) => T, out: T): T => {
    let at = 0;
    for (const part of parts) {
      out.set(pick(part), at);
      at += pick(part).length;
    }
    return out;
  };
  const total = parts.reduce((sum, { x }) => sum + x.length, 0);
  const kept = keptStrips(
    {
      x: join(({ x }) => x, new Float64Array(total)),
      y: join(({ y }) => y, new Float64Array(total)),
      strip: join(({ strip }) => strip, new Uint16Array(total)),
      angle: join(({ angle }) => angle, new Float64Array(total)),
    },
    frame,
    task.keep,
  );
  const isOwn = (cell: number): boolean => {
    const [column, row] = [cell % frame.columns, Math.floor(cell / frame.columns)];
    return column >= border && row >= border && column < frame.columns - border && row < frame.rows - border;
  };
  return parts.map((part) => {
    const cells = cellsOf(part, frame);
    const [overlap, stays]: [number[], number[]] = [[], []];
    for (let i = 0; i < cells.length; i++) {
      const cell = cells[i]!;
      if (cell < 0 || part.strip[i] === NO_STRIP || !isOwn(cell)) continue;
      (part.strip[i] === kept[cell] ? stays : overlap).push(i);
    }
    return { nodeId: part.nodeId, overlap: Uint32Array.from(overlap), kept: Uint32Array.from(stays) };
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
