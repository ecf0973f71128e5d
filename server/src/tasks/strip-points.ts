import { columnFrom } from '@pampero/core/columns';
import {
  NOISE_CLASSES,
  PointFlag,
  unpackColumns,
  type ColumnName,
  type PointColumns,
  type Quantisation,
} from '@pampero/core/cloud';
import {
  Corrector,
  NO_STRIP,
  PoseFinder,
  stripsOfPoints,
  type Correction,
  type StripRule,
  type Trajectory,
} from '@pampero/core/strips';
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

export function finderOf({ trajectory }: FlightCorrection): PoseFinder | undefined {
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

export function attributesOf(cloud: StripCloud, node: NodeColumns, withTimes = true): AttributeColumns {
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
export const SINGLE = 0x11;

/** Noise, water and what is withheld take no part. */
export function takesPart({ classification, flags }: NodeColumns, i: number): boolean {
  return isNoise[classification[i]!] === 0 && (flags[i]! & PointFlag.withheld) === 0;
}

function isNothing({ strips }: Correction): boolean {
  return strips.every(({ shift, drift }) => [...shift, ...drift].every((value) => value === 0));
}

/** The points of a tile with their strips and times, where they are after the correction. */
export function stripPoints(
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
