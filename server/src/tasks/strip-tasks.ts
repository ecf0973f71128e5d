import { columnFrom } from '@pampero/core/columns';
import { SCAN_ANGLE_STEP } from '@pampero/core/cloud';
import {
  cellsOf,
  Corrector,
  fitPatches,
  keptStrips,
  NO_STRIP,
  pairPatches,
  stripsOfPoints,
  type PatchFrame,
  type PatchLimits,
  type PatchPairs,
  type Patches,
} from '@pampero/core/strips';
import { positionsOf } from './node-columns.js';
import {
  attributesOf,
  finderOf,
  SINGLE,
  stripPoints,
  takesPart,
  type FlightCorrection,
  type PatchChoice,
  type StripCloud,
} from './strip-points.js';

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
